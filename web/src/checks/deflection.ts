import type { CheckFile } from "./check";

export const deflection: CheckFile = {
  name: "deflection",
  title: "Deflection",
  step: "deflection",
  word: "Sag",
  // The deflection with creep under the row's own combination.
  display: (row) => ({ quantity: "w", of: row.combination || null, kind: row.combination ? "with creep" : null }),
};
