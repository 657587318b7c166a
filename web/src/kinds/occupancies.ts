import { categoriesOf } from "../model/standards";
import type { KindFile } from "./kind";

export const occupancies: KindFile = {
  kind: "occupancies",
  singular: "Occupancy",
  plural: "Occupancies",
  prefix: "Use ",
  table: { step: "load" },
  shared: true,
  names: {
    id: "Name",
    category: "Category",
    q_kPa: "Live load",
    partitions_kPa: "Movable partitions",
    source: "Source",
  },
  more: { category: { choices: categoriesOf }, source: { wide: true, empty: true } },
};
