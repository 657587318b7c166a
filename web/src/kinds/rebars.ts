import type { KindFile } from "./kind";

export const rebars: KindFile = {
  kind: "rebars",
  singular: "Steel",
  plural: "Steels",
  prefix: "B",
  table: { step: "setout", name: "Steels" },
  shared: true,
  names: { id: "Name", yield_MPa: "Yield strength", E_MPa: "E" },
  namedBy: [["slabs", "rebar"]],
};
