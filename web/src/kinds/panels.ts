import { type KindFile, OUTLINE } from "./kind";

export const panels: KindFile = {
  kind: "panels",
  singular: "Panel",
  plural: "Panels",
  prefix: "PN",
  layer: 9,
  drawn: "panels",
  surface: true,
  table: { step: "arrange", name: "Own panels" },
  names: { id: "Name", outline: "Corners" },
  tools: [{ key: "panel", name: "Panel", letter: "5", form: "outline", group: "arrange", asks: OUTLINE }],
  look: () => "panel own",
};
