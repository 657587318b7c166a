import { describe, expect, it } from "vitest";
import { centredOn, columnsOnCrossings, otherWays, outlineOfGrid } from "../src/kinds/together";
import type { FloorDocument, Labelled } from "../src/model/floor";
import { ahead } from "../src/plan/ModelLayer";

const line = (id: string, ax: number, ay: number, bx: number, by: number) => ({
  id,
  line: [
    [ax, ay],
    [bx, by],
  ],
});
const square = (x0: number, y0: number, x1: number, y1: number) => [
  [x0, y0],
  [x1, y0],
  [x1, y1],
  [x0, y1],
];
const document = {
  grid: [
    line("A", 0, -1, 0, 13),
    line("B", 6, -1, 6, 13),
    line("1", -1, 0, 20, 0),
    line("2", -1, 6, 20, 6),
    line("C2", 18, -1, 18, 13),
  ],
  slabs: [{ id: "S1", outline: square(-0.2, -0.2, 12, 12) }],
  openings: [{ id: "O1", outline: square(5.5, 5.5, 6.5, 6.5) }],
  columns: [{ id: "old", at: [0.1, 6.1] }],
} as unknown as FloorDocument;

describe("a slab over the grid", () => {
  const grid = (lines: number[][][]) =>
    ({ slabs: [], grid: lines.map((line, k) => ({ id: `${k}`, line })) }) as unknown as FloorDocument;
  it("goes beyond its outermost crossings by a distance, turned grids too", () => {
    const square = grid([[[0, -1], [0, 9]], [[4, -1], [4, 9]], [[8, -1], [8, 9]], [[-1, 0], [9, 0]], [[-1, 6], [9, 6]]]); // biome-ignore format: lines read best side by side
    expect(outlineOfGrid(square, 0.2)).toEqual([[-0.2, -0.2], [8.2, -0.2], [8.2, 6.2], [-0.2, 6.2]]); // biome-ignore format: lines read best side by side
    const c = Math.SQRT1_2;
    const turned = grid([[[0, 0], [5 * c, 5 * c]], [[-3 * c, 3 * c], [2 * c, 8 * c]], [[0, 0], [-3 * c, 3 * c]], [[5 * c, 5 * c], [2 * c, 8 * c]]]); // biome-ignore format: lines read best side by side
    const found = outlineOfGrid(turned, 0.5) ?? [];
    const area = found.reduce((t, p, i) => {
      const q = found[(i + 1) % found.length] as [number, number];
      return t + (p[0] * q[1] - p[1] * q[0]) / 2;
    }, 0);
    expect(area).toBeCloseTo(6 * 4, 6);
    expect(
      outlineOfGrid(
        grid([
          [
            [0, 0],
            [5, 0],
          ],
          [
            [0, 1],
            [5, 1],
          ],
        ]),
        0,
      ),
    ).toBeNull();
  });
});

describe("what is made of several objects at once", () => {
  it("columns stand on the crossings of the chosen lines that are free and on the floor, named by the lines", () => {
    const like = { shape: { kind: "circle", diameter_m: 0.4 }, concrete: "C30" };
    const made = columnsOnCrossings(document, ["A", "B", "1", "2", "C2"], like);
    // B-2 is an opening, A-2 has a column, C2 lies beside the floor, A and B never meet.
    expect(made.map((c) => [(c as Labelled).id, c.at])).toEqual([
      ["A1", [0, 0]],
      ["B1", [6, 0]],
    ]);
    expect(made[0]).toMatchObject(like);
    expect(columnsOnCrossings(document, ["1", "2"], like)).toEqual([]);
    const bare = { ...document, slabs: [] } as FloorDocument;
    expect(columnsOnCrossings(bare, ["1", "C2"], like).map((c) => (c as Labelled).id)).toEqual(["C2-1"]);
  });

  it("drop panels lie about their columns and turn with them", () => {
    const [plain, turned] = centredOn(
      [{ id: "C1", at: [5, 5] } as Labelled, { id: "C2", at: [0, 0], angle_deg: 90 } as unknown as Labelled],
      2,
      3,
      { kind: "drop_panel", thickness_m: 0.4 },
    );
    expect(plain?.outline).toEqual(square(4, 3.5, 6, 6.5));
    const xs = ((turned?.outline ?? []) as number[][]).map(([x]) => Math.round((x ?? 0) * 1e6) / 1e6);
    expect([Math.min(...xs), Math.max(...xs)]).toEqual([-1.5, 1.5]);
  });

  it("mats are copied to the ways that are missing over the same ground, in the layer that goes with them", () => {
    const mat = {
      id: "M1",
      face: "top",
      direction: "x",
      bar_mm: 16,
      spacing_mm: 150,
      layer: "outer",
    } as unknown as Labelled;
    const mats = [
      mat,
      { ...mat, id: "M2", direction: "y" },
      { ...mat, id: "M3", face: "bottom", outline: square(0, 0, 1, 1) },
    ];
    const made = otherWays({ ...document, mats } as unknown as FloorDocument, mat);
    expect(made).toEqual([
      { face: "bottom", direction: "x", bar_mm: 16, spacing_mm: 150 },
      { face: "bottom", direction: "y", bar_mm: 16, spacing_mm: 150 },
    ]);
  });
});

describe("arrows on the plan", () => {
  it("go to the nearest shape ahead, and stay where there is none", () => {
    const places: [number, number][] = [
      [0, 0],
      [10, 1],
      [6, 9],
      [-5, 0],
    ];
    expect(ahead([0, 0], [1, 0], places)).toBe(1);
    expect(ahead([0, 0], [-1, 0], places)).toBe(3);
    expect(ahead([0, 0], [0, 1], places)).toBe(2);
    expect(ahead([10, 1], [1, 0], places)).toBe(-1);
  });
});
