import type { CheckFile } from "./check";
import { flexure } from "./flexure";

/** Stresses of bars and pressed concrete in service. */
export const stresses: CheckFile = {
  name: "stress_limits",
  title: "Stresses",
  step: "steel",
  word: "Stress in service",
  display: flexure.display,
};
