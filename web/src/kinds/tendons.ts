import type { Vertex } from "../model/floor";
import { profileOver, STRAND } from "../model/tendons";
import { type KindFile, labelsOf, OUTLINE, PATH } from "./kind";

export const tendons: KindFile = {
  kind: "tendons",
  singular: "Tendon",
  plural: "Tendons",
  prefix: "T",
  layer: 11,
  drawn: "tendons",
  copied: true,
  table: { step: "tendons" },
  names: {
    id: "Name",
    group: "Group",
    strand: "Strand",
    count: "Strands",
    jack_MPa: "Jacking",
    stressed_from: "Stressed from",
    line: "Line",
  },
  more: { strand: { type: "choice", choices: (d) => labelsOf(d.strands) } },
  own: [
    {
      path: "profile.length",
      name: "Points",
      type: "whole",
      fixed: true,
      told: "Drawn and typed in the elevation under the plan.",
      covers: ["profile"],
    },
  ],
  tools: [
    { key: "tendon", name: "Tendon", letter: "0", form: "path", group: "tendons", asks: PATH },
    { key: "spread", name: "Spread", letter: ";", form: "outline", group: "tendons", asks: OUTLINE },
  ],
  // A line that is typed gets its profile over the supports that it passes, as one that is drawn.
  typed: (i, typed, document) => {
    const strand = (document.strands ?? []).find((s) => s.id === i.strand) ?? STRAND;
    const line = typed.line as Vertex[] | undefined;
    return line && line.length > 1
      ? { ...i, strand: strand.id, profile: profileOver(document, line, strand.duct_mm ?? 16) }
      : i;
  },
  start: ({ document }) => ({
    strand: document.strands?.[0]?.id ?? STRAND.id,
    count: 1,
    jack_MPa: 1395,
    stressed_from: "start",
    profile: [],
  }),
  look: (i) => (i.group ? "tendon" : "tendon single"),
  caption: (i, { step, scale }) => (step === "tendons" && scale > 45 ? { text: i.id, rank: 1 } : null),
};
