import type { CheckFile } from "./check";

export const deflection: CheckFile = {
  name: "deflection",
  title: "Deflection",
  step: "deflection",
  word: "Deflection",
  // The deflection at the end of the stage that the row is about, or with creep under the row's own combination.
  display: (row, results) => {
    const stages = results?.history?.stages ?? [];
    const stage = [...stages].reverse().find((s) => s.combination === row.combination);
    if (stage) return { quantity: "w", of: stage.id, kind: "history" };
    return { quantity: "w", of: row.combination || null, kind: row.combination ? "with creep" : null };
  },
};
