import type { FloorDocument } from "./floor";

type Member = NonNullable<FloorDocument["columns"]>[number] | NonNullable<FloorDocument["walls"]>[number];

/** The floor with the heights of its level in columns and walls that follow it; itself where they have them already. */
export function atLevel(document: FloorDocument): FloorDocument {
  const level = document.level;
  if (!level) return document;
  const heights = { below: level.below_m, above: level.above_m ?? null };
  const fitted = <M extends Member>(items: M[] | undefined): M[] | undefined => {
    let changed = false;
    const out = (items ?? []).map((item) => {
      let made = item;
      for (const part of ["below", "above"] as const) {
        const storey = made[part];
        const height = heights[part];
        if (!storey?.by_level || height === null || storey.height_m === height) continue;
        changed = true;
        made = { ...made, [part]: { ...storey, height_m: height } };
      }
      return made;
    });
    return changed ? out : items;
  };
  const [columns, walls] = [fitted(document.columns), fitted(document.walls)];
  if (columns === document.columns && walls === document.walls) return document;
  return { ...document, ...(columns ? { columns } : {}), ...(walls ? { walls } : {}) };
}
