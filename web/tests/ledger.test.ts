import { describe, expect, it } from "vitest";
import { draftRead, pasted, pastedText } from "../src/ledger/block";
import { type Carried, carriedTable, choices, type Shown } from "../src/ledger/carriedTable";
import { sagTable, steelTable, stripTable, uncoveredTable, zoneTable } from "../src/ledger/checkTables";
import { freshOf } from "../src/ledger/freshRows";
import { NONE, type Sources } from "../src/ledger/table";
import type { FloorDocument, Kind, Labelled } from "../src/model/floor";
import type { Property } from "../src/model/property";
import type { Results } from "../src/model/results";

const row = (check: string, status: string, reason = "") => ({
  check,
  status,
  reason,
  id: { key: `${check}/floor////`, of: { kind: "floor", id: "" } },
});
const results = (more: object) =>
  ({ verdict: [], rows: [], zones: [], strips: [], sags: [], uncovered: [], ...more }) as unknown as Results;
const sources = (found: Results | null, system: "SI" | "US" = "SI") => ({ results: found, system }) as Sources;

describe("tables of checks", () => {
  it("wait for results that have not come", () => {
    for (const table of [stripTable, steelTable, zoneTable, sagTable]) expect(table(sources(null)).empty).toBe(NONE);
    expect(uncoveredTable(sources(null), ["punching"]).empty).toBe(NONE);
  });
  it("tell a check that is not at hand from a floor that has nothing to check", () => {
    const reason = "this check to ACI 318-19 is not at hand yet";
    const unchecked = zoneTable(sources(results({ verdict: [row("punching", "unchecked", reason)] }))).empty;
    expect(unchecked).toBe(`Not checked: ${reason}.`);
    expect(zoneTable(sources(results({}))).empty).toBe("Nothing holds or presses this floor on a small area.");
    const bare = zoneTable(sources(results({ verdict: [row("punching", "uncovered")] }))).empty;
    expect(bare).toBe("No zone could be laid out; what is not covered is listed beside.");
    expect(sagTable(sources(results({ verdict: [row("deflection", "unchecked", reason)] }))).empty).toContain(reason);
  });
  it("stand the sags of another floor beside those of the same lines and limits", () => {
    const sag = (where: string, limit: string, sag_mm: number) => ({
      row: where + limit,
      where,
      limit,
      sag_mm,
      limit_mm: 10,
      span_m: 6,
      combination: "B",
      utilisation: sag_mm / 10,
      at: [0, 0],
      band_mm: null,
    });
    const [here, there] = [
      results({ sags: [sag("A–B", "total", 12), sag("A–B", "after", 5), sag("B–C", "total", 7)], history: {} }),
      results({ sags: [sag("A–B", "total", 8), sag("A–B", "after", 3)], history: {} }),
    ];
    const alone = sagTable(sources(here));
    const table = sagTable({ ...sources(here), beside: { name: "Thicker", results: there } } as Sources);
    const more = table.columns.slice(alone.columns.length).map((c) => c.name);
    expect(more).toEqual(["Deflection, Thicker", "Utilisation, Thicker"]);
    const beside = table.lines.map((l) => l.cells.slice(alone.columns.length).map((c) => c.text));
    expect(beside).toEqual([
      ["8.0", "0.80 ✓"],
      ["3.0", "0.30 ✓"],
      ["none", ""],
    ]);
  });
  it("show the station of a strip that governs in each face, and open its row", () => {
    const face = (utilisation: number[], strength: number[], column_band: number[]) => ({
      utilisation,
      required_mm2_m: strength.map((v, k) => Math.max(v, column_band[k] as number)),
      provided_mm2_m: [1000, 1000, 1000],
      band_mm2_m: [2000, 2000, 2000],
      provisions: { strength, column_band },
    });
    const strip = {
      id: "x1/0",
      label: "row 1",
      direction: "x",
      bottom: face([0.2, 0.7, 0.1], [200, 700, 100], [0, 1200, 0]),
      // What is gathered over a column is more than all of the strip has, and compared with what the band has.
      top: face([0.95, 0.1, 0.4], [900, 100, 400], [1900, 0, 0]),
    };
    const its = {
      check: "flexure",
      utilisation: 0.95,
      at: [1, 2],
      id: { key: "flexure/strips/x1/0//top/0.0000", of: { kind: "strips", id: "x1/0" } },
    };
    const found = results({ strips: [strip], rows: [its] });
    const [line] = steelTable(sources(found)).lines;
    expect(line?.cells.map((c) => c.text)).toEqual(["row 1", "x", "700", "1000", "1900", "2000", "0.95 ✓"]);
    expect(line?.opens).toEqual({ type: "row", key: its.id.key });
    const inches = steelTable(sources(found, "US"));
    expect(inches.columns[2]?.unit).toBe("in²/ft");
    expect(Number(inches.lines[0]?.cells[2]?.text)).toBeCloseTo((700 / 645.16) * 0.3048, 2);
  });
  it("list what no check reached, with its area, its place and the object behind it", () => {
    const uncovered = [
      { row: "a", check: "flexure", kind: "floor", id: null, direction: "x", area_m2: 12, reason: "beside the strips", said: "beside the strips",
        outline: [[0, 0], [4, 0], [4, 3], [0, 3]] },
      { row: "b", check: "punching", kind: "walls", id: "W1", direction: null, area_m2: null, reason: "a wall's end", said: "a wall's end", outline: null },
    ]; // biome-ignore format: two rows
    const table = uncoveredTable(sources(results({ uncovered })), ["flexure", "punching"]);
    expect(table.lines.map((l) => l.cells.map((c) => c.text))).toEqual([
      ["Part of the floor", "bars along x", "12.0", "beside the strips"],
      ["Wall", "W1", "–", "a wall's end"],
    ]);
    expect(table.lines[0]?.at).toEqual([2, 1.5]);
    expect(table.lines[1]?.opens).toEqual({ type: "object", kind: "walls", id: "W1" });
    expect(uncoveredTable(sources(results({ uncovered })), ["deflection"]).empty).toBe("Everything is covered.");
  });
});

describe("a pasted block", () => {
  const properties: Property[] = [
    { path: "id", name: "Name", type: "text", required: true },
    { path: "h", name: "Height", type: "number", required: true },
    { path: "sum", name: "Sum", type: "number", fixed: true },
  ];
  const read = (p: Property, text: string) =>
    p.type === "number" && Number.isNaN(Number(text))
      ? { problem: `“${text}” is no number` }
      : { value: p.type === "number" ? Number(text) : text };
  const fresh = (values: Record<string, unknown>) => ({
    item: { id: "", ...values },
    missing: properties.filter((p) => p.required && values[p.path] === undefined),
  });
  const shown = [
    { id: "a", h: 1 },
    { id: "b", h: 2 },
  ] as Labelled[];
  const come = (row: Labelled, p: Property, text: string) => {
    const result = read(p, text);
    return { same: String(row[p.path]) === text, ...("problem" in result ? { told: result.problem } : {}) };
  };
  const of = (block: string[][], row: number, column = 0, appends = true) =>
    pasted(block, { row, column }, shown, properties, appends, come);
  const readOf = (texts: Record<string, string>) => draftRead({ id: " 1", texts }, properties, fresh, read);

  it("sets the cells of the rows that are there, and makes rows of what lies below the last one", () => {
    const block = [
      ["b", "5"],
      ["c", "3"],
      ["", ""],
    ];
    const plan = of(block, 1);
    expect(plan.cells.map((c) => [c.row.id, c.property.path, c.text, c.same])).toEqual([
      ["b", "id", "b", true],
      ["b", "h", "5", false],
    ]);
    expect(plan.drafts.map((d) => d.texts)).toEqual([{ id: "c", h: "3" }]);
    expect(pastedText(block, plan, 0)).toBe("3 rows of 2 cells: 1 cell set, 1 as they are, 1 new row.");
  });
  it("refuses cell by cell and loses nothing: what lies beside a table is told, and a row that lacks something waits", () => {
    const block = [
      ["b", "x", "", "far"],
      ["c", "", "9", "off"],
    ];
    const plan = of(block, 1);
    expect(plan.cells.map((c) => c.told)).toEqual([undefined, "“x” is no number", undefined]);
    expect(plan.beside).toBe(2);
    expect(pastedText(block, plan, 1)).toBe(
      "2 rows of 4 cells: 1 cell set, 1 as they are, 1 cell refused, 1 row waits for what is marked, 2 cells lie beside the table.",
    );
    // A table that takes no rows tells of those below it.
    expect(of(block, 2, 0, false)).toMatchObject({ cells: [], drafts: [], beside: 6 });
  });
  it("makes a row of what it needs, and neither invents a value nor forgets a text", () => {
    expect(readOf({ id: "c", h: "3" })).toEqual({ values: { id: "c", h: 3 }, wrong: {}, missing: [] });
    expect(readOf({ id: "c" }).missing.map((p) => p.name)).toEqual(["Height"]);
    expect(readOf({ id: "c", h: "x" })).toEqual({ values: { id: "c" }, wrong: { h: "“x” is no number" }, missing: [] });
    expect(readOf({ sum: "9" }).wrong.sum).toContain("follows from the rest");
  });
});

describe("a row typed at the end of a table", () => {
  const document = {
    concretes: [{ id: "C30/37", strength_MPa: 30 }],
    rebars: [{ id: "B500B" }],
    load_cases: [{ id: "Q", nature: "live" }],
    slabs: [],
  } as unknown as FloorDocument;
  const missing = (kind: Kind, values: Record<string, unknown>) =>
    freshOf(kind, document, { below: 3, above: null, level: false })(values).missing.map((p) => p.path);

  it("waits for its place, of every kind", () => {
    expect(missing("columns", {})).toEqual(["at.0", "at.1"]);
    expect(missing("columns", { "at.0": 2 })).toEqual(["at.1"]);
    expect(missing("columns", { "at.0": 2, "at.1": 0 })).toEqual([]);
    expect(missing("walls", {})).toEqual(["line"]);
    expect(missing("slabs", {})).toEqual(["outline"]);
    expect(missing("partitions", {})).toEqual(["build_up", "height_m"]);
    expect(missing("tendons", {})).toEqual(["line"]);
    expect(missing("designed_bars", { bar_mm: 16 })).toEqual(["outline"]);
  });
  it("asks what it is before what that needs", () => {
    expect(missing("loads", {})?.[0]).toBe("kind");
    expect(missing("loads", { kind: "line" })).toEqual(["q_kN_m.0", "line"]);
    // How great it is, is never made up.
    expect(missing("loads", { kind: "area" })).toEqual(["q_kPa"]);
    expect(missing("loads", { kind: "area", q_kPa: 3 })).toEqual([]);
    expect(missing("loads", { kind: "area", worth: { key: "occupancy", value: "lab" } })).toEqual([]);
    expect(missing("loads", { kind: "joint" })).toEqual(["F_kN", "support"]);
  });
  it("is an even line load where one end alone is given", () => {
    const made = freshOf("loads", document, { below: 3, above: null, level: false })?.({
      kind: "line",
      "q_kN_m.0": 4,
    }).item;
    expect(made?.q_kN_m).toEqual([4, 4]);
  });
  it("is a moment without a force that nobody typed, and a load at a joint with nothing of an area's", () => {
    const of = freshOf("loads", document, { below: 3, above: null, level: false });
    expect(of({ kind: "point", Mx_kNm: 5, "at.0": 1, "at.1": 2 })).toMatchObject({
      missing: [],
      item: { F_kN: 0, Mx_kNm: 5 },
    });
    const joint = of({ kind: "joint", support: "C1", F_kN: 40 });
    expect(joint.missing).toEqual([]);
    expect(joint.item).toEqual({ id: "", kind: "joint", case: "Q", support: "C1", F_kN: 40 });
  });
  it("is a tendon with a profile over its line", () => {
    const line = [
      [0, 0],
      [8, 0],
    ];
    const made = freshOf("tendons", document, { below: 3, above: null, level: false })({ line, count: 4 }).item;
    expect(made).toMatchObject({ count: 4, line });
    const profile = made.profile as { s_m: number }[];
    expect([profile[0]?.s_m, profile[profile.length - 1]?.s_m]).toEqual([0, 8]);
  });
  it("is like what its tool draws, but for what was typed", () => {
    const made = freshOf("columns", document, { below: 3.4, above: null, level: true })({
      "at.0": 2,
      "at.1": 7,
      "shape.b_m": 0.5,
    }).item;
    expect(made).toMatchObject({
      at: [2, 7],
      shape: { kind: "rectangle", b_m: 0.5, d_m: 0.4 },
      below: { height_m: 3.4 },
    });
  });
});

describe("loads carried down", () => {
  const foot = (more: object) => ({
    level: "Level 1", floor: 1, floor_name: "Level 1", list: "columns", id: "A1", at: [0, 0], on: "", planted: false, own_kN: { Q: 10 },
    total_kN: { G: 50, Q: 30 }, area_m2: { Q: 24 }, storeys: { Q: 2 }, reductions: { Q: { factor: 0.8, told: [] } }, reduced_kN: { G: 50, Q: 24 }, ...more,
  }); // biome-ignore format: figures read best side by side
  const carried = (more: object) =>
    ({ floors: [], awaited: [], cases: ["G", "Q"], feet: [], planted: [], sums: [], ...more }) as unknown as Carried;
  const sums = [
    { case: "G", loads_kN: 100, ground_kN: 90, open_kN: 10, residual: 0 },
    { case: "Q", loads_kN: 60, ground_kN: 60, open_kN: 0, residual: 0 },
  ];

  it("tell what stands on what, and the live load as it may be reduced", () => {
    const feet = [
      foot({ floor: 2, level: "Roof", on: "A1 of Level 1" }),
      foot({}),
      foot({ id: "B1", on: "Level 0", planted: true }),
    ];
    const table = carriedTable(carried({ feet, sums }), 1, "SI");
    const names = table.columns.map((c) => `${c.name}${c.low ?? ""}`);
    const text = table.lines.map((l) => l.cells.map((c) => c.text));
    expect(names).toEqual(["Level", "Carries", "Stands on", "G", "Q", "AreaQ", "FactorQ", "Qreduced"]);
    expect(text.slice(0, 3).map((t) => t.slice(0, 5))).toEqual([
      ["Loads of all floors", "", "", "100.0", "60.0"],
      ["To the ground", "", "", "90.0", "60.0"],
      ["Not yet a load of its floor", "", "", "10.0", "0.0"],
    ]);
    expect(text[4]?.slice(0, 5)).toEqual(["Level 1", "column A1", "the ground", "50.0", "30.0"]);
    expect([text[4]?.[6], text[4]?.[7]]).toEqual(["0.800", "24.0"]);
    expect(text[5]?.[2]).toBe("Level 0, planted");
    // Only what is on the open floor can be picked.
    expect(table.lines.map((l) => l.opens !== null)).toEqual([false, false, false, false, true, true]);
  });
  it("are told in the combinations of a state with the greatest and the least, and along walls", () => {
    const combinations = { U1: "ultimate", U2: "ultimate", Q1: "quasi_permanent" };
    const feet = [
      foot({ combined_kN: { U1: 80, U2: -5, Q1: 60 }, along_kN_m: {} }),
      foot({ list: "walls", id: "W", combined_kN: { U2: 7 }, along_kN_m: { G: [10, 30], Q: [2, 1] } }),
    ];
    const all = carried({ feet, sums, combinations });
    expect(choices(all).map(([value]) => value)).toEqual(["cases", "in ultimate", "in quasi_permanent", "along"]);
    const read = (shown: Shown) => {
      const table = carriedTable(all, 1, "SI", shown);
      return [table.columns.map((c) => c.name), ...table.lines.map((l) => l.cells.map((c) => c.text))].map((r) =>
        r.slice(3),
      );
    };
    expect(read("in ultimate")).toEqual([
      ["Greatest", "in", "Least", "in", "U1", "U2"],
      ["80.0", "U1", "-5.0", "U2", "80.0", "-5.0"].map((c) => c.replace("-", "\u2212")),
      ["7.0", "U2", "7.0", "U2", "–", "7.0"],
    ]);
    expect(read("along")).toEqual([
      ["G", "G", "Q", "Q"],
      ["10.0", "30.0", "2.0", "1.0"],
    ]);
  });
  it("tell what they wait for, and have no line of open loads where there are none", () => {
    expect(carriedTable(carried({ awaited: ["Roof"] }), 1, "SI").empty).toContain("Roof");
    const table = carriedTable(carried({ feet: [foot({})], sums: [sums[1]] }), 1, "SI");
    expect(table.lines.map((l) => l.key)).not.toContain("open");
  });
});
