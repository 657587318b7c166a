import type { CheckFile } from "./check";
import { flexure } from "./flexure";

export const cracks: CheckFile = {
  name: "crack_width",
  title: "Cracks",
  step: "steel",
  word: "Cracks",
  display: flexure.display,
};
