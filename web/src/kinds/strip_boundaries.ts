import { ENDS, type KindFile } from "./kind";

export const strip_boundaries: KindFile = {
  kind: "strip_boundaries",
  singular: "Strip boundary",
  plural: "Strip boundaries",
  prefix: "E",
  layer: 12,
  copied: true,
  table: { step: "strips", name: "Boundaries" },
  names: { id: "Name", line: "Line" },
  tools: [{ key: "strip_boundary", name: "Strip boundary", letter: "9", form: "two", group: "arrange", asks: ENDS }],
  look: () => "strip-boundary",
};
