import type { Vertex } from "../model/floor";
import { cross, points } from "../model/shapes";
import { type KindFile, NAMED_AT, OUTLINE } from "./kind";

export const openings: KindFile = {
  kind: "openings",
  singular: "Opening",
  plural: "Openings",
  prefix: "O",
  layer: 6,
  copied: true,
  table: { step: "build" },
  names: { id: "Name", outline: "Corners" },
  tools: [{ key: "opening", name: "Opening", letter: "O", form: "outline", group: "draw", asks: OUTLINE }],
  look: () => "opening",
  mark: (i) => ({ d: cross(points(i.outline as Vertex[])), className: "opening-cross" }),
  caption: (i, { step, scale }) => (scale > 8 && NAMED_AT.includes(step) ? { text: i.id, rank: 1 } : null),
};
