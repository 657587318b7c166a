import { type KindFile, OUTLINE } from "./kind";

export const designed_bars: KindFile = {
  kind: "designed_bars",
  singular: "Bars",
  plural: "Bars kept",
  prefix: "K",
  layer: 6,
  drawn: "mats",
  copied: true,
  table: { step: "build" },
  names: {
    id: "Mark",
    face: "Face",
    direction: "Layer of",
    bar_mm: "Bar",
    spacing_mm: "Spacing",
    angle_deg: "Angle",
    locked: "Locked",
    origin: "Origin",
    outline: "Corners",
  },
  tools: [{ key: "bars", name: "Bars", letter: "7", form: "outline", group: "draw", asks: OUTLINE }],
  start: () => ({ face: "top", direction: "x", bar_mm: 12, spacing_mm: 150, origin: "drawn" }),
  look: (i) => (i.direction === "x" ? "mat" : "mat across"),
};
