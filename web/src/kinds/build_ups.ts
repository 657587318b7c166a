import type { KindFile } from "./kind";

export const build_ups: KindFile = {
  kind: "build_ups",
  singular: "Build-up",
  plural: "Build-ups",
  prefix: "Build-up ",
  table: { step: "load" },
  shared: true,
  names: { id: "Name", layers: "Layers", extra_kPa: "Besides" },
  more: { layers: { type: "text", wide: true, fallback: "", empty: true } },
};
