import type { Vertex } from "../model/floor";
import { arrow, points } from "../model/shapes";
import { type KindFile, OUTLINE } from "./kind";

export const one_way_areas: KindFile = {
  kind: "one_way_areas",
  singular: "One-way area",
  plural: "One-way areas",
  prefix: "OW",
  layer: 2,
  surface: true,
  copied: true,
  table: { step: "build" },
  names: { id: "Name", angle_deg: "Spans at", outline: "Corners" },
  tools: [{ key: "oneway", name: "One-way area", letter: "Y", form: "outline", group: "draw", asks: OUTLINE }],
  start: () => ({ angle_deg: 0 }),
  look: () => "one-way",
  mark: (i) => ({ d: arrow(points(i.outline as Vertex[]), (i.angle_deg as number) ?? 0), className: "span-arrow" }),
};
