import type { Results, Uncovered } from "../model/results";
import type { StepName } from "../model/step";

/** Parts of the floor that lie in no strip: at the steps that are about strips, for the direction that is shown. */
export function bareOf(results: Results | null, step: StepName, strips: "off" | "x" | "y"): Uncovered[] {
  if (step !== "strips" && step !== "steel") return [];
  return (results?.uncovered ?? []).filter((u) => u.outline && (strips === "off" || u.direction === strips));
}
