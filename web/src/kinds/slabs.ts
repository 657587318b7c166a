import { measured } from "../units/quantities";
import { concretes, type KindFile, labelsOf, NAMED_AT, OUTLINE } from "./kind";

export const slabs: KindFile = {
  kind: "slabs",
  singular: "Slab",
  plural: "Slabs",
  prefix: "S",
  layer: 0,
  surface: true,
  copied: true,
  table: { step: "build" },
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
  caption: (i, { step, scale, system }) =>
    scale > 8 && NAMED_AT.includes(step)
      ? { text: step === "build" ? `${i.id} ${measured(i.thickness_m as number, "size", system)}` : i.id, rank: 1 }
      : null,
};
