import { columnOutline, path } from "../model/shapes";
import { concretes, type KindFile, LEGIBLE, STOREYS, storeyHeights, storeysOf } from "./kind";

export const columns: KindFile = {
  kind: "columns",
  singular: "Column",
  plural: "Columns",
  prefix: "C",
  layer: 11,
  copied: true,
  table: { step: "build" },
  names: {
    id: "Name",
    "at.0": "x",
    "at.1": "y",
    "shape.kind": "Section",
    "shape.b_m": "Width b",
    "shape.d_m": "Depth d",
    "shape.diameter_m": "Diameter",
    angle_deg: "Turned by",
    concrete: "Concrete",
    seen_as: "Strips see it as",
    ...STOREYS,
  },
  more: { concrete: concretes, ...storeyHeights },
  namedBy: [["loads", "support"]],
  tools: [{ key: "column", name: "Column", letter: "C", form: "point", group: "draw", asks: ["the column's middle"] }],
  start: (given) => ({
    shape: { kind: "rectangle", b_m: 0.4, d_m: 0.4 },
    angle_deg: 0,
    concrete: given.document.concretes[0]?.id ?? "",
    ...storeysOf(given),
  }),
  look: (i) => (i.below ? "column" : "column above-only"),
  shape: (i) => path(columnOutline(i as never)),
  caption: (i, { scale, zones }) => (scale > LEGIBLE && !zones ? { text: i.id, rank: 2, must: true } : null),
};
