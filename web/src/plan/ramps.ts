/** Colours of fields, from nought away. Each ramp falls evenly in lightness, and they are told apart by colour-blind readers. */
export const KILN = ["#f3e7cf", "#ebd2ae", "#e1b98a", "#d49c68", "#c67f4b", "#b4622f", "#98492a", "#7a3727", "#5a2a22"];
const POSITIVE = ["#f3e7cf", "#e8cba2", "#d9a672", "#c67f4b", "#a9542d", "#843b27", "#5a2a22"];
const NEGATIVE = ["#d5e0dc", "#b3c8c6", "#8eaeb0", "#6b969a", "#477980", "#2c5f69", "#17414a"];
const SIDE = POSITIVE.length;
/** No scale has more bands than this: so many colours a field is drawn with. */
export const MOST_BANDS = Math.max(KILN.length, 2 * SIDE);

export type Scale = { from: number; step: number; colours: string[] };

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

export function colourAt(scale: Scale, value: number): string {
  const band = Math.floor((value - scale.from) / scale.step);
  return scale.colours[Math.max(0, Math.min(scale.colours.length - 1, band))] as string;
}

/** Bands between limits that were set by hand: even ones over the whole of them, or where nought lies between, outwards from it. */
export function bandsBetween(from: number, to: number): Scale {
  if (from < 0 && to > 0) return twoSided(from, to);
  return { from, step: Math.max(to - from, 1e-9) / KILN.length, colours: KILN };
}
