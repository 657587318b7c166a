import type { CheckFile } from "./check";

export const flexure: CheckFile = {
  name: "flexure",
  title: "Flexure",
  step: "steel",
  word: "Steel",
  // The steel field of the row's own face and direction; it is the envelope of all ultimate combinations, as the row is.
  display: (row, results) => {
    const strip = results?.strips.find((s) => s.id === row.id.of.id);
    return { quantity: "steel", of: strip ? `${row.id.face} ${strip.direction}` : null, kind: "required" };
  },
};
