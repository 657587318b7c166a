import type { Vertex } from "../model/floor";
import { path, wallOutline } from "../model/shapes";
import { concretes, type KindFile, LEGIBLE, NAMED_AT, PATH, STOREYS, storeyHeights, storeysOf } from "./kind";

export const walls: KindFile = {
  kind: "walls",
  singular: "Wall",
  plural: "Walls",
  prefix: "W",
  layer: 10,
  copied: true,
  table: { step: "build" },
  names: {
    id: "Name",
    thickness_m: "Thickness",
    concrete: "Concrete",
    top: "Top",
    seen_as: "Strips see it as",
    ...STOREYS,
    line: "Line",
  },
  more: { concrete: concretes, ...storeyHeights },
  namedBy: [["loads", "support"]],
  tools: [{ key: "wall", name: "Wall", letter: "W", form: "path", group: "draw", asks: PATH }],
  start: (given) => ({
    thickness_m: 0.2,
    concrete: given.document.concretes[0]?.id ?? "",
    top: "monolithic",
    ...storeysOf(given),
  }),
  look: (i) => (i.below ? "wall" : "wall above-only"),
  shape: (i) => path(wallOutline(i.line as Vertex[], i.thickness_m as number)),
  caption: (i, { step, scale }) =>
    NAMED_AT.includes(step) && scale > LEGIBLE ? { text: i.id, rank: 1.5, must: true } : null,
};
