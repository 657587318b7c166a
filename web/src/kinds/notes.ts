import type { Vertex } from "../model/floor";
import { disc, path } from "../model/shapes";
import type { KindFile } from "./kind";

const LONGEST = 40;

/** What the plan writes of a remark: all of a short one, the beginning of a long one. */
const short = (text: string) => (text.length > LONGEST ? `${text.slice(0, LONGEST - 1).trimEnd()}…` : text);

export const notes: KindFile = {
  kind: "notes",
  singular: "Note",
  plural: "Notes",
  prefix: "N",
  layer: 14,
  copied: true,
  table: { step: "build" },
  names: { id: "Name", text: "Remark", "at.0": "x", "at.1": "y" },
  more: { text: { wide: true } },
  tools: [{ key: "note", name: "Note", letter: "6", form: "point", group: "draw", asks: ["where it stands"] }],
  start: () => ({ text: "" }),
  look: () => "probe",
  shape: (i) => path(disc(i.at as Vertex, 0.08)),
  caption: (i, { scale }) => (scale > 8 ? { text: short((i.text as string) || i.id), rank: 3 } : null),
};
