import { describe, expect, it } from "vitest";
import { keyOf, place } from "../src/plan/labels";
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
  it("tell a slice's peak once where least and greatest are one", () => {
    const texts = (d: never) => sliceLabels([slice], { A: d }, screen, "SI").map((l) => l.text);
    expect(texts(diagram(20, 20))).toEqual(["A", "20.0 kNm/m"]);
    expect(texts(diagram(20, -8))).toEqual(["A", "20.0 kNm/m", "−8.0 kNm/m"]);
  });
});
