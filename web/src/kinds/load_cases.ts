import { categoriesOf } from "../model/standards";
import type { KindFile } from "./kind";

export const load_cases: KindFile = {
  kind: "load_cases",
  singular: "Load case",
  plural: "Load cases",
  prefix: "Case ",
  table: { step: "load", name: "Cases" },
  names: {
    id: "Name",
    nature: "Nature",
    category: "Category",
    pattern: "In patterns",
    reversible: "Either sign",
    direction: "Direction",
    group: "Excludes others of",
  },
  more: { category: { choices: categoriesOf } },
  namedBy: [["loads", "case"]],
};
