import { ENDS, type KindFile } from "./kind";

export const slices: KindFile = {
  kind: "slices",
  singular: "Slice",
  plural: "Slices",
  prefix: "X",
  layer: 12,
  drawn: "none",
  names: { id: "Name", quantity: "Quantity", width_m: "Averaged over", line: "Line" },
  tools: [{ key: "slice", name: "Slice", letter: "4", form: "two", group: "read", asks: ENDS }],
  start: () => ({ quantity: "mn", width_m: 0 }),
};
