import { describe, expect, it } from "vitest";
import { readFields } from "../src/api/fields";
import table from "../src/api/fields.generated.json";
import { CHECKS, checkOf } from "../src/checks";
import { tokensOf, WRITTEN } from "../src/inspector/formulaText";
import { COPIED, DRAWING, KINDS, kindOf, nameOf, ON_PLAN, SHARED, startOf, tablesAt } from "../src/kinds";
import { FLOOR_PATHS, floorProperty, propertiesOf, propertiesOfKind, unedited } from "../src/kinds/properties";
import { cellText, parsed } from "../src/model/cells";
import type { FloorDocument, Kind, Labelled } from "../src/model/floor";
import { type Results, rowOf } from "../src/model/results";
import { learn } from "../src/model/standards";
import { STEPS } from "../src/model/step";
import { TOOLS } from "../src/plan/tools/tools";
import { read, traced, unitOf, written } from "../src/units/quantities";

const ALL = Object.keys(KINDS) as Kind[];
const document = {
  standard: "EN 1992-1-1",
  concretes: [{ id: "C30" }],
  rebars: [{ id: "B500" }],
  slabs: [],
  load_cases: [{ id: "Q", nature: "live" }],
} as never as FloorDocument;

describe("kinds of objects", () => {
  it("are those of the floor file, and none of its fields is missing from the interface", () => {
    expect([...ALL].sort()).toEqual(Object.keys(table.lists).sort());
    for (const kind of ALL) expect(unedited(kind), kind).toEqual([]);
  });
  it("have the fields that were missing", () => {
    const paths = (kind: Kind) => propertiesOfKind(kind).map((p) => p.path);
    expect(paths("slabs")).toContain("fill_kN_m3");
    expect(paths("mats")).toContain("layer");
    expect(floorProperty("deflection.span_over", "Limit").fallback).toBe(250);
    expect(() => floorProperty("deflection.colour", "x")).toThrow();
  });
  it("stand in tables, copies and the plan by what their own files say", () => {
    // Every kind has a table at some step, or one of its own making: the project's grid, readings of slices.
    const tables = STEPS.flatMap(({ key }) => tablesAt(key).map(([kind]) => kind));
    expect([...tables, "grid", "slices"].sort()).toEqual([...ALL].sort());
    expect(tablesAt("load").map(([, name]) => name)).toContain("Cases");
    expect(COPIED).toContain("notes");
    expect(COPIED).not.toContain("grid");
    const seen = { document, step: "build", scale: 20, zones: false, loadsOf: null, system: "SI" } as const;
    const caption = (kind: Kind, item: object, more = {}) =>
      kindOf(kind).caption?.({ id: "A", ...item } as Labelled, { ...seen, ...more })?.text;
    expect(caption("slabs", { thickness_m: 0.25 })).toBe("A 250 mm");
    expect(caption("slabs", { thickness_m: 0.25 }, { step: "load" })).toBe("A");
    expect(caption("columns", {}, { zones: true })).toBeUndefined();
    expect(caption("notes", { text: "props stay" })).toBe("props stay");
    expect(caption("notes", { text: "x".repeat(60) })).toHaveLength(40);
    const load = { kind: "joint", case: "G", support: "C1", F_kN: 10 };
    expect(caption("loads", load, { step: "load" })).toBeUndefined();
    const held = { ...document, columns: [{ id: "C1", at: [3, 4] }] };
    expect(caption("loads", load, { step: "load", document: held })).toBe("G 10.0 kN");
    expect(caption("loads", load, { step: "load", document: held, loadsOf: "Q" })).toBeUndefined();
  });
  it("keep the floor's own values somewhere", () => {
    // Each is edited in a panel of its own: sizes of the mesh, arrangements, limits, bars, the project's standard and values.
    expect([...FLOOR_PATHS].sort()).toEqual([
      "arrangements",
      "bar_sizes_mm",
      "carbon.concrete_kg_m3",
      "carbon.steel_kg_per_kg",
      "construction.age_days",
      "construction.cement",
      "costs.concrete_per_m3",
      "costs.currency",
      "costs.formwork_per_m2",
      "costs.steel_per_kg",
      "crack_width_limit_mm",
      "deflection.span_over",
      "design_bars",
      "design_links",
      "design_rails",
      "exposure",
      "extra_in_spans_pct",
      "fire.aggregate",
      "fire.resistance",
      "fire.restrained",
      "fire.sides_ratio",
      "history.cement",
      "history.cured_days",
      "history.end_days",
      "history.humidity_pct",
      "history.limits",
      "history.scatter.creep",
      "history.scatter.modulus",
      "history.scatter.shrinkage",
      "history.scatter.tension",
      "history.stages",
      "history.tension",
      "history.tension_stiffening",
      "level.above_m",
      "level.below_m",
      "level.id",
      "mesh.refinements",
      "mesh.size_m",
      "name",
      "panels_together",
      "parameters",
      "prestress.elastic",
      "prestress.humidity_pct",
      "prestress.long_term_loss.MPa",
      "prestress.transfer_days",
      "spacings_mm",
      "standard",
      "stock_length_m",
    ]);
  });
  it("take types, defaults, units and choices from the schema", () => {
    const of = (kind: Kind, path: string) => propertiesOfKind(kind).find((p) => p.path === path);
    expect(of("slabs", "thickness_m")).toMatchObject({ type: "number", quantity: "size", name: "Thickness" });
    expect(of("slabs", "cover_top_mm")).toMatchObject({ quantity: "cover", fallback: 25 });
    expect(of("slabs", "priority")).toMatchObject({ type: "whole", name: "Rank", fallback: 0 });
    expect(of("mats", "layer")?.choices?.(document)).toEqual(["outer", "inner"]);
    expect(of("mats", "layer")?.empty).toBe(true);
    expect(of("walls", "top")?.fallback).toBe("monolithic");
    expect(of("beams", "width_m")?.quantity).toBe("size");
    expect(of("slices", "width_m")?.quantity).toBe("length");
    expect(of("supports", "modulus_kN_m3")?.quantity).toBe("bedding");
    expect(of("slabs", "priority")?.told).toContain("overlap");
  });
  it("show a value only where the object has it", () => {
    const seen = (kind: Kind, item: object) =>
      propertiesOf(kind, { id: "x", ...item } as Labelled, document).map((p) => p.path);
    expect(seen("columns", { shape: { kind: "circle" } })).not.toContain("shape.b_m");
    expect(seen("columns", { shape: { kind: "rectangle" } })).toContain("shape.b_m");
    expect(seen("columns", { shape: { kind: "circle" } })).toContain("below.height_m");
    expect(seen("columns", { shape: { kind: "circle" }, below: { height_m: 3 } })).toContain("below.far_end");
    expect(seen("columns", { shape: { kind: "circle" } })).not.toContain("below.far_end");
    expect(seen("loads", { kind: "point" })).not.toContain("q_kPa");
    expect(seen("loads", { kind: "area", varies: { kind: "direction" } })).toContain("varies.line");
    expect(seen("loads", { kind: "area", varies: { kind: "direction" } })).not.toContain("varies.points");
    expect(seen("thickenings", { kind: "drop_panel" })).not.toContain("fill_kN_m3");
    expect(seen("combinations", {})).toEqual(["factor:Q"]);
  });
  it("begin with what the floor has, and are drawn by one tool each letter", () => {
    const start = (kind: Kind, tool: string) =>
      startOf(kind, { tool, document, storeys: { below: 3.5, above: null, level: true }, activeCase: null });
    expect(start("columns", "column")).toMatchObject({
      concrete: "C30",
      below: { height_m: 3.5, by_level: true },
      above: null,
    });
    expect(start("loads", "area")).toMatchObject({ case: "Q", kind: "area" });
    expect(start("supports", "bedding")).toMatchObject({ kind: "area" });
    expect(start("openings", "opening")).toEqual({ id: "" });
    expect(new Set(DRAWING.map((t) => t.letter)).size).toBe(DRAWING.length);
    // Nor does one take the letter of a tool that changes or measures.
    expect(new Set(TOOLS.map((t) => t.letter)).size).toBe(TOOLS.length);
    expect(DRAWING.every((t) => kindOf(t.kind as Kind).kind === t.kind)).toBe(true);
  });
  it("know their place", () => {
    expect(ON_PLAN[0]).toBe("slabs");
    expect(ON_PLAN.indexOf("columns")).toBeGreaterThan(ON_PLAN.indexOf("walls"));
    expect([...SHARED].sort()).toEqual(
      ["build_ups", "concretes", "grid", "load_materials", "occupancies", "partitions", "rebars"].sort(),
    );
    expect(nameOf([{ kind: "columns", id: "C1" }])).toBe("Column C1");
  });
  it("read categories of the floor's own standard", () => {
    learn([{ name: "EN 1992-1-1", categories: { A: "domestic", B: "offices" }, options: [] }]);
    const category = propertiesOfKind("load_cases").find((p) => p.path === "category");
    expect(category?.choices?.(document)).toEqual(["A", "B"]);
    expect(category && parsed(category, "heavy", document, "SI")).toHaveProperty("problem");
    expect(category && parsed(category, "", document, "SI")).toEqual({ value: undefined });
  });
  it("show what a cell holds", () => {
    const layer = propertiesOfKind("mats").find((p) => p.path === "layer");
    if (!layer) throw new Error("no layer");
    expect(cellText(layer, { id: "M" }, "SI")).toBe("");
    expect(cellText(layer, { id: "M", layer: "inner" }, "SI")).toBe("inner");
  });
});

describe("checks", () => {
  const row = {
    id: { check: "flexure", of: { kind: "strips", id: "a" }, face: "top", key: "k" },
    combination: "U1",
  } as never;
  const results = { strips: [{ id: "a", direction: "y" }], rows: [row], verdict: [] } as never as Results;
  it("show the field that their row is of", () => {
    expect(checkOf("flexure").display(row, results)).toEqual({ quantity: "steel", of: "top y", kind: "required" });
    const sag = { ...(row as object), combination: "Q1" } as never;
    expect(checkOf("deflection").display(sag, results)).toMatchObject({ of: "Q1", kind: "with creep" });
    expect(checkOf("punching").display(row, results)).toMatchObject({ zones: true });
  });
  it("that the interface does not know are shown under their own name", () => {
    expect(checkOf("anchor_stress")).toMatchObject({ title: "Anchor stress", step: "analyse" });
    expect(new Set(CHECKS.map((c) => c.name)).size).toBe(CHECKS.length);
  });
  it("have rows by their key", () => {
    expect(rowOf(results, "k")).toBe(row);
    expect(rowOf(results, "other")).toBeUndefined();
    expect(rowOf(null, "k")).toBeUndefined();
  });
});

describe("formulas", () => {
  const shown = (text: string) =>
    tokensOf(text)
      .map((t) => t.shown)
      .join("");
  it("are read as the server writes them", () => {
    const names = (text: string) => tokensOf(text).flatMap((t) => (t.kind === "name" ? [t.text] : []));
    expect(names("max(C_Rd,c · k · (100 · rho_l · f_ck)^(1/3), v_min)")).toEqual([
      "C_Rd,c",
      "k",
      "rho_l",
      "f_ck",
      "v_min",
    ]);
    expect(names("4700 · sqrt(f'_c)")).toEqual(["f'_c"]);
    expect(shown("a - b / -c")).toBe("a − b / −c");
    expect(shown("sqrt(x)")).toBe("√(x)");
    expect(WRITTEN.rho).toBe("ρ");
  });
});

describe("quantities", () => {
  it("have a unit in both systems, each the server's", () => {
    for (const q of table.quantities)
      for (const s of ["SI", "US"] as const) expect(unitOf(q as never, s), q).toBeDefined();
  });
  it("of traces are told with four digits in the project's units", () => {
    expect(traced(880.1234, "shear_stress", "kPa", "SI")).toBe("880.1 kPa");
    expect(traced(880.1234, "shear_stress", "kPa", "US")).toBe("127.7 psi");
    expect(traced(0.209, "size", "m", "SI")).toBe("209 mm");
    expect(traced(0.0254, "size", "m", "US")).toBe("1 in");
    expect(traced(12.5, "moment_per_m", "kNm/m", "US")).toBe("2.81 kip-ft/ft");
    expect(traced(1005.3, "steel_per_m", "mm²/m", "US")).toBe("0.4749 in²/ft");
    expect(traced(40, "force_per_m", "kN/m", "US")).toBe("2.741 kip/ft");
    expect(traced(1.5, "none", "", "SI")).toBe("1.5");
    expect(traced(0, "force", "kN", "SI")).toBe("0 kN");
    expect(traced(-Math.PI, "force", "kN", "SI")).toBe("−3.142 kN");
  });
  it("of beddings read back what they show", () => {
    expect(read(written(40000, "bedding", "US"), "bedding", "US")).toBeCloseTo(40000, -2);
    expect(read("150 pci", "bedding", "SI")).toBeCloseTo(40717.07, 2);
  });
});

describe("the binary fields of a run", () => {
  it("are read back as they were written", () => {
    const header = { places: 3, triangles: 1, edges: 2, units: { w: "mm" }, fields: [{ quantity: "w", of: "S" }] };
    const text = new TextEncoder().encode(
      JSON.stringify(header).padEnd(Math.ceil(JSON.stringify(header).length / 4) * 4),
    );
    const floats = new Float32Array([0, 0, 1, 0, 0, 1]);
    const index = new Uint32Array([0, 1, 2]);
    const edges = new Uint32Array([0, 1, 1, 2]);
    const values = new Float32Array([1.5, 2.5, 3.5]);
    const out = new Uint8Array(4 + text.length + 24 + 12 + 16 + 12);
    new DataView(out.buffer).setUint32(0, text.length, true);
    let at = 4;
    for (const part of [text, floats, index, edges, values]) {
      out.set(new Uint8Array(part.buffer, part.byteOffset, part.byteLength), at);
      at += part.byteLength;
    }
    const found = readFields(out.buffer);
    expect([...found.xy]).toEqual([0, 0, 1, 0, 0, 1]);
    expect([...found.triangles]).toEqual([0, 1, 2]);
    expect([...found.edges]).toEqual([0, 1, 1, 2]);
    expect([...(found.values[0] ?? [])]).toEqual([1.5, 2.5, 3.5]);
    expect(found.heads[0]?.of).toBe("S");
  });
});
