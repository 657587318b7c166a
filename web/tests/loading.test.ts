import { beforeEach, describe, expect, it } from "vitest";
import { chosenReading, useDisplay } from "../src/display/display";
import { applied, loadsThere, stretchesOn } from "../src/kinds/applying";
import { moved, relabelled, turn } from "../src/kinds/edits";
import { propertiesOfKind } from "../src/kinds/properties";
import { layersOf, layersText, parsed } from "../src/model/cells";
import type { FloorDocument, Labelled, Load } from "../src/model/floor";
import { loadsAlong, loadText, weightOf, worthOf } from "../src/model/loads";
import { withValue } from "../src/model/property";
import type { Catalogue } from "../src/readings/readings";
import { digitsOf, resultOf, toldUnit } from "../src/units/results";

const square = (x: number, y: number, a: number) => [
  [x, y],
  [x + a, y],
  [x + a, y + a],
  [x, y + a],
];
let floor: FloorDocument;
beforeEach(() => {
  floor = {
    name: "F",
    standard: "EN 1992-1-1",
    concretes: [],
    rebars: [],
    slabs: [
      { id: "S1", outline: square(0, 0, 6), thickness_m: 0.25 },
      { id: "S2", outline: square(6, 0, 6), thickness_m: 0.25 },
    ],
    columns: [{ id: "C1", at: [0, 0], shape: { kind: "circle", diameter_m: 0.4 } }],
    load_materials: [
      { id: "screed", unit_weight_kN_m3: 22 },
      { id: "wet soil", unit_weight_kN_m3: 20 },
    ],
    build_ups: [{ id: "floor", layers: [{ material: "screed", thickness_mm: 50 }], extra_kPa: 0.1 }],
    partitions: [{ id: "wall", build_up: "floor", height_m: 3 }],
    occupancies: [{ id: "office", q_kPa: 3, partitions_kPa: 0.8 }],
    load_cases: [
      { id: "D", nature: "dead" },
      { id: "Q", nature: "live" },
    ],
    loads: [
      { id: "everywhere", case: "D", kind: "area", q_kPa: 1 },
      { id: "one", case: "D", kind: "area", slabs: ["S1"], q_kPa: 2 },
      { id: "both", case: "D", kind: "area", slabs: ["S1", "S2"], q_kPa: 3 },
      { id: "drawn", case: "D", kind: "area", outline: square(1, 1, 2), q_kPa: 4 },
      {
        id: "edge",
        case: "D",
        kind: "line",
        line: [
          [0, 0],
          [6, 0],
        ],
        q_kN_m: [5, 5],
      },
    ],
  } as never;
});
const S1 = [{ kind: "slabs" as const, id: "S1" }];

it("a load from elsewhere becomes one of its own where its value is typed", () => {
  const area = { id: "L", kind: "area", case: "Q", occupancy: "office", slabs: ["S1"] } as unknown as Labelled;
  expect(withValue(area, "q_kPa", 2.5)).toEqual({ id: "L", kind: "area", case: "Q", slabs: ["S1"], q_kPa: 2.5 });
  const line = { id: "L", kind: "line", case: "D", partition: "wall", line: [] } as unknown as Labelled;
  expect(withValue(line, "q_kN_m.1", 3)).toEqual({ id: "L", kind: "line", case: "D", line: [], q_kN_m: [3, 3] });
  expect(withValue({ ...line, partition: undefined, q_kN_m: [1, 2] }, "q_kN_m.1", 3).q_kN_m).toEqual([1, 3]);
});

it("loads of other cases on the same place go along when one is moved, and no others", () => {
  const on = (id: string, more: object) => ({ id, kind: "area", q_kPa: 1, ...more }) as unknown;
  const loads = [
    on("L1", { case: "D", outline: square(0, 0, 2) }),
    on("L2", { case: "Q", outline: square(0, 0, 2) }),
    on("L3", { case: "Q", outline: square(1, 0, 2) }),
    on("L4", { case: "Q" }),
    on("P1", { kind: "point", case: "D", at: [1, 1] }),
    on("P2", { kind: "point", case: "Q", at: [1, 1] }),
  ];
  const loaded = { ...floor, loads } as unknown as FloorDocument;
  const along = (...ids: string[]) =>
    loadsAlong(
      loaded,
      ids.map((id) => ({ kind: "loads", id })),
    ).map((r) => r.id);
  expect(along("L1")).toEqual(["L2"]);
  expect(along("L1", "L2")).toEqual([]);
  expect(along("P2")).toEqual(["P1"]);
  expect(along("L4")).toEqual([]);
  expect(loadsAlong(loaded, [{ kind: "slabs", id: "L1" }])).toEqual([]);
});

describe("putting loads on a selection", () => {
  it("tells what is there, and what replacing would take away", () => {
    const there = loadsThere(floor, S1, "D", "area").map((t) => [t.load.id, t.goes]);
    expect(there).toEqual([
      ["everywhere", false],
      ["one", true],
      ["both", false],
      ["drawn", true],
    ]);
    expect(loadsThere(floor, S1, "Q", "area").map((t) => t.load.id)).toEqual(["everywhere"].slice(1));
    expect(loadsThere(floor, S1, "D", "line").map((t) => t.load.id)).toEqual(["edge"]);
  });
  it("adds, or replaces only what lies there wholly", () => {
    const more = applied(floor, S1, "area", "D", { q_kPa: 9 }, false).document.loads ?? [];
    expect(more.length).toBe(6);
    const instead = applied(floor, S1, "area", "D", { occupancy: "office" }, true).document.loads ?? [];
    expect(instead.map((l) => l.id).slice(0, 3)).toEqual(["everywhere", "both", "edge"]);
    expect(instead[3]).toMatchObject({ kind: "area", slabs: ["S1"], occupancy: "office" });
  });
  it("puts a line load on each edge, and a force on each joint", () => {
    const edges = applied(floor, S1, "line", "Q", { q_kN_m: [1, 1] }, false);
    expect(edges.refs.length).toBe(4);
    const joint = applied(floor, [{ kind: "columns", id: "C1" }], "joint", "Q", { F_kN: 3 }, false);
    expect(joint.document.loads?.at(-1)).toMatchObject({ kind: "joint", support: "C1", F_kN: 3 });
  });
  it("keeps of a line what runs over slabs", () => {
    const shapes = [square(0, 0, 6), square(8, 0, 2)] as [number, number][][];
    expect(
      stretchesOn(
        [
          [-2, 3],
          [12, 3],
        ],
        shapes as never,
      ),
    ).toEqual([
      [
        [0, 3],
        [6, 3],
      ],
    ]);
    expect(
      stretchesOn(
        [
          [-2, 1],
          [12, 1],
        ],
        shapes as never,
      ),
    ).toEqual([
      [
        [0, 1],
        [6, 1],
      ],
      [
        [8, 1],
        [10, 1],
      ],
    ]);
    expect(
      stretchesOn(
        [
          [-2, 9],
          [12, 9],
        ],
        shapes as never,
      ),
    ).toEqual([]);
  });
});

describe("what loads are worth", () => {
  it("takes values from build-ups, occupancies and partitions", () => {
    const [build] = floor.build_ups ?? [];
    expect(build && weightOf(build, floor)).toBeCloseTo(1.2, 12);
    const load = (more: object) => ({ id: "x", case: "D", kind: "area", ...more }) as Load;
    expect(worthOf(load({ build_up: "floor" }), floor)).toBeCloseTo(1.2, 12);
    expect(worthOf(load({ occupancy: "office" }), floor)).toBeCloseTo(3.8, 12);
    expect(loadText(load({ kind: "line", line: [], partition: "wall" }), floor, "SI")).toBe("3.60 kN/m");
    expect(loadText(load({ q_kPa: 2.394013 }), floor, "US")).toBe("50.0 psf");
    const varies = {
      kind: "direction",
      line: [
        [0, 0],
        [1, 0],
      ],
      q_kPa: [1, 4],
    };
    expect(loadText(load({ varies }), floor, "SI")).toBe("1.00 to 4.00 kPa");
  });
  it("reads a source typed into its cell, and tells what is none", () => {
    const worth = propertiesOfKind("loads").find((p) => p.path === "worth");
    if (!worth) throw new Error("no such property");
    const item = floor.loads?.[0] as Labelled;
    const read = (text: string) => parsed(worth, text, floor, "SI", item);
    const office = read("Office");
    expect(office).toEqual({ value: { key: "occupancy", value: "office" } });
    if ("value" in office)
      expect(withValue(item, "worth", office.value)).toEqual({
        id: "everywhere",
        case: "D",
        kind: "area",
        occupancy: "office",
      });
    expect(read("attic")).toHaveProperty("problem");
    expect(parsed(worth, "wall", floor, "SI", floor.loads?.[4])).toEqual({
      value: { key: "partition", value: "wall" },
    });
  });
  it("reads layers as they are written", () => {
    const layers = [
      { material: "screed", thickness_mm: 50 },
      { material: "wet soil", thickness_mm: 250 },
    ];
    expect(layersOf("screed 50; Wet soil 25cm", floor, "SI")).toEqual(layers);
    expect(layersOf(layersText(layers, "SI"), floor, "SI")).toEqual(layers);
    expect(layersOf('screed 2"', floor, "US")).toEqual([{ material: "screed", thickness_mm: 50.8 }]);
    expect(layersOf("mortar 20", floor, "SI")).toContain("none of the materials");
    expect(layersOf("screed", floor, "SI")).toContain("no layer");
  });
  it("turns a load's plane and patch with it, and follows new labels", () => {
    const varies = {
      kind: "direction",
      line: [
        [0, 0],
        [2, 0],
      ],
      q_kPa: [1, 4],
    };
    const load = { id: "x", at: [1, 0], patch: { b_m: 0.4, d_m: 0.2 }, varies } as never as Labelled;
    const after = moved(load, turn([0, 0], Math.PI / 2)) as never as {
      varies: { line: number[][] };
      patch: { angle_deg: number };
    };
    expect(after.varies.line[1]?.[1]).toBeCloseTo(2, 12);
    expect(after.patch.angle_deg).toBeCloseTo(90, 9);
    const renamed = relabelled(floor, { kind: "slabs", id: "S1" }, "North");
    expect((renamed.loads?.find((l) => l.id === "both") as { slabs?: string[] } | undefined)?.slabs).toEqual([
      "North",
      "S2",
    ]);
  });
});

describe("results in the project's units", () => {
  it("tells forces, moments and deflections as US practice does", () => {
    expect(resultOf(100, "kN", "US")).toBe("22.48 kip");
    expect(resultOf(1.3558179483, "kNm", "US")).toBe("1.00 kip-ft");
    expect(resultOf(4.4482216, "kNm/m", "US")).toBe("1.00 kip-ft/ft");
    expect(resultOf(25.4, "mm", "US")).toBe("1.000 in");
    expect(resultOf(6.894757, "stress", "US")).toBe("1.0 psi");
    expect(resultOf(2116.667, "mm²/m", "US")).toBe("1.000 in²/ft");
    expect(resultOf(100, "kN", "SI")).toBe("100.0 kN");
    expect(digitsOf(toldUnit("kNm/m", "US").unit)).toBe(2);
  });
});

describe("what is read where nothing is chosen", () => {
  const catalogue = {
    quantities: [
      { key: "mx", senses: ["least", "greatest"] },
      { key: "m2", senses: ["least"] },
    ],
    selections: [
      { of: "G", kind: "case", limit_state: null, pattern: false },
      { of: "U1", kind: "combination", limit_state: "ultimate", pattern: false },
      { of: "U2", kind: "combination", limit_state: "ultimate", pattern: true },
    ],
    arrangements: [],
    bedded: false,
  } as never as Catalogue;
  it("prefers an ultimate combination with pattern load and its greatest values", () => {
    const display = { ...useDisplay.getState(), quantity: "mx", of: null, kind: null };
    expect(chosenReading(catalogue, display)).toEqual({ of: "U2", kind: "greatest" });
    expect(chosenReading(catalogue, { ...display, quantity: "m2" })).toEqual({ of: "U2", kind: "least" });
    expect(chosenReading(catalogue, { ...display, of: "G", kind: "greatest" })).toEqual({ of: "G", kind: "all" });
    expect(chosenReading(null, display)).toBeNull();
  });
  it("lets go of limits when another field is shown", () => {
    useDisplay.getState().show({ quantity: "mx", limits: { from: 0, to: 5 } });
    useDisplay.getState().show({ labels: true });
    expect(useDisplay.getState().limits).toEqual({ from: 0, to: 5 });
    useDisplay.getState().show({ quantity: "my" });
    expect(useDisplay.getState().limits).toBeNull();
  });
});
