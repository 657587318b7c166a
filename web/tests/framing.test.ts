import { describe, expect, it } from "vitest";
import { distanceFor, MARGIN, type Three } from "../src/space/framing";
import { levelsOf, spread } from "../src/space/heights";

/** Where a point about the middle comes to lie in the picture: 1 is its border. */
function seen(corner: Three, from: Three, distance: number, fov: number, aspect: number): [number, number] {
  const l = Math.hypot(...from);
  const [fx, fy, fz] = from.map((v) => v / l) as [number, number, number];
  const flat = Math.hypot(fx, fy);
  const right = [-fy / flat, fx / flat, 0];
  const up = [
    fy * 0 - fz * (right[1] ?? 0),
    fz * (right[0] ?? 0) - fx * 0,
    fx * (right[1] ?? 0) - fy * (right[0] ?? 0),
  ];
  const along = (d: number[]) => corner.reduce((t, v, k) => t + v * (d[k] ?? 0), 0);
  const depth = distance - along([fx, fy, fz]);
  const tall = Math.tan((fov * Math.PI) / 360);
  return [along(right) / depth / (tall * aspect), along(up) / depth / tall];
}

describe("the camera", () => {
  it("has every corner of the floor in the picture, and one at its margin", () => {
    const from: Three = [-0.55, -0.95, 0.75];
    for (const [w, d, h] of [
      [36, 22, 7],
      [8, 60, 3],
      [5, 5, 40],
    ] as const)
      for (const aspect of [0.6, 1, 2.4]) {
        const distance = distanceFor([0, 0, 0], [w, d, h], from, 35, aspect);
        const places = [-1, 1].flatMap((x) =>
          [-1, 1].flatMap((y) =>
            [-1, 1].map((z) => seen([(x * w) / 2, (y * d) / 2, (z * h) / 2], from, distance, 35, aspect)),
          ),
        );
        const furthest = Math.max(...places.flat().map(Math.abs));
        expect(furthest).toBeCloseTo(1 - MARGIN, 9);
      }
  });
});

describe("levels", () => {
  const storeys = [
    { id: "Level 1", elevation_m: 5.6, below_m: 3.6 },
    { id: "Level 2", elevation_m: 9, below_m: 3.4 },
    { id: "Roof", elevation_m: 12.4, below_m: 3.4 },
  ];
  it("are those that what is built reaches, about the floor's own", () => {
    expect(levelsOf(storeys, "Level 1", "F", -3.9, 3.4)).toEqual([
      { name: "base", z: -3.6 },
      { name: "Level 1", z: 0 },
      { name: "Level 2", z: expect.closeTo(3.4) },
    ]);
    expect(levelsOf(storeys, null, "F", -3.9, 3.4)).toEqual([{ name: "F", z: 0 }]);
  });
  it("have names that stand apart, within the drawing as far as it is tall", () => {
    expect(spread([10, 11, 40], 12, 100)).toEqual([10, 22, 40]);
    // At the foot they go up instead.
    expect(spread([80, 92, 95], 12, 96)).toEqual([72, 84, 96]);
  });
});
