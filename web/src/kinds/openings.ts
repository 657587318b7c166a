import { type KindFile, OUTLINE } from "./kind";

export const openings: KindFile = {
  kind: "openings",
  singular: "Opening",
  plural: "Openings",
  prefix: "O",
  layer: 5,
  names: { id: "Name", outline: "Corners" },
  tools: [{ key: "opening", name: "Opening", letter: "O", form: "outline", group: "draw", asks: OUTLINE }],
  look: () => "opening",
};
