import type { FloorDocument } from "./floor";
import type { Zone } from "./results";

type Pair = [number, number];
export type ZoneSetting = NonNullable<FloorDocument["zone_settings"]>[number];
export type RailSetting = NonNullable<ZoneSetting["rails"]>;
export type Remedy = Zone["remedies"][number];
type Item = Record<string, unknown>;

/** The floor with a remedy's objects: each takes the place of the one with its id, of a zone's settings with its zone, or joins. */
export function withRemedy(document: FloorDocument, edit: Remedy["edit"]): FloorDocument {
  const out = { ...document } as Record<string, unknown>;
  for (const [list, items] of Object.entries(edit)) {
    const key = list === "zone_settings" ? "zone" : "id";
    const before = (out[list] as Item[] | undefined) ?? [];
    const changed = before.map((o) => (items as Item[]).find((i) => i[key] === o[key]) ?? o);
    out[list] = [...changed, ...(items as Item[]).filter((i) => !before.some((o) => o[key] === i[key]))];
  }
  return out as FloorDocument;
}

/** What is fixed for a zone. */
export const settingOf = (document: FloorDocument, zone: string): ZoneSetting | undefined =>
  (document.zone_settings ?? []).find((s) => s.zone === zone);

/** The floor with something fixed for a zone; a setting that says nothing any more is taken away. */
export function withSetting(document: FloorDocument, zone: string, change: Partial<ZoneSetting>): FloorDocument {
  const setting = { ...settingOf(document, zone), zone, ...change };
  const rest = (document.zone_settings ?? []).filter((s) => s.zone !== zone);
  const bare = !setting.rails && (setting.beta ?? "general") === "general";
  return { ...document, zone_settings: bare ? rest : [...rest, setting] };
}

/** Rails of the newest run as a setting. */
export function keptRails(zone: Zone): RailSetting | null {
  const r = zone.rails;
  if (!r) return null;
  const { kind, bar_mm, yield_MPa, rails, per_rail, first_mm, spacing_mm, pattern } = r;
  return { kind, bar_mm, yield_MPa, rails, per_rail, first_mm, spacing_mm, pattern };
}

/** Where studs stand along the rails of a zone. */
export function studsOf(zone: Zone): Pair[] {
  const r = zone.rails;
  if (!r) return [];
  return (r.lines as [Pair, Pair][]).flatMap(([a, b]) =>
    Array.from({ length: r.per_rail }, (_, k): Pair => {
      const t = r.per_rail > 1 ? k / (r.per_rail - 1) : 0;
      return [a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])];
    }),
  );
}

/** Height of the ribbon (m) where the stress is the resistance without shear reinforcement, over the perimeter's length. */
const HEIGHT = 0.055;
/** A ribbon is cut where the stress is so many times that resistance. */
const MOST = 2.5;

/**
 * The stress along a perimeter as a ribbon outside it: for every segment the four corners, the segment of the resistance's line,
 * and the place of the greatest stress.
 */
export function ribbonOf(zone: Zone): {
  bands: Pair[][];
  limit: [Pair, Pair][];
  strong: [Pair, Pair][];
  worst: Pair | null;
} {
  const unit = HEIGHT * zone.u_m;
  const out = (p: Pair, n: Pair, h: number): Pair => [p[0] + n[0] * h, p[1] + n[1] * h];
  const bands: Pair[][] = [];
  const limit: [Pair, Pair][] = [];
  const strong: [Pair, Pair][] = [];
  let worst: Pair | null = null;
  let most = Number.NEGATIVE_INFINITY;
  zone.segments.forEach(([a, b], k) => {
    const l = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
    const middle: Pair = [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2];
    let n: Pair = [(b[1] - a[1]) / l, -(b[0] - a[0]) / l];
    if (n[0] * (middle[0] - zone.at[0]) + n[1] * (middle[1] - zone.at[1]) < 0) n = [-n[0], -n[1]];
    const stress = zone.stress_kPa[k] ?? 0;
    const h = unit * Math.max(0, Math.min(stress / zone.v_Rd_c_kPa, MOST));
    bands.push([a, b, out(b, n, h), out(a, n, h)]);
    limit.push([out(a, n, unit), out(b, n, unit)]);
    if (zone.v_Rd_cs_kPa) {
      const s = (unit * zone.v_Rd_cs_kPa) / zone.v_Rd_c_kPa;
      strong.push([out(a, n, s), out(b, n, s)]);
    }
    if (stress > most) {
      most = stress;
      worst = out(middle, n, h);
    }
  });
  return { bands, limit, strong, worst };
}

/** How far (m) what is drawn of a zone goes from what presses. */
export function ribbonReach(zone: Zone): number {
  const drawn = [...zone.segments.flat(), ...((zone.rails?.outer ?? []) as [Pair, Pair][]).flat()];
  const far = Math.max(...drawn.map((p) => Math.hypot(p[0] - zone.at[0], p[1] - zone.at[1])));
  return Math.max(far, 0.5) + HEIGHT * zone.u_m;
}
