import type { System } from "../units/quantities";
import { resultOf } from "../units/results";
import type { FloorDocument } from "./floor";
import { isInside } from "./outlines";
import type { Bar, Results, Strip } from "./results";

type Pair = [number, number];

/** How bars are called: `⌀16–150`, in millimetres, and with their unit where it is another; the sign of a diameter is the trade's. */
export function sized(b: Pick<Bar, "bar_mm" | "spacing_mm">, system: System): string {
  if (system === "US") return `${diameter(b.bar_mm, system)} at ${resultOf(b.spacing_mm, "mm", system, 2)}`;
  return `${diameter(b.bar_mm, system)}–${round(b.spacing_mm)}`;
}

export const diameter = (mm: number, system: System) =>
  system === "US" ? `⌀${resultOf(mm, "mm", system, 3)}` : `⌀${round(mm)}`;
const round = (v: number) => (Math.abs(v - Math.round(v)) < 0.05 ? String(Math.round(v)) : v.toFixed(1));

/** Face and direction as one text, as fields of steel name them. */
export const lies = (b: Bar) => `${b.face} ${b.direction}`;

/** Links of a slab stand upright all over their outline; those of beams are drawn as bars across. */
export const isLegs = (b: Bar) => b.shape === "link" && (b.row ?? "").startsWith("shear/");

/** Groups that the plan draws while it shows bars of one face and direction, if it does: those, a slab's links, and the `chosen` group whatever face is
 * looked at, as whoever picks it in the ledger asks where it lies. Mats lie everywhere. */
export const drawn = (bars: Bar[], shown: string | null, chosen: string | null) =>
  bars.filter((b) => b.origin !== "mat" && (b.mark === chosen || (shown !== null && (isLegs(b) || lies(b) === shown))));

/** What is drawn of a group: its middle bar and the line across that tells how far its bars reach. */
export function strokes(b: Bar): { bar: [Pair, Pair]; extent: [Pair, Pair]; middle: Pair } {
  const t = (b.angle_deg * Math.PI) / 180;
  const [c, s] = [Math.cos(t), Math.sin(t)];
  const along = b.outline.map(([x, y]) => x * c + y * s);
  const aside = b.outline.map(([x, y]) => -x * s + y * c);
  const [a0, a1] = [Math.min(...along), Math.max(...along)];
  const [o0, o1] = [Math.min(...aside), Math.max(...aside)];
  const at = (a: number, o: number): Pair => [a * c - o * s, a * s + o * c];
  const [a, o] = [(a0 + a1) / 2, (o0 + o1) / 2];
  return { bar: [at(a0, o), at(a1, o)], extent: [at(a, o0), at(a, o1)], middle: at(a, o) };
}

/** Corners of a closed outline of the results as a floor keeps them: not closed, and none twice where they lie within a tenth of a millimetre. */
const apart = (ring: Pair[]): Pair[] =>
  ring.filter(([x, y], k) => {
    const [u, v] = ring[(k + 1) % ring.length] as Pair;
    return k < ring.length - 1 && Math.hypot(u - x, v - y) > 1e-4;
  });

/** The document with a group of the results kept as it is: it stays when the others are designed anew. */
export function withKept(document: FloorDocument, bar: Bar, origin: "designed" | "drawn"): FloorDocument {
  const kept = {
    id: bar.mark,
    face: bar.face,
    direction: bar.direction,
    bar_mm: bar.bar_mm,
    spacing_mm: bar.spacing_mm,
    angle_deg: bar.angle_deg,
    outline: apart(bar.outline),
    origin,
    locked: true,
  };
  const rest = (document.designed_bars ?? []).filter((g) => g.id !== bar.mark);
  return { ...document, designed_bars: [...rest, kept] };
}

/** The document in which strips are designed alone: their own designed groups are let go, and all others kept as they are; with how
 * many of each. Groups drawn by hand always stay. */
export function designedAlone(
  document: FloorDocument,
  bars: Bar[],
  strips: Strip[],
): { document: FloorDocument; gone: number; kept: number } {
  const turned = (a: number) => ((a % 180) + 180) % 180;
  const theirs = (b: Bar) =>
    strips.some((s) =>
      b.why.length > 0
        ? b.why.some((w) => w.strip === s.id)
        : // A kept group tells no reasons: it is the strip's where its middle lies in it and its bars run along it.
          b.direction === s.direction &&
          Math.abs(turned(b.angle_deg - s.angle_deg + 90) - 90) < 1 &&
          s.outline.some((ring) => isInside(strokes(b).middle, ring)),
    );
  // Bars of beams are designed with their beams, and are no groups of the slab.
  const known = new Set((document.designed_bars ?? []).filter((g) => g.origin === "designed").map((g) => g.id));
  const groups = bars.filter((b) => b.origin === "designed" && (b.why.length > 0 || known.has(b.mark)));
  const gone = groups.filter(theirs);
  const stay = groups.filter((b) => !gone.includes(b));
  const drawn = (document.designed_bars ?? []).filter((g) => !groups.some((b) => b.mark === g.id));
  const bare = { ...document, design_bars: true, designed_bars: drawn };
  return {
    document: stay.reduce<FloorDocument>((d, b) => withKept(d, b, "designed"), bare),
    gone: gone.length,
    kept: stay.length + drawn.length,
  };
}

export const barOf = (results: Results | null, mark: string): Bar | undefined =>
  results?.bars.find((b) => b.mark === mark && b.origin !== "mat");

/** What a kept group leaves to bars beside it, and what is missing with them all the same, mm²/m. */
export function lacking(of: NonNullable<Bar["shortfall"]>): { beside: number; still: number } {
  const still = of.required_mm2_m - of.provided_mm2_m;
  // Figures come rounded to a tenth.
  return { beside: of.required_mm2_m - of.kept_mm2_m, still: still > 0.2 ? still : 0 };
}
