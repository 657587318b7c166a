import { type KindFile, OUTLINE } from "./kind";

export const thickenings: KindFile = {
  kind: "thickenings",
  singular: "Thickening",
  plural: "Thickenings",
  prefix: "T",
  layer: 4,
  surface: true,
  copied: true,
  table: { step: "build" },
  names: {
    id: "Name",
    kind: "Kind",
    thickness_m: "Thickness",
    top_offset_m: "Top offset",
    fill_kN_m3: "Fill",
    priority: "Rank",
    outline: "Corners",
  },
  more: { fill_kN_m3: { when: (i) => i.kind === "recess" } },
  tools: [
    { key: "drop", name: "Drop panel", letter: "D", form: "outline", group: "draw", asks: OUTLINE },
    { key: "recess", name: "Recess", letter: "E", form: "outline", group: "draw", asks: OUTLINE },
  ],
  start: ({ tool }) =>
    tool === "recess"
      ? { kind: "recess", thickness_m: 0.2, top_offset_m: -0.05 }
      : { kind: "drop_panel", thickness_m: 0.4, top_offset_m: 0 },
  look: (i) => `thickening ${i.kind}`,
};
