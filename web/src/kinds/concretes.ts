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
    transfer_strength_MPa: "At transfer",
    tension_MPa: "In tension",
    "E_at.days": "E known at day",
    "E_at.MPa": "E known",
    "creep_at.days": "Creep known at day",
    "creep_at.loaded_days": "loaded on day",
    "creep_at.value": "Creep known",
    "shrinkage_at.days": "Shrinkage known at day",
    "shrinkage_at.microstrain": "Shrinkage known, 10⁻⁶",
  },
  namedBy: [
    ["slabs", "concrete"],
    ["beams", "concrete"],
    ["columns", "concrete"],
    ["walls", "concrete"],
  ],
};
