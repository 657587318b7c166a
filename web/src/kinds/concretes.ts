import type { KindFile } from "./kind";

export const concretes: KindFile = {
  kind: "concretes",
  singular: "Concrete",
  plural: "Concretes",
  prefix: "C",
  table: { step: "setout" },
  shared: true,
  names: {
    id: "Name",
    strength_MPa: "Strength",
    unit_weight_kN_m3: "Unit weight",
    E_MPa: "E, own",
    poisson: "Poisson's ratio",
    creep_coefficient: "Creep φ",
  },
  namedBy: [
    ["slabs", "concrete"],
    ["beams", "concrete"],
    ["columns", "concrete"],
    ["walls", "concrete"],
  ],
};
