import { type KindFile, OUTLINE } from "./kind";

export const mats: KindFile = {
  kind: "mats",
  singular: "Mat",
  plural: "Mats",
  prefix: "M",
  layer: 5,
  drawn: "mats",
  surface: true,
  copied: true,
  table: { step: "build" },
  names: {
    id: "Name",
    face: "Face",
    direction: "Direction",
    bar_mm: "Bar",
    spacing_mm: "Spacing",
    layer: "Layer",
    outline: "Corners",
  },
  tools: [{ key: "mat", name: "Mat", letter: "J", form: "outline", group: "draw", asks: OUTLINE }],
  start: () => ({ face: "bottom", direction: "x", bar_mm: 12, spacing_mm: 200 }),
  look: (i) => (i.direction === "x" ? "mat" : "mat across"),
};
