import { beams } from "./beams";
import type { CheckFile } from "./check";
import { cracks } from "./cracks";
import { deflection } from "./deflection";
import { fire } from "./fire";
import { flexure } from "./flexure";
import { prestress } from "./prestress";
import { punching } from "./punching";
import { shear } from "./shear";
import { stresses } from "./stresses";

export type { CheckFile } from "./check";

/** The checks that have something of their own on the screen. */
export const CHECKS: CheckFile[] = [flexure, shear, cracks, stresses, punching, deflection, beams, ...prestress, fire];

/** A check's file; one that the interface does not know yet is shown under its own name. */
export function checkOf(name: string): CheckFile {
  const known = CHECKS.find((c) => c.name === name);
  if (known) return known;
  const title = name.charAt(0).toUpperCase() + name.slice(1).replaceAll("_", " ");
  return { name, title, step: "analyse", word: title, display: () => ({}) };
}
