import { type KindFile, OUTLINE, PATH } from "./kind";

export const supports: KindFile = {
  kind: "supports",
  singular: "Support",
  plural: "Supports",
  prefix: "R",
  layer: 1,
  copied: true,
  table: { step: "build" },
  names: {
    id: "Name",
    kind: "Kind",
    vertical: "Vertical",
    rotation: "Rotation",
    modulus_kN_m3: "Bedding modulus",
    compression_only: "Lets go in tension",
    "at.0": "x",
    "at.1": "y",
    line: "Line",
    outline: "Corners",
  },
  more: { kind: { fixed: true } },
  tools: [
    { key: "linesupport", name: "Line support", letter: "I", form: "path", group: "draw", asks: PATH },
    { key: "pointsupport", name: "Point support", letter: "P", form: "point", group: "draw", asks: ["the support"] },
    { key: "bedding", name: "Bedding", letter: "U", form: "outline", group: "draw", asks: OUTLINE },
  ],
  start: ({ tool }) =>
    tool === "bedding"
      ? { kind: "area", modulus_kN_m3: 40000, compression_only: true }
      : { kind: tool === "pointsupport" ? "point" : "line", vertical: "fixed", rotation: "free" },
  look: (i) => (i.kind === "area" ? "bedding" : i.kind === "line" ? "line-support" : "point-support"),
};
