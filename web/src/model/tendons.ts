import type { components } from "../api/generated";
import type { FloorDocument, Labelled, Vertex } from "./floor";
import { points as chords, isInside, lengthOf, type Point, vertex } from "./outlines";
import type { Results, Strip } from "./results";
import { wallOutline } from "./shapes";

type Schemas = components["schemas"];
export type Tendon = Schemas["Tendon"];
export type Strand = Schemas["Strand"];
export type ProfilePoint = Schemas["ProfilePoint"];

/** The strand of a floor that has none yet: common 15.7 mm, greased and sheathed. */
export const STRAND: Strand = {
  id: "mono 15.7",
  area_mm2: 150,
  fpk_MPa: 1860,
  fp01k_MPa: 1640,
  E_MPa: 195000,
  bond: "unbonded",
  friction_mu: 0.06,
  wobble_rad_m: 0.05,
  draw_in_mm: 6,
  relaxation_class: 2,
  rho1000_pct: 2.5,
  duct_mm: 16,
  anchor_mm: 75,
  mass_kg_m: null,
};

/** A piece of an elevation: level z and slope dz/ds (mm, m) where it begins, and its bend. */
type Piece = { s: number; z: number; slope: number; bend: number };

/** Lifts of parabolas shorter than this share of the tendon are not told. */
const LONG = 0.06;
/** A slab's cover (mm) where its file names none, and what sheaths have beyond it. */
const COVER = 25;
const SPARE = 5;

/** The straight and parabolic pieces of a profile, as the floor file describes them. */
export function piecesOf(profile: ProfilePoint[]): Piece[] {
  const out: Piece[] = [];
  profile.slice(1).forEach((b, i) => {
    const a = profile[i] as ProfilePoint;
    const [L, rise] = [b.s_m - a.s_m, b.z_mm - a.z_mm];
    const [la, lb] = [a.tangent === "level", b.tangent === "level"];
    if (a.tangent === "kink" || b.tangent === "kink" || (!la && !lb))
      out.push({ s: a.s_m, z: a.z_mm, slope: rise / L, bend: 0 });
    else if (la && !lb) out.push({ s: a.s_m, z: a.z_mm, slope: 0, bend: (2 * rise) / L ** 2 });
    else if (!la) out.push({ s: a.s_m, z: a.z_mm, slope: (2 * rise) / L, bend: (-2 * rise) / L ** 2 });
    else {
      const reverse = (b.z_mm > a.z_mm ? b.reverse : a.reverse) ?? 0.1;
      const first = (b.z_mm > a.z_mm ? 1 - reverse : reverse) * L;
      const steep = (2 * rise) / L;
      out.push({ s: a.s_m, z: a.z_mm, slope: 0, bend: steep / first });
      out.push({ s: a.s_m + first, z: a.z_mm + (steep * first) / 2, slope: steep, bend: -steep / (L - first) });
    }
  });
  return out;
}

/** The level (mm) of a profile at a place along it. */
export function levelAt(pieces: Piece[], s: number): number {
  const p = pieces.reduce((found, q) => (q.s <= s + 1e-9 ? q : found), pieces[0] as Piece);
  const u = s - p.s;
  return p.z + p.slope * u + (p.bend * u ** 2) / 2;
}

/** What a tendon of some force (kN) lifts (kN/m, upwards positive) along each parabola that is long enough to be told. */
export function liftsOf(pieces: Piece[], length: number, force: number): { s: number; q: number }[] {
  return pieces.flatMap((p, k) => {
    const end = pieces[k + 1]?.s ?? length;
    if (!force || Math.abs(p.bend) < 1e-9 || end - p.s < LONG * length) return [];
    return [{ s: (p.s + end) / 2, q: (force * p.bend) / 1000 }];
  });
}

/** Drape (mm) of each low point below the line that joins the high points beside it. */
export function drapeAt(profile: ProfilePoint[], k: number): number | null {
  const [a, p, b] = [profile[k - 1], profile[k], profile[k + 1]];
  if (!a || !p || !b || p.z_mm >= Math.min(a.z_mm, b.z_mm)) return null;
  const t = (p.s_m - a.s_m) / (b.s_m - a.s_m);
  return a.z_mm + t * (b.z_mm - a.z_mm) - p.z_mm;
}

/** Where a line on plan is at a distance from its start. */
export function pointAt(line: Vertex[], s: number): Point {
  const points = chords(line, false);
  let left = s;
  for (let i = 1; i < points.length; i++) {
    const [a, b] = [points[i - 1] as Point, points[i] as Point];
    const l = Math.hypot(b[0] - a[0], b[1] - a[1]);
    if (left <= l || i === points.length - 1) {
      const t = l > 0 ? Math.min(left / l, 1) : 0;
      return [a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])];
    }
    left -= l;
  }
  return points[0] as Point;
}

/** Top and soffit (mm) of concrete, and the covers of its slab at these. */
export type Concrete = { top: number; soffit: number; above: number; below: number };

/** The concrete at a place on plan, or the slab itself without what thickens it; null beside the floor. */
export function concreteAt(document: FloorDocument, at: Point, slabAlone = false): Concrete | null {
  const rank = (i: { priority?: number }) => i.priority ?? 0;
  const inside = <T extends { outline: Vertex[]; priority?: number }>(list: T[]) =>
    list.filter((i) => isInside(at, i.outline)).sort((a, b) => rank(b) - rank(a))[0];
  const slab = inside(document.slabs);
  if (!slab || (document.openings ?? []).some((o) => isInside(at, o.outline as Vertex[]))) return null;
  const thick = slabAlone ? slab : (inside((document.thickenings ?? []) as unknown as (typeof slab)[]) ?? slab);
  const top = 1000 * (thick.top_offset_m ?? 0);
  return {
    top,
    soffit: top - 1000 * thick.thickness_m,
    above: slab.cover_top_mm ?? COVER,
    below: slab.cover_bottom_mm ?? COVER,
  };
}

/** Supports that a line passes over: how far along it, and what they are called. */
export function supportsAlong(document: FloorDocument, line: Vertex[]): { s: number; id: string }[] {
  const length = lengthOf(line);
  const found: { s: number; id: string }[] = [];
  const points = chords(line, false);
  const reach = (at: Point, near: number, id: string) => {
    let best = { d: Number.POSITIVE_INFINITY, s: 0 };
    let run = 0;
    for (let i = 1; i < points.length; i++) {
      const [a, b] = [points[i - 1] as Point, points[i] as Point];
      const l = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1e-9;
      const t = Math.max(0, Math.min(1, ((at[0] - a[0]) * (b[0] - a[0]) + (at[1] - a[1]) * (b[1] - a[1])) / l ** 2));
      const d = Math.hypot(a[0] + t * (b[0] - a[0]) - at[0], a[1] + t * (b[1] - a[1]) - at[1]);
      if (d < best.d) best = { d, s: run + t * l };
      run += l;
    }
    if (best.d <= near) found.push({ s: Math.min(best.s, length), id });
  };
  // A tendon beside a column line rides over the line all the same: half a bay to each side is that line's.
  const columns = (document.columns ?? []).filter((c) => c.below);
  for (const c of columns) reach(c.at as Point, 0.6, c.id);
  for (const w of document.walls ?? []) {
    if (!w.below) continue;
    const outline = wallOutline(w.line as Vertex[], w.thickness_m);
    for (let s = 0; s <= length; s += 0.1) if (isInside(pointAt(line, s), outline)) found.push({ s, id: w.id });
  }
  for (const other of document.supports ?? [])
    if (other.kind === "line" && other.vertical !== "free") {
      const [p, q] = [other.line[0] as Point, other.line[other.line.length - 1] as Point];
      const hit = crossing(points, p, q);
      if (hit !== null) found.push({ s: hit, id: other.id });
    }
  found.sort((a, b) => a.s - b.s);
  return found.filter((f, i) => i === 0 || f.s - (found[i - 1] as { s: number }).s > 0.8);
}

function crossing(points: Point[], p: Point, q: Point): number | null {
  let run = 0;
  for (let i = 1; i < points.length; i++) {
    const [a, b] = [points[i - 1] as Point, points[i] as Point];
    const [d, e] = [[b[0] - a[0], b[1] - a[1]] as Point, [q[0] - p[0], q[1] - p[1]] as Point];
    const l = Math.hypot(...d);
    const c = d[0] * e[1] - d[1] * e[0];
    if (Math.abs(c) > 1e-12) {
      const t = ((p[0] - a[0]) * e[1] - (p[1] - a[1]) * e[0]) / c;
      const u = ((p[0] - a[0]) * d[1] - (p[1] - a[1]) * d[0]) / c;
      if (t >= -1e-9 && t <= 1 + 1e-9 && u >= -1e-9 && u <= 1 + 1e-9) return run + t * l;
    }
    run += l;
  }
  return null;
}

const round = (v: number, by: number) => Number((Math.round(v / by) * by).toFixed(6));

/** A profile by cover and spans: highest over the supports, lowest in the spans, anchored at half the depth. */
export function profileOver(
  document: FloorDocument,
  line: Vertex[],
  duct: number,
  supports = supportsAlong(document, line).map((f) => f.s),
): ProfilePoint[] {
  const length = lengthOf(line);
  const at = (s: number) => concreteAt(document, pointAt(line, Math.max(0.02, Math.min(length - 0.02, s))));
  const slab = at(length / 2) ?? at(0.1) ?? at(length - 0.1) ?? { top: 0, soffit: -200, above: COVER, below: COVER };
  const of = (s: number) => at(s) ?? slab;
  const high = (s: number) => round(of(s).top - of(s).above - SPARE - duct / 2, 1);
  const low = (s: number) => round(of(s).soffit + of(s).below + SPARE + duct / 2, 1);
  const end = (s: number) => {
    const on = concreteAt(document, pointAt(line, Math.max(0.02, Math.min(length - 0.02, s))), true) ?? slab;
    return round((on.top + on.soffit) / 2, 1);
  };
  const inner = supports.filter((s) => s > 0.5 && s < length - 0.5);
  const starts = supports.some((s) => s <= 0.5);
  const ends = supports.some((s) => s >= length - 0.5);
  const held = [...(starts ? [0] : []), ...inner, ...(ends ? [length] : [])];
  const out: ProfilePoint[] = [{ s_m: 0, z_mm: end(0), tangent: "free", reverse: 0.1 }];
  held.slice(1).forEach((b, i) => {
    const a = held[i] as number;
    if (a > 0) out.push({ s_m: round(a, 0.001), z_mm: high(a), tangent: "level", reverse: 0.1 });
    out.push({ s_m: round((a + b) / 2, 0.001), z_mm: low((a + b) / 2), tangent: "level", reverse: 0.1 });
  });
  const last = held[held.length - 1];
  if (last !== undefined && last > 0 && last < length)
    out.push({ s_m: round(last, 0.001), z_mm: high(last), tangent: "level", reverse: 0.1 });
  out.push({ s_m: length, z_mm: end(length), tangent: "free", reverse: 0.1 });
  return out;
}

/** A tendon whose line has changed keeps its profile, stretched to the new length. */
export function fitted(item: Labelled): Labelled {
  const profile = item.profile as ProfilePoint[] | undefined;
  if (!profile?.length || !item.line) return item;
  const length = lengthOf(item.line as Vertex[]);
  const last = profile[profile.length - 1] as ProfilePoint;
  if (Math.abs(last.s_m - length) < 1e-9 || last.s_m <= 0) return item;
  const by = length / last.s_m;
  return {
    ...item,
    profile: profile.map((p, k) => ({ ...p, s_m: k === profile.length - 1 ? length : round(p.s_m * by, 0.001) })),
  };
}

export type Laying = {
  /** Direction of the strips along which bands lie. */
  bands: "x" | "y";
  strand: string;
  /** Tendons in a band, with so many strands each. */
  tendons: number;
  strands: number;
  /** Spacing (m) of the tendons across the bands, with so many strands each. */
  spacing: number;
  across: number;
  jack: number;
};

/** Tendons side by side over a region: along `angle` (degrees), so many strands in each, at a spacing (m) or for a force (kN/m) at the jack. */
export type Spreading = {
  angle: number;
  strands: number;
  by: "spacing" | "force";
  spacing: number;
  force: number;
  jack: number;
};

/** Spacing (m) of tendons that are spread: as given, or that at which they come to the force. */
export function spacingOf(how: Spreading, strand: Strand): number {
  return how.by === "spacing" ? how.spacing : (how.strands * strand.area_mm2 * how.jack) / 1e3 / how.force;
}

/** Tendons over a region, no farther apart than their spacing and half of that from its sides, over the columns' rows that they cross. */
export function spreadOver(document: FloorDocument, region: Vertex[], how: Spreading): Omit<Labelled, "id">[] {
  const strand = document.strands?.[0] ?? STRAND;
  const angle = (how.angle * Math.PI) / 180;
  const n: Point = [-Math.sin(angle), Math.cos(angle)];
  const offsets = chords(region).map(([x, y]) => x * n[0] + y * n[1]);
  const [from, to] = [Math.min(...offsets), Math.max(...offsets)];
  const count = Math.max(1, Math.ceil((to - from) / spacingOf(how, strand) - 1e-9));
  const columns = (document.columns ?? []).filter((c) => c.below).map((c) => c.at as Point);
  const groups = new Set((document.tendons ?? []).map((t) => t.group));
  let group = 1;
  while (groups.has(`spread ${group}`)) group++;
  const made: Omit<Labelled, "id">[] = [];
  for (let k = 0; k < count; k++) {
    const o = from + ((k + 0.5) * (to - from)) / count;
    for (const line of clipped(document, [o * n[0], o * n[1]], angle, region))
      made.push({
        strand: strand.id,
        count: how.strands,
        line,
        jack_MPa: how.jack,
        stressed_from: made.length % 2 ? "end" : "start",
        profile: profileOver(document, line, strand.duct_mm ?? 16, projected(line, columns)).map((p) =>
          p.tangent === "level" && p.z_mm <= highest(document, line) - 60
            ? { ...p, z_mm: p.z_mm + (strand.duct_mm ?? 16) }
            : p,
        ),
        group: `spread ${group}`,
      });
  }
  return made;
}

const APART = 0.25;
/** Tendons end so far (m) before an opening that they meet. */
const BEFORE = 0.1;

/** Tendons from the strips of a run: bands along the axes of one direction, distributed ones across. */
export function fromStrips(document: FloorDocument, results: Results, how: Laying): Omit<Labelled, "id">[] {
  const strand = (document.strands ?? []).find((s) => s.id === how.strand) ?? STRAND;
  const duct = strand.duct_mm ?? 16;
  const axes = new Map<string, Strip>();
  for (const s of results.strips)
    if (s.kind === "column" && !s.on_wall)
      axes.set(s.id.split("-")[0] as string, axes.get(s.id.split("-")[0] as string) ?? s);
  const of = (direction: "x" | "y") => [...axes.values()].filter((s) => s.direction === direction);
  const along = of(how.bands);
  const across = of(how.bands === "x" ? "y" : "x");
  const made: Omit<Labelled, "id">[] = [];
  const lay = (at: Point, angle: number, count: number, group: string, lower: number, held: Point[]) => {
    for (const line of clipped(document, at, angle)) {
      const supports = held.length ? projected(line, held) : supportsAlong(document, line).map((f) => f.s);
      const profile = profileOver(document, line, duct, supports).map((p) =>
        p.tangent === "level"
          ? { ...p, z_mm: p.z_mm > highest(document, line) - 60 ? p.z_mm - lower : p.z_mm + duct }
          : p,
      );
      made.push({
        id: "T1",
        strand: strand.id,
        count,
        line,
        jack_MPa: how.jack,
        stressed_from: made.length % 2 ? "end" : "start",
        profile,
        group,
      });
    }
  };
  const columns = (document.columns ?? []).filter((c) => c.below).map((c) => c.at as Point);
  along.forEach((s, k) => {
    const angle = (s.angle_deg * Math.PI) / 180;
    const [x, y] = s.axis[0] as Point;
    for (let n = 0; n < how.tendons; n++) {
      const aside = (n - (how.tendons - 1) / 2) * APART;
      lay(
        [x - aside * Math.sin(angle), y + aside * Math.cos(angle)],
        angle,
        how.strands,
        `band ${k + 1}`,
        duct + 10,
        [],
      );
    }
  });
  const first = across[0];
  if (first && how.spacing > 0) {
    const angle = (first.angle_deg * Math.PI) / 180;
    const n: Point = [-Math.sin(angle), Math.cos(angle)];
    const outlines = document.slabs.flatMap((s) => chords(s.outline as Vertex[]));
    const offsets = outlines.map(([px, py]) => px * n[0] + py * n[1]);
    const [from, to] = [Math.min(...offsets) + 0.3, Math.max(...offsets) - 0.3];
    const count = Math.max(1, Math.ceil((to - from) / how.spacing));
    for (let k = 0; k <= count; k++) {
      const o = from + ((to - from) * k) / count;
      lay([o * n[0], o * n[1]], angle, how.across, "distributed", 0, columns);
    }
  }
  return made;
}

const highest = (document: FloorDocument, line: Vertex[]) =>
  (concreteAt(document, pointAt(line, lengthOf(line) / 2)) ?? { top: 0 }).top;

/** Column lines that a line crosses: places (m) where columns lie beside it, those in one row once. */
function projected(line: Vertex[], columns: Point[]): number[] {
  const [a, b] = [line[0] as Point, line[line.length - 1] as Point];
  const l = Math.hypot(b[0] - a[0], b[1] - a[1]);
  const [ux, uy] = [(b[0] - a[0]) / l, (b[1] - a[1]) / l];
  const places = columns
    .map(([x, y]) => [(x - a[0]) * ux + (y - a[1]) * uy, Math.abs(-(x - a[0]) * uy + (y - a[1]) * ux)] as const)
    .filter(([s, d]) => s > -0.3 && s < l + 0.3 && d < 7)
    .map(([s]) => Math.max(0, Math.min(l, s)))
    .sort((p, q) => p - q);
  return places.filter((s, i) => i === 0 || s - (places[i - 1] as number) > 0.8);
}

/** The stretches of an endless line that lie on the floor, clear of openings, and within a region if there is one. */
export function clipped(document: FloorDocument, [x, y]: Point, angle: number, region?: Vertex[]): Vertex[][] {
  const [ux, uy] = [Math.cos(angle), Math.sin(angle)];
  const holes = (document.openings ?? []).map((o) => chords(o.outline as Vertex[]));
  const at = new Set<number>();
  const within = region ? chords(region) : null;
  for (const ring of [
    ...document.slabs.map((s) => chords(s.outline as Vertex[])),
    ...holes,
    ...(within ? [within] : []),
  ])
    ring.forEach((p, i) => {
      const q = ring[(i + 1) % ring.length] as Point;
      const [e, f] = [q[0] - p[0], q[1] - p[1]];
      const c = ux * f - uy * e;
      if (Math.abs(c) < 1e-12) return;
      const t = ((p[0] - x) * f - (p[1] - y) * e) / c;
      const u = ((p[0] - x) * uy - (p[1] - y) * ux) / c;
      if (u >= -1e-9 && u <= 1 + 1e-9) at.add(round(t, 1e-6));
    });
  const cuts = [...at].sort((a, b) => a - b);
  const on = (t: number) => {
    const at: Point = [x + t * ux, y + t * uy];
    return (!within || isInside(at, within as Vertex[])) && concreteAt(document, at) !== null;
  };
  const runs: [number, number][] = [];
  cuts.slice(1).forEach((b, i) => {
    const a = cuts[i] as number;
    if (!on((a + b) / 2)) return;
    const last = runs[runs.length - 1];
    if (last && Math.abs(last[1] - a) < 1e-6) last[1] = b;
    else runs.push([a, b]);
  });
  const inHole = (t: number) => holes.some((h) => isInside([x + t * ux, y + t * uy], h as Vertex[]));
  return runs
    .map(([a, b]): [number, number] => [inHole(a - 0.01) ? a + BEFORE : a, inHole(b + 0.01) ? b - BEFORE : b])
    .filter(([a, b]) => b - a > 1)
    .map(([a, b]) => [vertex(x + a * ux, y + a * uy), vertex(x + b * ux, y + b * uy)]);
}

/** The cases that tendons make, by their effect, with the label that a new one gets. */
const CASES = [
  ["PT", "transfer"],
  ["PF", "final"],
  ["PS", "secondary"],
] as const;

/** The floor with a strand, the three cases of tendons and their place in its combinations, where it has none. */
export function withStrand(document: FloorDocument): FloorDocument {
  const cases = document.load_cases ?? [];
  const missing = CASES.filter(([, effect]) => !cases.some((c) => c.effect === effect));
  const free = (label: string) => {
    let name = label;
    for (let n = 2; cases.some((c) => c.id === name); n++) name = `${label}${n}`;
    return name;
  };
  const made = missing.map(([label, effect]) => ({ id: free(label), nature: "prestress" as const, effect }));
  const all = [...cases, ...made];
  const of = (effect: string) => all.find((c) => c.effect === effect)?.id ?? "";
  const own = cases.find((c) => c.nature === "self_weight")?.id;
  const combinations = (document.combinations ?? []).map((c) => {
    const effect = c.limit_state === "ultimate" ? "secondary" : c.limit_state === "transfer" ? "transfer" : "final";
    const label = of(effect);
    return made.some((m) => m.id === label) ? { ...c, factors: { ...c.factors, [label]: 1 } } : c;
  });
  if (missing.length && own && !combinations.some((c) => c.limit_state === "transfer"))
    combinations.push({ id: "T1", limit_state: "transfer", factors: { [own]: 1, [of("transfer")]: 1 } } as never);
  return {
    ...document,
    strands: document.strands?.length ? document.strands : [STRAND],
    load_cases: all,
    combinations,
  } as FloorDocument;
}

/** Most precompression (MPa, force over area of a design strip) that balancing leads to, by common practice. */
const MOST_PRESSED = 2.5;

/** Strands of tendons for a share of what lasts, by the shares of the last run: its counts, and what they come to by direction. */
export function balanced(
  document: FloorDocument,
  results: Results,
  share: number,
): { counts: Map<string, number>; reached: { direction: string; was: number; now: number; capped: boolean }[] } {
  const counts = new Map<string, number>();
  const reached: { direction: string; was: number; now: number; capped: boolean }[] = [];
  const strips = new Map(results.strips.map((s) => [s.id, s]));
  for (const direction of ["x", "y"] as const) {
    const mine = results.precompression.flatMap((p) => {
      const s = strips.get(p.strip);
      return s && s.direction === direction && p.balanced_share != null ? [{ p, s }] : [];
    });
    if (!mine.length) continue;
    const angle = ((mine[0]?.s.angle_deg ?? 0) * Math.PI) / 180;
    const along = ((document.tendons ?? []) as Tendon[]).filter((t) => {
      const [a, b] = [t.line[0] as Point, t.line[t.line.length - 1] as Point];
      return Math.abs(Math.cos(Math.atan2(b[1] - a[1], b[0] - a[0]) - angle)) > 0.9;
    });
    // Strips that tendons run through count by their width: a band's column strip has more than its share, those beside it less.
    const weight = mine.reduce((sum, { s }) => sum + s.area_m2, 0);
    const was = mine.reduce((sum, { p, s }) => sum + s.area_m2 * (p.balanced_share ?? 0), 0) / weight;
    const pressed = Math.max(...mine.map(({ p }) => p.design_strip_P_over_A_MPa));
    if (was <= 0 || !along.length) continue;
    const wanted = share / was;
    const most = MOST_PRESSED / pressed;
    const factor = Math.min(wanted, most);
    const before = along.reduce((sum, t) => sum + (t.count ?? 1), 0);
    for (const t of along) counts.set(t.id, Math.max(1, Math.ceil((t.count ?? 1) * factor - 1e-9)));
    const after = along.reduce((sum, t) => sum + (counts.get(t.id) ?? 1), 0);
    reached.push({ direction, was, now: (was * after) / before, capped: wanted > most });
  }
  return { counts, reached };
}
