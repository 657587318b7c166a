import { describe, expect, it } from "vitest";
import { namesOf } from "../src/ledger/StationSurface";
import { designedAlone, drawn, withKept } from "../src/model/bars";
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

it("the names of an axis's spans lie beside each other, inside the margins, however short a cantilever is", () => {
  const spans = (ends: number[], names: string[]) =>
    names.map((label, k) => ({ id: label, label: `column strip ${label}`, s_m: [ends[k], ends[k + 1]] })) as Strip[];
  const wide = 700;
  for (const line of [
    spans([0, 0.4, 7, 14], ["B1 cantilever", "B1–B2", "B2–B3"]),
    spans([0, 7, 14, 14.4], ["E1–F1", "F1–G1", "G1 cantilever"]),
  ]) {
    const named = namesOf(line, (s) => 64 + (s / 14.4) * 620, wide);
    let last = 64;
    for (const { label, at } of named) {
      expect(at - label.length * 3.3).toBeGreaterThanOrEqual(last);
      last = at + label.length * 3.3;
    }
    expect(last).toBeLessThanOrEqual(wide);
  }
});

describe("bars on the plan", () => {
  const all = [
    bar("TX1", {}),
    bar("BY1", { face: "bottom", direction: "y" }),
    bar("BX1", { face: "bottom" }),
    bar("M1", { origin: "mat" }),
    bar("L1", { shape: "link", row: "shear/walls/W1", face: "bottom" }),
  ];
  const marks = (shown: string | null, chosen: string | null) => drawn(all, shown, chosen).map((b) => b.mark);

  it("are those of the face and direction that is looked at, with links and without mats", () => {
    expect(marks("top x", null)).toEqual(["TX1", "L1"]);
    expect(marks("bottom y", null)).toEqual(["BY1", "L1"]);
  });
  it("are the chosen group too, whatever is looked at", () => {
    expect(marks("top x", "BY1")).toEqual(["TX1", "BY1", "L1"]);
    expect(marks(null, "BX1")).toEqual(["BX1"]);
    expect(marks(null, null)).toEqual([]);
  });
});
