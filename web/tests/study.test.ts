import { describe, expect, it } from "vitest";
import {
  best,
  countOf,
  type Found,
  fieldOf,
  inProject,
  METRICS,
  metricsOf,
  numbersOf,
  type Study,
  studyTable,
  toldOf,
  valuesOf,
} from "../src/building/study";

const found = (more: Partial<Found>): Found =>
  ({ floor: "One", values: {}, verdict: "pass", told: "", utilisation: {}, strands_kg: 0, ...more }) as Found;

const study = (variants: (Found | null)[], floors = [1]): Study =>
  ({
    id: 1,
    name: "S",
    stopped: false,
    how: "grid",
    history: false,
    behind: [],
    vary: [{ path: "slabs[*].thickness_m", values: [0.2, 0.3] }],
    variants: variants.map((f, k) => ({
      number: k + 1,
      floor: floors[k % floors.length],
      floor_name: `Floor ${floors[k % floors.length]}`,
      revision: 1,
      values: { "slabs[*].thickness_m": 0.2 },
      found: f,
    })),
  }) as unknown as Study;

describe("a field that varies", () => {
  it("is called by its object and what it is, and measured as that", () => {
    expect(fieldOf("slabs[*].thickness_m")).toMatchObject({ name: "Thickness, all slabs", quantity: "size" });
    expect(fieldOf("columns[C1].shape.b_m").name).toMatch(/, column C1$/);
    expect(fieldOf("mesh.size_m")).toMatchObject({ name: "Mesh size", quantity: "length" });
    expect(fieldOf("a.b[0].c")).toEqual({ path: "a.b[0].c", name: "a.b[0].c", quantity: "none" });
  });
  it("can be any number of an object or of the floor", () => {
    expect(numbersOf("slabs").map((n) => n.path)).toContain("cover_top_mm");
    expect(numbersOf("slabs").map((n) => n.path)).not.toContain("outline");
    expect(numbersOf("floor").map((n) => n.path)).toContain("carbon.concrete_kg_m3");
  });
});

describe("typed values", () => {
  it("are figures in the units of the project and runs of them", () => {
    expect(valuesOf("200, 240; 0.3 m", "size", "SI").values).toEqual([0.2, 0.24, 0.3]);
    expect(valuesOf("200 to 300 by 25", "size", "SI").values).toEqual([0.2, 0.225, 0.25, 0.275, 0.3]);
    expect(valuesOf("1 to 2 by 0.3, 5", "none", "SI").values).toEqual([1, 1.3, 1.6, 1.9, 5]);
    expect(valuesOf("10", "size", "US").values[0]).toBeCloseTo(0.254, 9);
    expect(valuesOf(" ", "size", "SI")).toEqual({ values: [], problem: "" });
  });
  it("that are none say so", () => {
    expect(valuesOf("200, thick", "size", "SI").problem).toContain("“thick”");
    expect(valuesOf("300 to 200 by 20", "size", "SI").problem).toContain("does not rise");
    expect(valuesOf("200 to 300 by 0", "size", "SI").problem).toContain("does not rise");
    expect(valuesOf("0 to 9999 by 1", "none", "SI").problem).toContain("10000 values");
  });
  it("make so many variants", () => {
    expect(countOf([8, 5], "grid", 2)).toBe(80);
    expect(countOf([8, 5], "one_at_a_time", 1)).toBe(14);
    expect(countOf([8, 5], "list", 1)).toBe(0);
    expect(countOf([5, 5], "list", 3)).toBe(15);
    expect(countOf([5, 0], "grid", 1)).toBe(0);
  });
});

describe("variants", () => {
  const [carbon, worst] = METRICS as [(typeof METRICS)[number], (typeof METRICS)[number]];
  const of = (c: number, u: number, verdict = "pass") =>
    found({ carbon_kg: c, utilisation: { flexure: u, shear: 0.1 }, verdict: verdict as Found["verdict"] });
  it("are best where no other one that passes beats them in both", () => {
    const all = study([of(10, 0.9), of(12, 0.8), of(12, 0.95), of(8, 0.5, "fail"), of(12, 0.8), null, of(9, 0.99)]);
    expect([...best(all, carbon, worst)].sort()).toEqual([1, 2, 5, 7]);
    expect([...best(study([of(1, 1.2, "fail")]), carbon, worst)]).toEqual([]);
  });
  it("are judged by all checks that any of them has, and by strands where there are some", () => {
    const keys = metricsOf(study([of(1, 1), null])).map((m) => m.key);
    expect(keys).toContain("check shear");
    expect(keys).not.toContain("strands");
    expect(metricsOf(study([found({ strands_kg: 3 })])).map((m) => m.key)).toContain("strands");
    expect(inProject(1, METRICS[4] as (typeof METRICS)[number], "US")).toBeCloseTo(1.30795, 5);
  });
  it("stand in a table with what varies in the units of the project; floors where there are several", () => {
    const picked: number[] = [];
    const all = study([of(10, 1.1, "fail"), null], [1, 2]);
    const table = studyTable(all, "SI", new Set([1]), (v) => picked.push(v.number));
    expect(table.columns.slice(0, 4).map((c) => [c.name, c.unit])).toEqual([
      ["No.", undefined],
      ["Floor", undefined],
      ["Thickness, all slabs", "mm"],
      ["Verdict", undefined],
    ]);
    const cells = table.lines[0]?.cells.map((c) => c.text) ?? [];
    expect(cells.slice(0, 4)).toEqual(["1 ◆", "Floor 1", "200", "✕ does not work"]);
    const cell = (name: string) => cells[table.columns.findIndex((c) => c.name === name)];
    expect([cell("Carbon"), cell("Flexure"), cell("Shear")]).toEqual(["10", "1.10", "0.10"]);
    expect(table.lines[1]?.cells[3]?.text).toBe("…");
    table.lines[1]?.does?.();
    expect(picked).toEqual([2]);
    expect(studyTable(study([null]), "SI", new Set(), () => undefined).columns[1]?.name).toBe("Thickness, all slabs");
    expect(toldOf(all.variants[0] as (typeof all.variants)[number], "SI")).toBe("Thickness, all slabs 200 mm");
  });
});
