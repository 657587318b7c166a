/** Colours of fields. Both ramps are even in lightness and told apart by colour-blind readers. */
export const KILN = ["#f3e7cf", "#ebd2ae", "#e1b98a", "#d49c68", "#c67f4b", "#b4622f", "#98492a", "#7a3727", "#5a2a22"];
export const TIDE = ["#17414a", "#2f6670", "#6b969a", "#b3c6c2", "#f3e7cf", "#e3bd92", "#cf8a58", "#a9542d", "#6f3023"];

export type Scale = { from: number; step: number; colours: string[] };

function niceStep(rough: number): number {
  const power = 10 ** Math.floor(Math.log10(rough));
  const unit = rough / power;
  return power * (unit <= 1 ? 1 : unit <= 2 ? 2 : unit <= 2.5 ? 2.5 : unit <= 5 ? 5 : 10);
}

/**
 * Bands of nice width that cover the limits. One-sided values start at nought; two-sided ones have nought in the
 * middle of the sand-coloured band. What lies beyond the outer bands takes their colour.
 */
export function scaleOf(least: number, greatest: number, oneSided: boolean): Scale {
  const colours = oneSided ? KILN : TIDE;
  if (oneSided) {
    const step = niceStep(Math.max(greatest, 1e-6) / 9);
    return { from: 0, step, colours: colours.slice(0, Math.max(2, Math.min(9, Math.ceil(greatest / step - 1e-6)))) };
  }
  const size = Math.max(Math.abs(least), Math.abs(greatest), 1e-6);
  const step = niceStep((2 * size) / 9);
  return { from: -4.5 * step, step, colours };
}

export function colourAt(scale: Scale, value: number): string {
  const band = Math.floor((value - scale.from) / scale.step);
  return scale.colours[Math.max(0, Math.min(scale.colours.length - 1, band))] as string;
}

/** Bands between limits that were set by hand: even ones over the whole of them. */
export function bandsBetween(from: number, to: number): Scale {
  const colours = from < 0 && to > 0 ? TIDE : KILN;
  return { from, step: Math.max(to - from, 1e-9) / colours.length, colours };
}
