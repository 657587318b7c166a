import { ENDS, type KindFile } from "./kind";

export const grid: KindFile = {
  kind: "grid",
  singular: "Grid line",
  plural: "Grid lines",
  prefix: "G",
  shared: true,
  names: { id: "Name", line: "Line" },
  more: { line: { fixed: true } },
  tools: [{ key: "gridline", name: "Grid line", letter: "G", form: "two", group: "draw", asks: ENDS }],
};
