/** Colours of fields, from nought away. Each ramp falls evenly in lightness, and they are told apart by colour-blind readers. */
export const KILN = ["#f3e7cf", "#ebd2ae", "#e1b98a", "#d49c68", "#c67f4b", "#b4622f", "#98492a", "#7a3727", "#5a2a22"];
const POSITIVE = ["#f3e7cf", "#e8cba2", "#d9a672", "#c67f4b", "#a9542d", "#843b27", "#5a2a22"];
const NEGATIVE = ["#d5e0dc", "#b3c8c6", "#8eaeb0", "#6b969a", "#477980", "#2c5f69", "#17414a"];
const SIDE = POSITIVE.length;
/** No scale has more bands than this: so many colours a field is drawn with. */
export const MOST_BANDS = Math.max(KILN.length, 2 * SIDE);

/** Even bands, or such between `borders` (one more than colours) with a name for each. */
export type Scale = { from: number; step: number; colours: string[]; borders?: number[]; names?: string[] };

function niceStep(rough: number): number {
  const power = 10 ** Math.floor(Math.log10(rough));
  const unit = rough / power;
  return power * (unit <= 1 ? 1 : unit <= 2 ? 2 : unit <= 2.5 ? 2.5 : unit <= 5 ? 5 : 10);
}

/** Bands of one width on both sides of nought, which is a border of colours; as many as the limits need. */
function twoSided(least: number, greatest: number): Scale {
  const step = niceStep(Math.max(-least, greatest, 1e-6) / SIDE);
  const below = Math.max(0, Math.min(SIDE, Math.ceil(-least / step - 1e-6)));
  const above = Math.max(0, Math.min(SIDE, Math.ceil(greatest / step - 1e-6)));
  const colours = [...NEGATIVE.slice(0, below).reverse(), ...POSITIVE.slice(0, above)];
  return { from: -below * step, step, colours: colours.length ? colours : POSITIVE.slice(0, 1) };
}

/**
 * Bands of nice width that cover the limits. One-sided values start at nought; of two-sided ones nought is a border. What lies
 * beyond the outer bands takes their colour.
 */
export function scaleOf(least: number, greatest: number, oneSided: boolean): Scale {
  if (!oneSided) return twoSided(least, greatest);
  const step = niceStep(Math.max(greatest, 1e-6) / KILN.length);
  const count = Math.max(2, Math.min(KILN.length, Math.ceil(greatest / step - 1e-6)));
  return { from: 0, step, colours: KILN.slice(0, count) };
}

/** All borders of a scale's bands, the outer ones included. */
export const bordersOf = (scale: Scale): number[] =>
  scale.borders ?? Array.from({ length: scale.colours.length + 1 }, (_, k) => scale.from + k * scale.step);

export function colourAt(scale: Scale, value: number): string {
  const band = bordersOf(scale).filter((b) => value >= b).length - 1;
  return scale.colours[Math.max(0, Math.min(scale.colours.length - 1, band))] as string;
}

/**
 * Bands of steel by bars: a border where one more of the allowed `sizes` (mm) is needed at a `spacing` (mm), each named by the bar that serves up to it. `factor`
 * turns mm²/m into the unit of the field, whose `greatest` value the sizes need to serve.
 */
export function bandsOfBars(
  sizes: number[],
  spacing: number,
  factor: number,
  greatest: number,
  name: (mm: number) => string,
): Scale {
  const all = [...sizes]
    .sort((a, b) => a - b)
    .map((mm) => ({ mm, area: ((Math.PI * mm ** 2) / 4 / spacing) * 1e3 * factor }));
  const enough = all.findIndex((b) => b.area >= greatest);
  // No more than there are colours: the smallest share the first one.
  const bars = (enough < 0 ? all : all.slice(0, enough + 1)).slice(-(KILN.length - (enough < 0 ? 1 : 0)));
  const borders = [0, ...bars.map((b) => b.area)];
  const names = bars.map((b) => name(b.mm));
  if (enough < 0) {
    // What no allowed bar serves.
    borders.push(Math.max(greatest, 1.1 * (borders.at(-1) ?? 0), 1e-6));
    names.push("more");
  }
  const last = Math.max(names.length - 1, 1);
  const colours = names.map((_, k) => KILN[Math.round((k * (KILN.length - 1)) / last)] as string);
  return { from: 0, step: borders[1] as number, colours, borders, names };
}

/** Bands between limits that were set by hand: even ones over the whole of them, or where nought lies between, outwards from it. */
export function bandsBetween(from: number, to: number): Scale {
  if (from < 0 && to > 0) return twoSided(from, to);
  return { from, step: Math.max(to - from, 1e-9) / KILN.length, colours: KILN };
}
