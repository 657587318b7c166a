import type { CheckFile } from "./check";

/** Fire from below, by tables. */
export const fire: CheckFile = {
  name: "fire",
  title: "Fire",
  step: "steel",
  word: "Fire resistance",
  display: () => ({}),
};
