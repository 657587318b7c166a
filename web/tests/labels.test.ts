import { describe, expect, it } from "vitest";
import { cuts, keyOf, place } from "../src/plan/labels";
import { sliceLabels } from "../src/plan/SliceLayer";

const slice = {
  id: "A",
  line: [
    [0, 0],
    [6, 0],
  ],
  quantity: "mn",
} as never;
const peak = (value: number, at_m: number) => ({ value, at_m, panels: [] });
const diagram = (high: number, low: number) =>
  ({
    unit: "kNm/m",
    s: [0, 6],
    all: [0, 0],
    least: [0, 0],
    greatest: [0, 0],
    high: peak(high, 3),
    low: peak(low, 3),
  }) as never;
const screen = (x: number, y: number) => ({ x: 300 + 40 * x, y: 300 - 40 * y });

describe("labels of the plan", () => {
  it("are told apart also where two say the same of one point", () => {
    const same = { x: 200, y: 200, text: "12.0", priority: 1 };
    const placed = place([same, { ...same }, { ...same, callout: true }], 600, 400);
    expect(placed).toHaveLength(3);
    expect(new Set(placed.map(keyOf)).size).toBe(3);
  });
  it("stand beside, above or below a point whose four corners are taken, and never on each other", () => {
    const crowd = Array.from({ length: 7 }, (_, k) => ({ x: 200, y: 200, text: `A${k}`, priority: 10 - k }));
    const placed = place(crowd, 600, 400);
    expect(placed.length).toBeGreaterThan(4);
    for (const [k, a] of placed.entries())
      for (const b of placed.slice(k + 1))
        expect(
          a.left + a.width <= b.left ||
            b.left + b.width <= a.left ||
            a.top + a.height <= b.top ||
            b.top + b.height <= a.top,
        ).toBe(true);
  });
  it("never cut a wall, stand clear of what they name, and those that must be there stand further off", () => {
    // A wall along y = 200, 12 px thick, and one across it.
    const walls = [
      { a: { x: 20, y: 200 }, b: { x: 580, y: 200 }, half: 6 },
      { a: { x: 300, y: 40 }, b: { x: 300, y: 380 }, half: 6 },
    ];
    const crowd = Array.from({ length: 16 }, (_, k) => ({
      x: 306,
      y: 206,
      text: `W${k + 10}`,
      priority: 1,
      must: true,
    }));
    const placed = place(crowd, 600, 400, [], walls);
    expect(placed).toHaveLength(16);
    for (const label of placed) for (const wall of walls) expect(cuts(wall, label)).toBe(false);
    // Without need they are left out rather than far off, and rather on a wall than not at all.
    expect(
      place(
        crowd.map((l) => ({ ...l, must: false })),
        600,
        400,
      ).length,
    ).toBeLessThan(16);
    const tight = { a: { x: 0, y: 200 }, b: { x: 600, y: 200 }, half: 300 };
    expect(place([{ x: 300, y: 200, text: "S1", priority: 1 }], 600, 400, [], [tight])).toHaveLength(1);
    expect(place([{ x: 300, y: 200, text: "W1", priority: 1, must: true }], 600, 400, [], [tight])).toHaveLength(0);
    const [clear] = place([{ x: 300, y: 200, text: "C1", priority: 1, clear: 40 }], 600, 400);
    expect((clear?.top ?? 0) + (clear?.height ?? 0)).toBeLessThanOrEqual(160);
  });
  it("are cut by a stretch of wall just where it reaches into them", () => {
    const box = { left: 10, top: 10, width: 20, height: 10 };
    const stretch = (ax: number, ay: number, bx: number, by: number, half = 1) => ({
      a: { x: ax, y: ay },
      b: { x: bx, y: by },
      half,
    });
    expect(cuts(stretch(0, 15, 40, 15), box)).toBe(true);
    expect(cuts(stretch(0, 8.9, 40, 8.9), box)).toBe(false);
    expect(cuts(stretch(0, 9.1, 40, 9.1), box)).toBe(true);
    expect(cuts(stretch(31.1, 0, 31.1, 40), box)).toBe(false);
    expect(cuts(stretch(0, 0, 8, 15), box)).toBe(false);
    expect(cuts(stretch(0, 0, 40, 30), box)).toBe(true);
  });
  it("tell a slice's peak once where least and greatest are one", () => {
    const texts = (d: never) => sliceLabels([slice], { A: d }, screen, "SI").map((l) => l.text);
    expect(texts(diagram(20, 20))).toEqual(["A", "20.0 kNm/m"]);
    expect(texts(diagram(20, -8))).toEqual(["A", "20.0 kNm/m", "−8.0 kNm/m"]);
  });
});
