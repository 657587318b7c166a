import { expect, test } from "vitest";
import { FRAGMENT } from "../src/plan/FieldCanvas";
import { spacingOf } from "../src/plan/field";
import { bandsBetween, bandsOfBars, bordersOf, colourAt, scaleOf } from "../src/plan/ramps";

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

test("bands of steel go by the bars that serve up to them", () => {
  const named = (mm: number) => `${mm}`;
  // 8, 10 and 12 mm at 150: 335, 524 and 754 mm2/m.
  const scale = bandsOfBars([12, 8, 10, 20, 16], 150, 1, 600, named);
  expect(scale.names).toEqual(["8", "10", "12"]);
  expect(bordersOf(scale).map(Math.round)).toEqual([0, 335, 524, 754]);
  const of = [0, 334, 336, 523, 525, 600, 9000].map((v) => scale.colours.indexOf(colourAt(scale, v)));
  expect(of).toEqual([0, 0, 1, 1, 2, 2, 2]);
  expect(colourAt(scale, -5)).toBe(scale.colours[0]);
  // In another unit, and where no bar serves.
  const more = bandsOfBars([8, 10], 150, 0.5, 400, named);
  expect(more.names).toEqual(["8", "10", "more"]);
  expect(bordersOf(more).map(Math.round)).toEqual([0, 168, 262, 400]);
  // More bars than colours: the least ones are served by the first of those that are named.
  const many = bandsOfBars([5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16], 100, 1, 1900, named);
  expect(many.names).toEqual(["8", "9", "10", "11", "12", "13", "14", "15", "16"]);
  expect(new Set(many.colours).size).toBe(9);
  expect(bandsOfBars([8], 150, 1, 0, named).names).toEqual(["8"]);
});

test("bars are as far apart as those of the mat of their face and direction that lies everywhere", () => {
  const mat = (face: string, direction: string, spacing_mm: number, outline?: number[][]) =>
    ({ face, direction, spacing_mm, outline }) as never;
  const mats = [mat("top", "x", 100, [[0, 0]]), mat("top", "x", 200), mat("top", "y", 125, [[0, 0]])];
  expect([spacingOf(mats, "top x"), spacingOf(mats, "top y"), spacingOf(mats, "bottom x")]).toEqual([200, 125, 150]);
});
