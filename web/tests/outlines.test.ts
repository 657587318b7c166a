import { describe, expect, it } from "vitest";
import type { Vertex } from "../src/model/floor";
import {
  arcOf,
  areaOf,
  bayAround,
  bulgeThrough,
  circle,
  isAnticlockwise,
  isInside,
  lengthOf,
  type Point,
  points,
  rectangle,
  withCantilever,
  withCorner,
  withMovedEdge,
  withoutCorner,
} from "../src/model/outlines";

const SQUARE: Vertex[] = [
  [0, 0],
  [4, 0],
  [4, 3],
  [0, 3],
];

describe("arcs", () => {
  it("through a third point", () => {
    // A half circle below the chord runs anticlockwise from left to right: bulge 1.
    expect(bulgeThrough([-1, 0], [1, 0], [0, -1])).toBeCloseTo(1, 12);
    expect(bulgeThrough([-1, 0], [1, 0], [0, 1])).toBeCloseTo(-1, 12);
    // Rise r over half a chord c: bulge r / c.
    expect(bulgeThrough([0, 0], [8, 0], [4, -1])).toBeCloseTo(0.25, 12);
    expect(bulgeThrough([0, 0], [8, 0], [4, 0])).toBe(0);
  });
  it("passes through the third point wherever it lies", () => {
    for (let k = 0; k < 60; k++) {
      const [a, b] = [
        [k % 7, 1],
        [5 + (k % 3), 4],
      ] as [Vertex, Vertex];
      const via: Vertex = [2.5 + Math.cos(k) * 3, 2 + Math.sin(k * 1.7) * 3];
      const bulge = bulgeThrough(a, b, via);
      if (Math.abs(bulge) < 1e-6 || Math.abs(bulge) > 50) continue;
      const { cx, cy, radius } = arcOf(a, b, bulge);
      expect(Math.hypot((via[0] as number) - cx, (via[1] as number) - cy)).toBeCloseTo(radius, 6);
    }
  });
  it("has the circle's area and length", () => {
    expect(areaOf(circle([3, -2], 2))).toBeCloseTo(Math.PI * 4, 1);
    expect(
      lengthOf([
        [0, 0, 1],
        [2, 0],
      ]),
    ).toBeCloseTo(Math.PI, 2);
    for (const [x, y] of points(circle([3, -2], 2))) expect(Math.hypot(x - 3, y + 2)).toBeCloseTo(2, 9);
  });
  it("keeps its circle when a corner is put into it", () => {
    const round: Vertex[] = [
      [0, 0],
      [4, 0, 0.6],
      [4, 3],
      [0, 3],
    ];
    const more = withCorner(round, 1);
    expect(more).toHaveLength(5);
    expect(areaOf(more)).toBeCloseTo(areaOf(round), 2);
    const [one, two] = [
      arcOf(round[1] as Vertex, round[2] as Vertex, 0.6),
      arcOf(more[1] as Vertex, more[2] as Vertex, more[1]?.[2] as number),
    ];
    expect([two.cx, two.cy, two.radius]).toEqual([one.cx, one.cy, one.radius].map((v) => expect.closeTo(v, 6)));
  });
});

describe("edges and corners", () => {
  it("moves an edge outwards whichever way the outline runs", () => {
    for (const outline of [SQUARE, [...SQUARE].reverse()]) {
      const edge = outline.findIndex((v, i) => v[0] === 4 && (outline[(i + 1) % 4] as Vertex)[0] === 4);
      const moved = withMovedEdge(outline, edge, 0.5) as Vertex[];
      expect(areaOf(moved)).toBeCloseTo(4.5 * 3, 9);
      expect(Math.max(...moved.map((v) => v[0] as number))).toBeCloseTo(4.5, 9);
    }
  });
  it("slides along skew neighbours", () => {
    const skew: Vertex[] = [
      [0, 0],
      [4, 0],
      [5, 3],
      [0, 3],
    ];
    expect(withMovedEdge(skew, 0, 1)).toEqual([
      [0, -1],
      [expect.closeTo(4 - 1 / 3, 9), -1],
      [5, 3],
      [0, 3],
    ]);
  });
  it("says why an edge beside an arc stays", () => {
    expect(
      withMovedEdge(
        [
          [0, 0, 0.3],
          [4, 0],
          [4, 3],
        ],
        1,
        1,
      ),
    ).toContain("arc");
  });
  it("puts a cantilever on a stretch of an edge", () => {
    const out = withCantilever(SQUARE, [1, 0], [3, 0], 1.5) as Vertex[];
    expect(areaOf(out)).toBeCloseTo(12 + 3, 9);
    expect(isInside([2, -1], out)).toBe(true);
    const whole = withCantilever(SQUARE, [0, 0], [4, 0], 1) as Vertex[];
    expect(areaOf(whole)).toBeCloseTo(16, 9);
    expect(withCantilever(SQUARE, [1, 1], [3, 1], 1)).toContain("straight edge");
  });
  it("takes a corner out", () => {
    expect(withoutCorner(SQUARE, 2)).toEqual([
      [0, 0],
      [4, 0],
      [0, 3],
    ]);
  });
  it("makes rectangles from either corner", () => {
    expect(areaOf(rectangle([5, 5], [1, 2]))).toBe(12);
    expect(isAnticlockwise(rectangle([0, 0], [1, 1]))).toBe(true);
  });
});

describe("bays of a grid", () => {
  const turn =
    (degrees: number) =>
    ([x = 0, y = 0]: Vertex): Point => {
      const t = (degrees * Math.PI) / 180;
      return [x * Math.cos(t) - y * Math.sin(t), x * Math.sin(t) + y * Math.cos(t)];
    };
  const lines = [0, 6, 13]
    .map((x) => [
      [x, -1],
      [x, 20],
    ])
    .concat(
      [0, 7, 15].map((y) => [
        [-1, y],
        [20, y],
      ]),
    ) as Vertex[][];
  it.each([0, 23, 90, 131])("at %i degrees", (degrees) => {
    const put = turn(degrees);
    const bay = bayAround(
      put([8, 9]),
      lines.map((l) => l.map((v) => put(v))),
    ) as Vertex[];
    expect(areaOf(bay)).toBeCloseTo(7 * 8, 6);
    expect(isInside(put([8, 9]), bay)).toBe(true);
    expect(isAnticlockwise(bay)).toBe(true);
  });
  it("is none outside the grid", () => {
    expect(bayAround([30, 9], lines)).toBeNull();
    expect(bayAround([1, 1], lines.slice(0, 2))).toBeNull();
  });
});
