import type { components } from "../api/generated";
import { read, type System, written } from "../units/quantities";
import type { Kind, Labelled, Ref } from "./floor";
import { withValue } from "./property";

/** What a project's floors share, typed by the server's model. */
export type ProjectDocument = components["schemas"]["Project"];
export type GridSet = components["schemas"]["ParallelLines"] | components["schemas"]["SingleLine"];

/** The project with one value of its materials, or the label of a grid line, set. */
export function withShared(
  project: ProjectDocument,
  kind: Kind,
  refs: Ref[],
  path: string,
  value: unknown,
): ProjectDocument {
  const ids = new Set(refs.map((r) => r.id));
  if (kind === "grid")
    return {
      ...project,
      grid_sets: (project.grid_sets ?? []).map((s) =>
        s.kind === "single"
          ? ids.has(s.id)
            ? ({ ...s, id: String(value) } as GridSet)
            : s
          : { ...s, labels: s.labels.map((l) => (ids.has(l) ? String(value) : l)) },
      ),
    };
  const list = ((project[kind as keyof ProjectDocument] as unknown as Labelled[] | undefined) ?? []).map((m) =>
    ids.has(m.id) ? withValue(m, path, value) : m,
  );
  return { ...project, [kind]: list };
}

/** What stands for the base in a choice of levels: no label begins with a space. */
export const BASE = " base";
type LevelOf = { id: string; height_m: number };

/** Levels from the lowest up with one more: above another one, above the base, or (null) on top. */
export function levelInserted(levels: readonly LevelOf[], level: LevelOf, above: string | null): LevelOf[] {
  const place = above === null ? levels.length : above === BASE ? 0 : levels.findIndex((l) => l.id === above) + 1;
  return [...levels.slice(0, place), level, ...levels.slice(place)];
}

/** Spacings as written: `3@7.2, 6.6` is three of 7.2 and one of 6.6. Null if a part cannot be read. */
export function spacingsOf(text: string, system: System): number[] | null {
  const out: number[] = [];
  for (const part of text.split(/[;\s]\s*|,\s+/).filter((p) => p.trim())) {
    const [times, each] = part.includes("@") ? part.split("@") : ["1", part];
    const value = read(each ?? "", "length", system);
    if (!/^\d{1,3}$/.test((times ?? "").trim()) || value === null || value <= 0) return null;
    for (let k = 0; k < Number(times); k++) out.push(value);
  }
  return out;
}

/** Spacings written with repeats taken together. */
export function spacingsText(spacings: number[], system: System): string {
  const parts: string[] = [];
  for (let i = 0; i < spacings.length; ) {
    let n = 1;
    while (i + n < spacings.length && Math.abs((spacings[i + n] as number) - (spacings[i] as number)) < 1e-9) n++;
    const one = written(spacings[i] as number, "length", system);
    parts.push(n > 1 ? `${n}@${one}` : one);
    i += n;
  }
  return parts.join(", ");
}

/** The next labels after a first one: `A` gives A, B, …, Z, AA; `1` gives 1, 2, …; others get a number. */
export function labelsFrom(first: string, count: number): string[] {
  const out = [first];
  while (out.length < count) out.push(after(out[out.length - 1] as string));
  return out;
}

function after(label: string): string {
  const number = /^(.*?)(\d+)$/.exec(label);
  if (number) return `${number[1]}${Number(number[2]) + 1}`;
  const last = label.slice(-1);
  if (last === "Z" || last === "z") {
    const low = last === "z" ? "a" : "A";
    return label.length > 1 ? after(label.slice(0, -1)) + low : low + low;
  }
  return /[A-Ya-y]$/.test(label) ? label.slice(0, -1) + String.fromCharCode(last.charCodeAt(0) + 1) : `${label}1`;
}
