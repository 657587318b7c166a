import { type KindFile, OUTLINE } from "./kind";

export const one_way_areas: KindFile = {
  kind: "one_way_areas",
  singular: "One-way area",
  plural: "One-way areas",
  prefix: "OW",
  layer: 1,
  names: { id: "Name", angle_deg: "Spans at", outline: "Corners" },
  tools: [{ key: "oneway", name: "One-way area", letter: "Y", form: "outline", group: "draw", asks: OUTLINE }],
  start: () => ({ angle_deg: 0 }),
  look: () => "one-way",
};
