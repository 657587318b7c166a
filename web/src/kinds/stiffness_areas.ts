import { type KindFile, OUTLINE } from "./kind";

export const stiffness_areas: KindFile = {
  kind: "stiffness_areas",
  singular: "Stiffness area",
  plural: "Stiffness areas",
  prefix: "K",
  layer: 3,
  surface: true,
  copied: true,
  table: { step: "build" },
  names: {
    id: "Name",
    angle_deg: "Along",
    bending_along: "Bending along ×",
    bending_across: "Bending across ×",
    twist: "Twist ×",
    membrane_along: "Membrane along ×",
    membrane_across: "Membrane across ×",
    membrane_shear: "Membrane shear ×",
    outline: "Corners",
  },
  tools: [{ key: "stiffness", name: "Stiffness area", letter: "H", form: "outline", group: "draw", asks: OUTLINE }],
  start: () => ({ angle_deg: 0, bending_along: 0.5, bending_across: 0.5, twist: 0.5 }),
  look: () => "stiffness",
};
