import { cellText } from "../model/cells";
import type { Labelled } from "../model/floor";
import type { Property } from "../model/property";
import type { System } from "../units/quantities";

export type Sort = { path: string; down: boolean };

/** The rows that hold every word of the filter in some cell, in the order asked for: figures by size, words by letter. */
export function shownRows(
  rows: Labelled[],
  properties: Property[],
  system: System,
  filter: string,
  sort: Sort | null,
): Labelled[] {
  const words = filter.toLowerCase().split(/\s+/).filter(Boolean);
  const kept = words.length
    ? rows.filter((r) => {
        const text = properties
          .map((p) => cellText(p, r, system))
          .join(" ")
          .toLowerCase();
        return words.every((w) => text.includes(w));
      })
    : rows;
  const by = sort && properties.find((p) => p.path === sort.path);
  if (!by) return kept;
  const key = (r: Labelled) => cellText(by, r, system).replace("−", "-");
  return [...kept].sort((a, b) => {
    const [p, q] = [key(a), key(b)];
    const order = p.localeCompare(q, "en", { numeric: true });
    const numbers = Number(p) - Number(q);
    return ((Number.isFinite(numbers) ? numbers : order) || order) * (sort.down ? -1 : 1);
  });
}
