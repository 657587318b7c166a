import type { KindFile } from "./kind";

export const combinations: KindFile = {
  kind: "combinations",
  singular: "Combination",
  plural: "Combinations",
  prefix: "K",
  table: { step: "combine" },
  names: { id: "Name", limit_state: "Limit state", rule: "Rule", edited: "Edited" },
  more: { rule: { fixed: true }, edited: { fixed: true } },
  own: [{ path: "factor", name: "Factors", type: "number", covers: ["factors"] }],
};
