import { concretes, type KindFile, labelsOf, OUTLINE } from "./kind";

export const slabs: KindFile = {
  kind: "slabs",
  singular: "Slab",
  plural: "Slabs",
  prefix: "S",
  layer: 0,
  names: {
    id: "Name",
    thickness_m: "Thickness",
    top_offset_m: "Top offset",
    fill_kN_m3: "Fill of a set-down",
    concrete: "Concrete",
    rebar: "Steel",
    bar_angle_deg: "Bars at",
    cover_top_mm: "Cover, top",
    cover_bottom_mm: "Cover, bottom",
    priority: "Rank",
    outline: "Corners",
  },
  more: { concrete: concretes, rebar: { type: "choice", choices: (d) => labelsOf(d.rebars) } },
  tools: [{ key: "slab", name: "Slab", letter: "S", form: "outline", group: "draw", asks: OUTLINE }],
  start: ({ document }) => ({
    thickness_m: 0.25,
    concrete: document.concretes[0]?.id ?? "",
    rebar: document.rebars[0]?.id,
    cover_top_mm: 25,
    cover_bottom_mm: 25,
  }),
  look: () => "slab",
};
