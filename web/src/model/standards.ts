import type { components } from "../api/generated";
import type { FloorDocument } from "./floor";

export type StandardState = components["schemas"]["StandardState"];

const known = new Map<string, StandardState>();

/** Keeps what the server tells of the design standards. */
export function learn(standards: StandardState[]) {
  for (const s of standards) known.set(s.name, s);
}

export const standardNames = () => [...known.keys()];
export const standardOf = (name: string): StandardState | undefined => known.get(name);

/** Categories of use of a floor's standard. */
export const categoriesOf = (d: FloorDocument): string[] => Object.keys(known.get(d.standard ?? "")?.categories ?? {});
