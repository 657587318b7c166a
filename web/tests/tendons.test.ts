import { describe, expect, it } from "vitest";
import { mapped } from "../src/kinds/edits";
import type { FloorDocument, Vertex } from "../src/model/floor";
import type { Results } from "../src/model/results";
import {
  balanced,
  clipped,
  drapeAt,
  fitted,
  fromStrips,
  levelAt,
  liftsOf,
  piecesOf,
  profileOver,
  STRAND,
  spacingOf,
  spreadOver,
  supportsAlong,
  type Tendon,
  withStrand,
} from "../src/model/tendons";

const floor = () =>
  ({
    slabs: [
      {
        id: "S1",
        outline: [
          [0, 0],
          [16, 0],
          [16, 8],
          [0, 8],
        ],
        thickness_m: 0.25,
        cover_top_mm: 25,
        cover_bottom_mm: 25,
      },
    ],
    columns: [0, 8, 16].flatMap((x) => [0, 8].map((y) => ({ id: `C${x}${y}`, at: [x, y], below: { height_m: 3 } }))),
    thickenings: [
      {
        id: "D",
        kind: "drop_panel",
        outline: [
          [7, -1],
          [9, -1],
          [9, 1],
          [7, 1],
        ],
        thickness_m: 0.4,
        priority: 1,
      },
    ],
    openings: [
      {
        id: "O",
        outline: [
          [3, 3],
          [5, 3],
          [5, 5],
          [3, 5],
        ],
      },
    ],
    load_cases: [
      { id: "G", nature: "self_weight" },
      { id: "PF", nature: "wind" },
    ],
    combinations: [
      { id: "U1", limit_state: "ultimate", factors: { G: 1.35 } },
      { id: "Q1", limit_state: "quasi_permanent", factors: { G: 1 } },
    ],
  }) as unknown as FloorDocument;

const point = (s_m: number, z_mm: number, tangent: "free" | "level" | "kink", reverse = 0.1) => ({
  s_m,
  z_mm,
  tangent,
  reverse,
});

describe("profiles", () => {
  it("are parabolas between level points that meet with one tangent", () => {
    const pieces = piecesOf([point(0, -100, "level"), point(10, -200, "level", 0.5)]);
    expect(levelAt(pieces, 1)).toBeCloseTo(-110, 9);
    expect(levelAt(pieces, 10)).toBeCloseTo(-200, 9);
    const step = 1e-4;
    const slope = (s: number) => (levelAt(pieces, s + step) - levelAt(pieces, s - step)) / (2 * step);
    expect(slope(0.999)).toBeCloseTo(slope(1.001), 1);
  });
  it("are straight beside a kink and between free points, and one parabola where one is level", () => {
    expect(levelAt(piecesOf([point(0, 0, "level"), point(4, -80, "kink")]), 1)).toBeCloseTo(-20, 9);
    expect(levelAt(piecesOf([point(0, -100, "free"), point(10, -200, "level")]), 5)).toBeCloseTo(-175, 9);
  });
  it("lift by force and bend", () => {
    // 100 kN with 200 mm sag over 10 m: 8 P a / L2.
    const pieces = piecesOf([point(0, -50, "free"), point(5, -250, "level"), point(10, -50, "free")]);
    expect(liftsOf(pieces, 10, 100).map((l) => [l.s, l.q])).toEqual([
      [2.5, expect.closeTo(1.6, 9)],
      [7.5, expect.closeTo(1.6, 9)],
    ]);
    expect(liftsOf(pieces, 10, 0)).toEqual([]);
  });
  it("tell the drape below the line between the points beside", () => {
    expect(drapeAt([point(0, -100, "free"), point(4, -210, "level"), point(8, -60, "level")], 1)).toBeCloseTo(130, 9);
    expect(drapeAt([point(0, -100, "free"), point(4, -60, "level"), point(8, -90, "free")], 1)).toBeNull();
  });
  it("go by cover over supports and in spans, in drops as deep as these are", () => {
    const line = [
      [0, 0],
      [16, 0],
    ];
    expect(supportsAlong(floor(), line).map((s) => s.id)).toEqual(["C00", "C80", "C160"]);
    const profile = profileOver(floor(), line, 16);
    expect(profile.map((p) => [p.s_m, p.z_mm])).toEqual([
      [0, -125],
      [4, -212],
      [8, -38],
      [12, -212],
      [16, -125],
    ]);
    // Each slab's own cover, and 5 mm more.
    const two = floor();
    const slab = two.slabs[0] as (typeof two.slabs)[number];
    two.slabs.push({ ...slab, id: "S2", priority: 1, cover_top_mm: 40, cover_bottom_mm: 50, outline: [[6, -1], [17, -1], [17, 17], [6, 17]] }); // biome-ignore format: one line
    expect(profileOver(two, line, 16).map((p) => p.z_mm)).toEqual([-125, -212, -53, -187, -125]);
  });
  it("stretch with their line", () => {
    const tendon = {
      id: "T",
      line: [
        [0, 0],
        [20, 0],
      ],
      profile: [point(0, -1, "free"), point(4, -2, "level"), point(16, -1, "free")],
    };
    expect((fitted(tendon).profile as Tendon["profile"]).map((p) => p.s_m)).toEqual([0, 5, 20]);
    const document = {
      ...floor(),
      tendons: [
        {
          ...tendon,
          line: [
            [0, 0],
            [16, 0],
          ],
        },
      ],
    } as unknown as FloorDocument;
    const after = mapped(document, [{ kind: "tendons", id: "T" }], (i) => ({
      ...i,
      line: [
        [0, 0],
        [8, 0],
      ],
    }));
    expect(after.tendons?.[0]?.profile.at(-1)?.s_m).toBe(8);
  });
});

describe("laying", () => {
  it("clips lines to the floor and ends them before openings", () => {
    expect(clipped(floor(), [0, 4], 0)).toEqual([
      [
        [0, 4],
        [2.9, 4],
      ],
      [
        [5.1, 4],
        [16, 4],
      ],
    ]);
  });
  it("spreads tendons over a region, by their spacing or by their force", () => {
    const region: Vertex[] = [
      [1, 1],
      [15, 1],
      [15, 7],
      [1, 7],
    ];
    const how = { angle: 0, strands: 2, by: "spacing" as const, spacing: 1.6, force: 300, jack: 1400 };
    const made = spreadOver(floor(), region, how) as unknown as Tendon[];
    // Four spaces of 1.5 m in 6 m; those through the opening are two each.
    expect([...new Set(made.map((t) => Number(t.line[0]?.[1]?.toFixed(3))))]).toEqual([1.75, 3.25, 4.75, 6.25]);
    for (const t of made) {
      expect(t.count).toBe(2);
      expect(t.group).toBe("spread 1");
      expect(Math.min(...t.line.map((p) => p[0] ?? 0))).toBeGreaterThanOrEqual(1);
      expect(Math.max(...t.line.map((p) => p[0] ?? 0))).toBeLessThanOrEqual(15);
    }
    // 2 x 150 mm2 x 1400 MPa = 420 kN, 300 kN/m: 1.4 m, so five in 6 m.
    const strand = { ...STRAND, area_mm2: 150 };
    expect(spacingOf({ ...how, by: "force" }, strand)).toBeCloseTo(1.4, 9);
    const forced = spreadOver({ ...floor(), strands: [strand] }, region, { ...how, by: "force", angle: 90 });
    // Across 14 m along y: ten.
    expect(new Set(forced.map((t) => (t as unknown as Tendon).line[0]?.[0]?.toFixed(2))).size).toBe(10);
    expect(spreadOver(floor(), region.map(([x = 0, y = 0]) => [x + 50, y]) as Vertex[], how)).toEqual([]);
  });
  it("lays bands on the axes of column strips and others across them, each with its profile", () => {
    const strip = (id: string, direction: string, angle_deg: number, axis: number[][]) =>
      ({ id, direction, kind: "column", on_wall: false, angle_deg, axis }) as never;
    const results = {
      strips: [
        strip("x0-0-column", "x", 0, [
          [0, 1],
          [16, 1],
        ]),
        strip("y3-0-column", "y", 90, [
          [8, 0],
          [8, 8],
        ]),
      ],
    } as unknown as Results;
    const how = { bands: "x" as const, strand: "none", tendons: 3, strands: 4, spacing: 4, across: 1, jack: 1400 };
    const made = fromStrips(floor(), results, how) as unknown as Tendon[];
    const bands = made.filter((t) => t.group === "band 1");
    expect(bands.map((t) => [t.count, t.line[0]?.[1]])).toEqual([
      [4, 0.75],
      [4, 1],
      [4, 1.25],
    ]);
    const others = made.filter((t) => t.group === "distributed");
    // Four spaces of 3.85 m between tendons 0.3 m from the edges; the one through the opening is two.
    expect(others.map((t) => Number(t.line[0]?.[0]?.toFixed(2)))).toEqual([15.7, 11.85, 8, 4.15, 4.15, 0.3]);
    for (const t of made) {
      const length = Math.hypot(...([0, 1] as const).map((k) => (t.line[1]?.[k] ?? 0) - (t.line[0]?.[k] ?? 0)));
      expect(t.profile.at(-1)?.s_m).toBeCloseTo(length, 9);
      for (const p of t.profile) expect(p.z_mm).toBeLessThan(0);
    }
  });
  it("brings a strand, the three cases and their places in combinations", () => {
    const after = withStrand(floor());
    expect(after.strands).toHaveLength(1);
    expect(after.load_cases?.filter((c) => c.effect).map((c) => [c.id, c.effect])).toEqual([
      ["PT", "transfer"],
      ["PF2", "final"],
      ["PS", "secondary"],
    ]);
    expect(after.combinations?.map((c) => c.factors)).toEqual([
      { G: 1.35, PS: 1 },
      { G: 1, PF2: 1 },
      { G: 1, PT: 1 },
    ]);
    expect(withStrand(after)).toEqual(after);
  });
  it("counts strands for a share of what lasts, up to common precompression", () => {
    const tendon = (id: string, line: number[][], count: number) => ({ id, line, count, profile: [] });
    const document = {
      ...floor(),
      tendons: [
        tendon(
          "A",
          [
            [0, 4],
            [16, 4],
          ],
          4,
        ),
        tendon(
          "B",
          [
            [0, 6],
            [16, 6],
          ],
          2,
        ),
        tendon(
          "C",
          [
            [3, 0],
            [3, 8],
          ],
          3,
        ),
      ],
    } as unknown as FloorDocument;
    const results = {
      strips: [
        { id: "x0", direction: "x", angle_deg: 0, area_m2: 10 },
        { id: "x1", direction: "x", angle_deg: 0, area_m2: 30 },
        { id: "y0", direction: "y", angle_deg: 90, area_m2: 10 },
      ],
      precompression: [
        { strip: "x0", balanced_share: 0.8, design_strip_P_over_A_MPa: 1.0 },
        { strip: "x1", balanced_share: 0.4, design_strip_P_over_A_MPa: 1.2 },
        { strip: "y0", balanced_share: 0.3, design_strip_P_over_A_MPa: 1.0 },
      ],
    } as unknown as Results;
    const found = balanced(document, results, 0.8);
    // Along x half is balanced: 1.6 times as many, 7 and 4 of 6; along y 2.67 times, but 2.5 MPa is reached at 2.5 times.
    expect([...found.counts]).toEqual([
      ["A", 7],
      ["B", 4],
      ["C", 8],
    ]);
    expect(found.reached.map((r) => [r.direction, r.capped])).toEqual([
      ["x", false],
      ["y", true],
    ]);
    expect(found.reached[0]?.was).toBeCloseTo(0.5, 9);
    expect(found.reached[0]?.now).toBeCloseTo((0.5 * 11) / 6, 9);
  });
});
