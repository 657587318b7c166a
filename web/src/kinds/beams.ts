import type { Vertex } from "../model/floor";
import { path, wallOutline } from "../model/shapes";
import { concretes, type KindFile, PATH } from "./kind";

export const beams: KindFile = {
  kind: "beams",
  singular: "Beam",
  plural: "Beams",
  prefix: "B",
  layer: 7,
  copied: true,
  table: { step: "build" },
  names: {
    id: "Name",
    width_m: "Width",
    depth_m: "Depth overall",
    top_offset_m: "Top offset",
    concrete: "Concrete",
    torsion: "Torsion",
    priority: "Rank",
    line: "Line",
  },
  more: { concrete: concretes },
  tools: [{ key: "beam", name: "Beam", letter: "B", form: "path", group: "draw", asks: PATH }],
  start: ({ document }) => ({
    width_m: 0.4,
    depth_m: 0.6,
    top_offset_m: 0,
    concrete: document.concretes[0]?.id ?? "",
  }),
  look: () => "beam",
  shape: (i) => path(wallOutline(i.line as Vertex[], i.width_m as number)),
  caption: (i, { step, scale }) => (step === "build" && scale > 17 ? { text: i.id, rank: 1 } : null),
};
