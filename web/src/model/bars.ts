import type { System } from "../units/quantities";
import { resultOf } from "../units/results";
import type { FloorDocument } from "./floor";
import type { Bar, Results } from "./results";

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

/** The document with a group of the results kept as it is: it stays when the others are designed anew. */
export function withKept(document: FloorDocument, bar: Bar, origin: "designed" | "drawn"): FloorDocument {
  const kept = {
    id: bar.mark,
    face: bar.face,
    direction: bar.direction,
    bar_mm: bar.bar_mm,
    spacing_mm: bar.spacing_mm,
    angle_deg: bar.angle_deg,
    outline: bar.outline.slice(0, -1),
    origin,
    locked: true,
  };
  const rest = (document.designed_bars ?? []).filter((g) => g.id !== bar.mark);
  return { ...document, designed_bars: [...rest, kept] };
}

export const barOf = (results: Results | null, mark: string): Bar | undefined =>
  results?.bars.find((b) => b.mark === mark && b.origin !== "mat");
