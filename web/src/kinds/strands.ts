import type { KindFile } from "./kind";

export const strands: KindFile = {
  kind: "strands",
  singular: "Strand",
  plural: "Strands",
  prefix: "S",
  table: { step: "tendons" },
  names: {
    id: "Name",
    area_mm2: "Area",
    fpk_MPa: "Strength",
    fp01k_MPa: "Proof stress",
    E_MPa: "Modulus",
    bond: "Bond",
    friction_mu: "Friction μ",
    wobble_rad_m: "Wobble k",
    draw_in_mm: "Draw-in",
    relaxation_class: "Relaxation class",
    rho1000_pct: "Relaxation in 1000 h, %",
    duct_mm: "Sheath",
    anchor_mm: "Anchor, height",
    mass_kg_m: "Mass, kg/m",
  },
  more: { relaxation_class: { type: "whole", choices: undefined, fallback: 2 } },
  namedBy: [["tendons", "strand"]],
  start: () => ({ area_mm2: 150, fpk_MPa: 1860, fp01k_MPa: 1640 }),
};
