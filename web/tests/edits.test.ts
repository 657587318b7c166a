import { describe, expect, it } from "vitest";
import { nameOf } from "../src/kinds";
import {
  added,
  align,
  alike,
  copied,
  mapped,
  mirror,
  moved,
  movedPoint,
  relabelled,
  removed,
  shift,
  turn,
} from "../src/kinds/edits";
import { propertiesOfKind } from "../src/kinds/properties";
import { blockOf, blockText, refusedCells } from "../src/ledger/block";
import { cellText, parsed } from "../src/model/cells";
import { type FloorDocument, itemOf, type Kind, type Labelled, type Vertex } from "../src/model/floor";
import { areaOf, isInside, type Point } from "../src/model/outlines";
import { labelsFrom, spacingsOf, spacingsText } from "../src/model/project";
import { type Property, withValue } from "../src/model/property";

const column = (id: string, x: number, y: number, angle_deg = 0) => ({
  id,
  at: [x, y],
  shape: { kind: "rectangle" as const, b_m: 0.6, d_m: 0.3 },
  angle_deg,
  concrete: "C30",
  below: { height_m: 3, far_end: "fixed" },
});
const floor = (): FloorDocument =>
  ({
    name: "F",
    standard: "EN 1992-1-1",
    concretes: [{ id: "C30", strength_MPa: 30 }],
    rebars: [{ id: "B500" }],
    slabs: [
      {
        id: "S1",
        outline: [
          [0, 0],
          [4, 0, 0.5],
          [4, 3],
          [0, 3],
        ],
        thickness_m: 0.25,
        concrete: "C30",
        rebar: "B500",
        bar_angle_deg: 10,
      },
    ],
    columns: [column("C1", 1, 1, 20), column("C2", 3, 1, 20), column("C7", 3, 2, 0)],
    walls: [
      {
        id: "W1",
        line: [
          [0, 0],
          [0, 3],
        ],
        thickness_m: 0.2,
        concrete: "C30",
      },
    ],
    loads: [{ id: "L1", case: "Q", kind: "point", at: [2, 2], F_kN: 5, Mx_kNm: 3, My_kNm: 1 }],
    load_cases: [{ id: "Q", nature: "live" }],
    combinations: [{ id: "U", limit_state: "ultimate", factors: { Q: 1.5 } }],
  }) as never;

describe("motions", () => {
  it("turn points about a centre", () => {
    expect(movedPoint([2, 1], turn([1, 1], Math.PI / 2))).toEqual([expect.closeTo(1, 12), expect.closeTo(2, 12)]);
  });
  it("mirror twice to where they were, and once to the other side of the axis", () => {
    const m = mirror([1, 0], [3, 1]);
    for (const p of [
      [0, 0],
      [5, -2],
      [1, 7],
    ] as Point[]) {
      const once = movedPoint(p, m);
      const twice = movedPoint(once, m);
      expect(twice).toEqual(p.map((v) => expect.closeTo(v, 9)));
      const middle = [(p[0] + once[0]) / 2 - 1, (p[1] + once[1]) / 2];
      // The middle between a point and its image lies on the axis through (1, 0) along (2, 1).
      expect((middle[0] as number) * 1 - (middle[1] as number) * 2).toBeCloseTo(0, 9);
    }
  });
  it("align brings a point onto a point and a direction onto a direction", () => {
    const m = align([0, 0], [5, 5], [1, 0], [5, 9]);
    expect(movedPoint([0, 0], m)).toEqual([expect.closeTo(5, 12), expect.closeTo(5, 12)]);
    expect(movedPoint([1, 0], m)).toEqual([expect.closeTo(5, 12), expect.closeTo(6, 12)]);
  });
  it("carry directions, arcs and moments along", () => {
    const document = floor();
    const quarter = turn([0, 0], Math.PI / 2);
    expect(moved(column("C", 1, 0, 20), quarter).angle_deg).toBeCloseTo(110, 9);
    const load = moved(document.loads?.[0] as never, quarter) as unknown as { Mx_kNm: number; My_kNm: number };
    expect([load.Mx_kNm, load.My_kNm]).toEqual([expect.closeTo(-1, 9), expect.closeTo(3, 9)]);
    const slab = document.slabs[0] as (typeof document.slabs)[0];
    const image = moved(slab, mirror([0, 0], [0, 1]));
    expect(areaOf(image.outline as Vertex[])).toBeCloseTo(areaOf(slab.outline), 6);
    // The bulge on the right-hand side is on the left-hand side now.
    expect(isInside([4.5, 1.5], slab.outline)).toBe(true);
    expect(isInside([-4.5, 1.5], image.outline as Vertex[])).toBe(true);
    expect(image.bar_angle_deg).toBeCloseTo(170, 9);
    // Mirrored in the axis along y, what turns about x goes on turning about x; about y it turns the other way.
    const flipped = moved(document.loads?.[0] as never, mirror([0, 0], [0, 1])) as unknown as {
      Mx_kNm: number;
      My_kNm: number;
    };
    expect([flipped.Mx_kNm, flipped.My_kNm]).toEqual([expect.closeTo(3, 9), expect.closeTo(-1, 9)]);
  });
});

describe("labels", () => {
  it("are the next free number, shared by what holds the floor up", () => {
    const document = { ...floor(), supports: [{ id: "C3", kind: "point" as const, at: [0, 0] }] };
    const { document: after, refs } = added(document, "columns", [{ at: [0, 0] }, { at: [1, 0] }]);
    expect(refs.map((r) => r.id)).toEqual(["C4", "C5"]);
    expect(after.columns).toHaveLength(5);
    expect(document.columns).toHaveLength(3);
  });
  it("change with everything that names them", () => {
    const after = relabelled(floor(), { kind: "load_cases", id: "Q" }, "Live");
    expect(after.loads?.[0]?.case).toBe("Live");
    expect(after.combinations?.[0]?.factors).toEqual({ Live: 1.5 });
    expect(relabelled(floor(), { kind: "concretes", id: "C30" }, "C35").slabs[0]?.concrete).toBe("C35");
  });
  it("of what presses on the floor take the settings of their zones with them", () => {
    const document = { ...floor(), zone_settings: [{ zone: "C1" }, { zone: "W1", beta: "simplified" as const }] };
    expect(relabelled(document, { kind: "columns", id: "C1" }, "A1").zone_settings?.map((s) => s.zone)).toEqual([
      "A1",
      "W1",
    ]);
    expect(removed(document, [{ kind: "columns", id: "C1" }]).zone_settings).toEqual([
      { zone: "W1", beta: "simplified" },
    ]);
    expect(relabelled(document, { kind: "slabs", id: "S1" }, "S9").zone_settings).toEqual(document.zone_settings);
  });
  it("are told together", () => {
    expect(nameOf([{ kind: "columns", id: "C1" }])).toBe("Column C1");
    expect(
      nameOf([
        { kind: "columns", id: "C1" },
        { kind: "columns", id: "C2" },
        { kind: "walls", id: "W1" },
      ]),
    ).toBe("2 columns, 1 wall");
  });
});

describe("objects", () => {
  it("are copied under motions, deleted and changed without touching the others", () => {
    const before = floor();
    const refs = [
      { kind: "columns" as const, id: "C1" },
      { kind: "walls" as const, id: "W1" },
    ];
    const { document, refs: made } = copied(before, refs, [shift(1, 0), shift(2, 0)]);
    expect(made.map((r) => r.id)).toEqual(["C3", "W2", "C4", "W3"]);
    expect(itemOf(document, { kind: "columns", id: "C4" })?.at).toEqual([3, 1]);
    expect(removed(document, made)).toEqual(before);
    expect(mapped(before, [refs[0] as never], (i) => ({ ...i, angle_deg: 0 })).columns?.[1]).toBe(before.columns?.[1]);
  });
  it("are alike in all but place and label", () => {
    expect(alike(floor(), { kind: "columns", id: "C1" }).map((r) => r.id)).toEqual(["C1", "C2"]);
  });
});

describe("cells", () => {
  const property = (kind: Kind, path: string) => propertiesOfKind(kind).find((p) => p.path === path) as Property;
  it("read what they show", () => {
    const document = floor();
    for (const system of ["SI", "US"] as const)
      for (const kind of ["slabs", "columns", "walls"] as const)
        for (const item of (document[kind] ?? []) as Labelled[])
          for (const p of propertiesOfKind(kind)) {
            if (p.when && !p.when(item)) continue;
            const text = cellText(p, item, system);
            if (!text) continue;
            const result = parsed(p, text, document, system);
            expect(result, `${kind} ${p.path} ${text}`).toHaveProperty("value");
            const again = cellText(p, withValue(item, p.path, (result as { value: unknown }).value), system);
            expect(again, `${kind} ${p.path}`).toBe(text);
          }
  });
  it("say what is wrong", () => {
    const document = floor();
    expect(parsed(property("slabs", "concrete"), "C99", document, "SI")).toEqual({ problem: "“C99” is none of C30" });
    expect(parsed(property("slabs", "priority"), "1.5", document, "SI")).toHaveProperty("problem");
    expect(parsed(property("slabs", "thickness_m"), "", document, "SI")).toEqual({
      problem: "Thickness cannot be empty",
    });
    expect(parsed(property("walls", "top"), "HINGED", document, "SI")).toEqual({ value: "hinged" });
    expect(parsed(property("supports", "vertical"), "5000", document, "SI")).toEqual({ value: 5000 });
    expect(parsed(property("supports", "vertical"), "soft", document, "SI")).toHaveProperty("problem");
  });
  it("make and take away a storey, and change a section whole", () => {
    const c = column("C", 0, 0);
    expect(withValue(c, "below.height_m", undefined).below).toBeNull();
    expect(withValue({ ...c, above: null }, "above.height_m", 3.4).above).toEqual({ height_m: 3.4, far_end: "fixed" });
    expect(withValue(c, "shape.kind", "circle").shape).toEqual({ kind: "circle", diameter_m: 0.6 });
    expect(c.below).toEqual({ height_m: 3, far_end: "fixed" });
  });
});

describe("grids", () => {
  it("read spacings with repeats", () => {
    expect(spacingsOf("3@7.2, 6.6", "SI")).toEqual([7.2, 7.2, 7.2, 6.6]);
    expect(spacingsOf("2@24', 20'-6\"", "US")).toEqual([7.3152, 7.3152, expect.closeTo(6.2484, 9)]);
    for (const text of ["x", "0", "-3", "3@", "1.5@2"]) expect(spacingsOf(text, "SI"), text).toBeNull();
    expect(spacingsText([7.2, 7.2, 7.2, 6.6], "SI")).toBe("3@7.200, 6.600");
    expect(spacingsOf(spacingsText([6, 6, 7.5, 6], "US"), "US")?.map((v) => Number(v.toFixed(2)))).toEqual([
      6, 6, 7.5, 6,
    ]);
  });
  it("count labels on", () => {
    expect(labelsFrom("Y", 4)).toEqual(["Y", "Z", "AA", "AB"]);
    expect(labelsFrom("9", 3)).toEqual(["9", "10", "11"]);
    expect(labelsFrom("G7", 2)).toEqual(["G7", "G8"]);
  });
});

describe("blocks of a spreadsheet", () => {
  it("come in with either line end, and go out as they came", () => {
    expect(blockOf("1\t2\r\n3\t4\r\n")).toEqual([
      ["1", "2"],
      ["3", "4"],
    ]);
    const document = floor();
    const properties = propertiesOfKind("columns").filter((p) => ["id", "at.0", "shape.b_m"].includes(p.path));
    expect(blockText(document.columns ?? [], properties, "SI")).toBe("C1\t1.000\t600\nC2\t3.000\t600\nC7\t3.000\t600");
  });
  it("have their refusals told in the cell", () => {
    const told = refusedCells([{ path: "columns[1].at[0]", sentence: "must be a number" }], "columns");
    expect(told).toEqual([{ row: 1, path: "at.0", sentence: "must be a number" }]);
    expect(refusedCells([{ path: "walls[0].line", sentence: "" }], "columns")).toEqual([]);
  });
});
