import { expect, test } from "vitest";
import { FRAGMENT } from "../src/plan/FieldCanvas";
import { bandsBetween, colourAt, scaleOf } from "../src/plan/ramps";

const borders = (s: { from: number; step: number; colours: string[] }) =>
  s.colours.map((_, k) => Math.round((s.from + k * s.step) * 1e9) / 1e9);

test.each([
  [-3.7, 19],
  [-23, 23],
  [-80, 5],
  [-0.4, 120],
])("nought is a border of colours between %d and %d, and both sides are covered", (least, greatest) => {
  const scale = scaleOf(least, greatest, false);
  expect(borders(scale)).toContain(0);
  expect(scale.from).toBeLessThanOrEqual(least);
  expect(scale.from).toBeGreaterThan(least - scale.step);
  const to = scale.from + scale.colours.length * scale.step;
  expect(to).toBeGreaterThanOrEqual(greatest);
  expect(to).toBeLessThan(greatest + scale.step + 1e-9);
  expect(colourAt(scale, -1e-6)).not.toBe(colourAt(scale, 1e-6));
  expect(new Set(scale.colours).size).toBe(scale.colours.length);
  // A colour says on which side a value is, and how far from nought, whatever the other side has.
  const size = Math.max(-least, greatest);
  const both = scaleOf(-size, size, false);
  expect(both.step).toBe(scale.step);
  for (const v of [least, least / 3, greatest / 3, greatest].map((x) => 0.999 * x))
    expect(colourAt(scale, v)).toBe(colourAt(both, v));
});

test("values of one side begin at nought; limits typed on one side are kept", () => {
  expect(scaleOf(0.2, 17, true)).toMatchObject({ from: 0, step: 2 });
  const own = bandsBetween(10, 28);
  expect([own.from, own.from + own.colours.length * own.step]).toEqual([10, 28]);
  expect(borders(bandsBetween(-7, 30))).toContain(0);
});

test("a field is drawn with as many colours as any scale has", () => {
  const drawn = Number(/colours\[(\d+)\]/.exec(FRAGMENT)?.[1]);
  const counts = [0.01, 0.3, 1, 1.7, 2.2, 4.9, 7, 9.9].flatMap((least) =>
    [0.01, 0.3, 1, 1.7, 2.2, 4.9, 7, 9.9].flatMap((greatest) => [
      scaleOf(-least, greatest, false).colours.length,
      scaleOf(least, greatest, true).colours.length,
      bandsBetween(-least, greatest).colours.length,
    ]),
  );
  expect(Math.max(...counts)).toBeGreaterThan(9);
  expect(Math.max(...counts)).toBeLessThanOrEqual(drawn);
});
