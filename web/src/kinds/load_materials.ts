import type { KindFile } from "./kind";

export const load_materials: KindFile = {
  kind: "load_materials",
  singular: "Material of layers",
  plural: "Materials of layers",
  prefix: "Material ",
  table: { step: "load", name: "Materials" },
  shared: true,
  names: { id: "Name", unit_weight_kN_m3: "Unit weight" },
};
