import type { components } from "../api/generated";
import type { Row, TraceStep, TraceValue } from "./results";

type Told = components["schemas"]["SectionState"];
export type Section = Omit<Told, "row"> & { row: Row };
export type SectionBars = Section["bars"][number];

/** Greatest strain of concrete by the symbol that a standard gives the neutral axis. */
const CRUSHED: Record<string, number> = { x: 0.0035, c: 0.003 };

/** How a section is strained: lengths in m from the compressed face, `block` the depth of the stress block (none in service: stresses rise linearly). */
export type Strained = {
  state: "strength" | "service";
  symbol: string;
  axis: number;
  block: number | null;
  concrete: number;
  steel: number;
};

/** Beyond it (EN 1992-1-1, table C.1, class B at greatest force) a figure would tell of no bar: hardly any concrete is needed there. */
const MOST_STRAIN = 0.05;

/** The strain of bars, in thousandths. */
export const strainTold = (steel: number) => (steel > MOST_STRAIN ? "over 50 ‰" : `${(1000 * steel).toFixed(1)} ‰`);

/** The section that the first of a row's steps to have one speaks of, which is that of what governs. */
export function strainedOf(row: Row): Strained | null {
  const steps = row.trace?.steps ?? [];
  const d = valueIn(steps[0], "d");
  if (!d) return null;
  for (const [k, step] of steps.entries()) {
    const axis = step.result;
    if (!axis || axis.value >= d) continue;
    const omega = valueIn(step, "omega");
    // Beams tell the block's depth itself.
    const block = omega !== undefined ? omega * d : valueIn(step, "a");
    if (block !== undefined && axis.symbol in CRUSHED && axis.value > 0) {
      const concrete = CRUSHED[axis.symbol] as number;
      const steel = (concrete * (d - axis.value)) / axis.value;
      return { state: "strength", symbol: axis.symbol, axis: axis.value, block, concrete, steel };
    }
    if (step.title === "Cracked section") {
      const after = steps.slice(k);
      const stress = after.find((s) => s.result?.symbol === "sigma_s")?.result?.value;
      const stiff = after.map((s) => valueIn(s, "E_s")).find((e) => e !== undefined);
      if (stress === undefined || !stiff) continue;
      const steel = stress / stiff;
      const concrete = (steel * axis.value) / (d - axis.value);
      return { state: "service", symbol: axis.symbol, axis: axis.value, block: null, concrete, steel };
    }
  }
  return null;
}

const valueIn = (step: TraceStep | undefined, symbol: string): number | undefined =>
  step?.values.find((v: TraceValue) => v.symbol === symbol)?.value;

/** Along which part of a right angle bars still are cut by the section; others lie in its plane. */
const CUT_DEG = 45;

export const isCut = (bars: SectionBars) => bars.turn_deg < CUT_DEG;

/** Where bars that are cut lie along the section, m: in the middles of their spacings, which are wider for bars at an angle to it. */
export function placesOf(bars: SectionBars): number[] {
  const apart = bars.spacing_mm / 1e3 / Math.cos((bars.turn_deg * Math.PI) / 180);
  const count = Math.max(1, Math.round((bars.end_m - bars.start_m) / apart));
  const first = (bars.start_m + bars.end_m - (count - 1) * apart) / 2;
  return Array.from({ length: count }, (_, k) => first + k * apart);
}
