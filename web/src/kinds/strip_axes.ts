import { type KindFile, PATH } from "./kind";

export const strip_axes: KindFile = {
  kind: "strip_axes",
  singular: "Strip axis",
  plural: "Strip axes",
  prefix: "A",
  layer: 12,
  copied: true,
  table: { step: "strips", name: "Axes drawn" },
  names: { id: "Name", line: "Line" },
  tools: [{ key: "strip_axis", name: "Strip axis", letter: "8", form: "path", group: "arrange", asks: PATH }],
  look: () => "strip-axis",
};
