export type Level = { name: string; z: number };
type Storey = { id: string; elevation_m: number; below_m: number };

/** How far (m) beyond what is built a level is still drawn. */
const NEAR = 0.5;

/** The levels that what is built reaches, about the datum of a floor on one of them, from the lowest up; the base lies below the lowest. */
export function levelsOf(storeys: Storey[], here: string | null, floor: string, low: number, high: number): Level[] {
  const own = storeys.find((s) => s.id === here);
  if (!own) return [{ name: floor, z: 0 }];
  const base = Math.min(...storeys.map((s) => s.elevation_m - s.below_m));
  return [{ id: "base", elevation_m: base }, ...storeys]
    .map((s) => ({ name: s.id, z: s.elevation_m - own.elevation_m }))
    .filter((l) => l.z >= low - NEAR && l.z <= high + NEAR)
    .sort((a, b) => a.z - b.z);
}

/** Places in order, pushed apart to at least a distance, and back up from the foot of the drawing where there is room above. */
export function spread(at: number[], gap: number, foot: number): number[] {
  const out = [...at];
  for (let i = 1; i < out.length; i++) out[i] = Math.max(out[i] as number, (out[i - 1] as number) + gap);
  for (let i = out.length - 1, most = foot; i >= 0; i--, most -= gap) out[i] = Math.min(out[i] as number, most);
  return out;
}
