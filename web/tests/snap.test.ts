import { describe, expect, it } from "vitest";
import type { FloorDocument } from "../src/model/floor";
import { place, type Wanted } from "../src/plan/labels";
import { footOf, SnapIndex } from "../src/plan/tools/snap";
import { steps } from "../src/plan/tools/tools";
import { solidsOf } from "../src/space/solids";

const document = {
  name: "F",
  standard: "EN 1992-1-1",
  concretes: [],
  rebars: [],
  slabs: [
    {
      id: "S1",
      outline: [
        [0, 0],
        [10, 0, 0.4],
        [10, 8],
        [0, 8],
      ],
      thickness_m: 0.25,
      concrete: "C",
      rebar: "B",
    },
  ],
  columns: [
    {
      id: "C1",
      at: [5, 4],
      shape: { kind: "circle", diameter_m: 0.5 },
      concrete: "C",
      below: { height_m: 3 },
      above: { height_m: 3 },
    },
  ],
  thickenings: [
    {
      id: "T1",
      outline: [
        [4, 3],
        [6, 3],
        [6, 5],
        [4, 5],
      ],
      thickness_m: 0.4,
    },
  ],
  openings: [
    {
      id: "O1",
      outline: [
        [1, 1],
        [2, 1],
        [2, 2],
        [1, 2],
      ],
    },
  ],
  beams: [
    {
      id: "B1",
      line: [
        [0, 8],
        [10, 8],
      ],
      width_m: 0.3,
      concrete: "C",
      depth_m: 0.6,
      top_offset_m: 0.1,
    },
  ],
  grid: [
    {
      id: "A",
      line: [
        [5, -2],
        [5, 12],
      ],
    },
    {
      id: "1",
      line: [
        [-2, 6.5],
        [14, 6.5],
      ],
    },
  ],
} as never as FloorDocument;

describe("snapping", () => {
  const index = new SnapIndex(document, new Set());
  const at = (x: number, y: number, last: [number, number] | null = null) => index.find(x, y, 0.3, last);

  it.each([
    ["corner", 0.1, -0.1, [0, 0]],
    ["middle", 0.1, 4.1, [0, 4]],
    ["centre", 5.1, 4.1, [5, 4]],
    ["crossing", 5.1, 6.4, [5, 6.5]],
    ["edge", 0.2, 5.2, [0, 5.2]],
    ["grid line", 8.3, 6.6, [8.3, 6.5]],
  ] as [string, number, number, number[]][])("takes a %s", (kind, x, y, place) => {
    const got = at(x, y);
    expect(got.kind).toBe(kind);
    expect([got.x, got.y]).toEqual(place.map((v) => expect.closeTo(v, 9)));
  });
  it("finds the foot of the perpendicular and the straight way from the last point", () => {
    const foot = at(0.1, 6.1, [3, 6]);
    expect([foot.kind, foot.x, foot.y]).toEqual(["square to", 0, 6]);
    const straight = at(7.1, 2.62, [3, 2.5]);
    expect([straight.kind, straight.y]).toEqual(["straight", 2.5]);
    const diagonal = at(8.05, 3.6, [6.5, 2.1]);
    expect(diagonal.x - 6.5).toBeCloseTo(diagonal.y - 2.1, 9);
  });
  it("keeps in line with a corner far away, and lets go where nothing is near", () => {
    expect(at(13, 0.1).kind).toBe("in line with");
    expect(at(13, 0.1)).toMatchObject({ y: 0, of: "slab S1" });
    expect(at(30, 30)).toEqual({ x: 30, y: 30, kind: null });
  });
  it("leaves out what is hidden, and takes in a drawing beneath", () => {
    expect(new SnapIndex(document, new Set(["grid", "slabs"])).find(8.3, 6.6, 0.3, null).kind).toBeNull();
    const drawn = new SnapIndex({ ...document, slabs: [], grid: [] }, new Set(), [
      [
        [20, 20],
        [24, 20],
      ],
    ]);
    expect(drawn.find(22, 20.1, 0.3, null)).toMatchObject({ x: 22, y: 20, kind: "drawing" });
  });
  it("has no foot beside a segment", () => {
    expect(footOf([5, 1], [0, 0], [4, 0])).toBeNull();
    expect(footOf([3, 1], [0, 0], [4, 0])).toEqual([3, 0]);
  });
});

it("an array goes along one way, or two", () => {
  const ways = (over?: [number, number], across = 0) =>
    steps([1, 1], [4, 1], over, { times: 2, across }).map((m) => [m.dx, m.dy]);
  expect(ways()).toEqual([
    [3, 0],
    [6, 0],
  ]);
  // Two copies along and one across: six places, of which the object itself has one.
  expect(ways([1, 6], 1)).toEqual([
    [3, 0],
    [6, 0],
    [0, 5],
    [3, 5],
    [6, 5],
  ]);
});

it("labels never lie on each other or on what is taken, and the important ones come first", () => {
  const wanted: Wanted[] = Array.from({ length: 120 }, (_, k) => ({
    x: 40 + (k % 12) * 18,
    y: 60 + Math.floor(k / 12) * 14,
    text: `C${k}`,
    priority: k,
  }));
  const done = place(wanted, 400, 300, [{ left: 0, top: 0, width: 400, height: 50 } as DOMRect]);
  expect(done.length).toBeGreaterThan(10);
  expect(done[0]?.text).toBe("C119");
  done.forEach((a, i) => {
    expect(a.top).toBeGreaterThanOrEqual(50);
    for (const b of done.slice(i + 1)) {
      const apart =
        a.left + a.width <= b.left ||
        b.left + b.width <= a.left ||
        a.top + a.height <= b.top ||
        b.top + b.height <= a.top;
      expect(apart, `${a.text} ${b.text}`).toBe(true);
    }
  });
});

it("solids stand at their levels", () => {
  const levels = solidsOf(document).map((s) => [s.ref.id, Number(s.bottom.toFixed(9)), Number(s.top.toFixed(9))]);
  expect(levels).toEqual([
    ["S1", -0.25, 0],
    ["T1", -0.4, -0.25],
    ["B1", -0.5, -0.25],
    ["B1", 0, 0.1],
    ["C1", -3.4, -0.4],
    ["C1", 0, 3],
  ]);
  expect(solidsOf(document)[0]?.holes).toHaveLength(1);
});
