import { describe, expect, it } from "vitest";
import { designedAlone, withKept } from "../src/model/bars";
import type { FloorDocument } from "../src/model/floor";
import type { Bar, Strip } from "../src/model/results";

const square = (x: number, y: number, of: number) => [
  [x, y],
  [x + of, y],
  [x + of, y + of],
  [x, y + of],
  [x, y],
];
const bar = (mark: string, more: Partial<Bar>) =>
  ({
    mark,
    face: "top",
    direction: "x",
    layer: "outer",
    bar_mm: 12,
    spacing_mm: 150,
    angle_deg: 0,
    outline: square(0, 0, 2),
    origin: "designed",
    why: [{ strip: "x1-0-column", station: 1, provision: "strength", combination: "U1" }],
    ...more,
  }) as Bar;

describe("bars that are kept", () => {
  it("have every corner once, though clipping left two of them a hair apart", () => {
    const outline = [
      [0, 0],
      [2, 0],
      [2, 0.00002],
      [2, 1],
      [0, 1],
      [0, 0.00003],
      [0, 0],
    ] as Bar["outline"];
    const kept = withKept({} as FloorDocument, bar("TX", { outline }), "designed").designed_bars?.[0];
    expect(kept?.outline).toEqual([
      [0, 0],
      [2, 0.00002],
      [2, 1],
      [0, 1],
    ]);
  });
});

describe("strips that are designed alone", () => {
  const strip = { id: "x1-0-column", direction: "x", angle_deg: 0, outline: [square(-1, -1, 6)] } as unknown as Strip;
  const other = [{ strip: "x2-0-column", station: 1, provision: "strength", combination: "U1" }];
  const bars = [
    bar("mine", {}),
    bar("other", { why: other } as Partial<Bar>),
    bar("kept here", { why: [] }),
    bar("kept across", { why: [], direction: "y", angle_deg: 90 }),
    bar("kept away", { why: [], outline: square(20, 0, 2) as Bar["outline"] }),
    bar("beam's", { why: [] }),
    bar("mat", { origin: "mat", why: [] }),
    bar("hand", { origin: "drawn", why: [] }),
  ];
  const kept = ["kept here", "kept across", "kept away"].map((id) => ({ id, origin: "designed", locked: true }));
  const document = {
    design_bars: true,
    designed_bars: [...kept, { id: "hand", origin: "drawn" }],
  } as unknown as FloorDocument;

  it("let their own groups go, and keep every other one of the slab as it is", () => {
    const alone = designedAlone(document, bars, [strip]);
    expect([alone.gone, alone.kept]).toEqual([2, 4]);
    const groups = alone.document.designed_bars ?? [];
    expect(groups.map((g) => g.id).sort()).toEqual(["hand", "kept across", "kept away", "other"]);
    const made = groups.find((g) => g.id === "other");
    expect(made).toMatchObject({ locked: true, origin: "designed", bar_mm: 12, spacing_mm: 150, angle_deg: 0 });
    expect(made?.outline).toHaveLength(4);
    expect(alone.document.design_bars).toBe(true);
  });
});
