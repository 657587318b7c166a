import { expect, test } from "vitest";
import type { Results, Row, TraceStep } from "../src/model/results";
import { isCut, placesOf, type SectionBars, strainedOf, strainTold } from "../src/model/section";
import { stationOf } from "../src/readings/section";

const value = (symbol: string, v: number, unit = "") => ({ symbol, value: v, unit, meaning: "" });
const step = (title: string, values: ReturnType<typeof value>[], result: ReturnType<typeof value> | null = null) =>
  ({ title, clause: "", formula: "", values, result, note: "", said: "", empirical: false }) as unknown as TraceStep;
const PLACE = step("Strip and station", [value("b", 2, "m"), value("h", 0.26, "m"), value("d", 0.23, "m")]);
const STRENGTH = step("Neutral axis", [value("omega", 0.08), value("d", 0.23, "m")], value("x", 0.023, "m"));
const CRACKED = [
  step("Cracked section", [value("d", 0.23, "m")], value("x", 0.05, "m")),
  step("Stress of the steel", [value("m", 40)], value("sigma_s", 240, "MPa")),
  step("Strain between cracks", [value("E_s", 200000, "MPa")], value("eps_m", 0.001)),
];
const row = (...steps: TraceStep[]) =>
  ({
    id: { key: "", check: "flexure", of: { kind: "strips", id: "x1-1-column" }, part: "", face: "top", station: 1.25 },
    trace: { combination: "U", factors: {}, panels: [], steps },
  }) as unknown as Row;

test("a section in strength has the greatest strain of concrete and a block", () => {
  const found = strainedOf(row(PLACE, STRENGTH, ...CRACKED));
  expect(found).toMatchObject({ state: "strength", symbol: "x", axis: 0.023, concrete: 0.0035 });
  expect(found?.block).toBeCloseTo(0.0184);
  // 3.5 (230 - 23) / 23
  expect(found?.steel).toBeCloseTo(0.0315);
});

test("where cracks govern, strains are those in service", () => {
  const found = strainedOf(row(PLACE, ...CRACKED, STRENGTH));
  expect(found).toMatchObject({ state: "service", axis: 0.05, block: null });
  expect(found?.steel).toBeCloseTo(0.0012);
  // 1.2 x 50 / (230 - 50)
  expect(found?.concrete).toBeCloseTo(0.000333, 6);
});

test("a standard that calls the neutral axis c has 3 per mille", () => {
  const aci = step("Neutral axis", [value("omega", 0.08)], value("c", 0.023, "m"));
  expect(strainedOf(row(PLACE, aci))?.concrete).toBe(0.003);
  expect(strainedOf(row(PLACE))).toBeNull();
  expect(strainedOf(row(PLACE, step("Neutral axis", [value("omega", 1)], value("x", 0.24, "m"))))).toBeNull();
});

const bars = (more: Partial<SectionBars>): SectionBars => ({
  name: "TX1",
  kind: "group",
  face: "top",
  bar_mm: 10,
  spacing_mm: 200,
  depth_mm: 30,
  start_m: 0.5,
  end_m: 1.5,
  turn_deg: 0,
  developed: 1,
  ...more,
});

test("bars lie in the middles of their spacings, wider apart at an angle", () => {
  expect(placesOf(bars({})).map((x) => Number(x.toFixed(3)))).toEqual([0.6, 0.8, 1.0, 1.2, 1.4]);
  expect(placesOf(bars({ turn_deg: 30, spacing_mm: 173.2 }))).toHaveLength(5);
  expect(placesOf(bars({ end_m: 0.52 }))).toEqual([0.51]);
  expect([0, 44, 46, 90].map((turn_deg) => isCut(bars({ turn_deg })))).toEqual([true, true, false, false]);
});

test("rows of flexure on strips have a station, and those of beams that of their span", () => {
  expect(stationOf(row(PLACE), null)).toEqual({ strip: "x1-1-column", s: 1.25, face: "top" });
  const other = row(PLACE);
  expect(stationOf({ ...other, id: { ...other.id, station: null } }, null)).toBeNull();
  expect(stationOf({ ...other, id: { ...other.id, check: "stresses" } }, null)).toBeNull();
  const beam = (asked: number[]) =>
    ({
      beams: [
        {
          ...{
            row: "own",
            strip: "x1-0-beam",
            s_m: [1, 1.25],
            bottom_asked_mm2: [900, 500],
            bottom_given_mm2: [1000, 1000],
          },
          ...{ top_asked_mm2: asked, top_given_mm2: [1000, 1000] },
        },
      ],
    }) as unknown as Results;
  const ofBeam = { ...other, id: { ...other.id, key: "own", check: "beams", face: "" } };
  // The face that has less left of what it is given, at this station.
  expect(stationOf(ofBeam, beam([0, 600]))).toEqual({ strip: "x1-0-beam", s: 1.25, face: "top" });
  expect(stationOf(ofBeam, beam([999, 400]))?.face).toBe("bottom");
  expect(stationOf({ ...ofBeam, id: { ...ofBeam.id, key: "other" } }, beam([0, 0]))).toBeNull();
});

test("a beam's neutral axis comes with the depth of its block", () => {
  const tee = step("Neutral axis", [value("a", 0.0221, "m")], value("x", 0.0276, "m"));
  const place = step("Beam and station", [value("H", 0.6, "m"), value("d", 0.555, "m")]);
  expect(strainedOf(row(place, tee))).toMatchObject({ state: "strength", axis: 0.0276, block: 0.0221 });
});

test("a strain that no bar reaches is told as such", () => {
  expect([0.0123, 0.0499, 0.0501, 2.4142].map(strainTold)).toEqual(["12.3 ‰", "49.9 ‰", "over 50 ‰", "over 50 ‰"]);
});
