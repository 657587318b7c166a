import type { Slice } from "../model/floor";
import type { Diagram } from "../readings/readings";
import type { System } from "../units/quantities";
import { resultOf } from "../units/results";
import type { Wanted } from "./labels";

const TALL = 1.7;

/** Scale (m on plan a unit) at which the greatest value of the slices of one unit stands 1.7 m off its line. */
export function sliceScale(diagrams: (Diagram | undefined)[], unit: string): number {
  const all = diagrams
    .filter((d) => d?.unit === unit)
    .flatMap((d) => [d?.low.value ?? 0, d?.high.value ?? 0].map(Math.abs));
  return TALL / Math.max(1e-9, ...all);
}

type Point = [number, number];

/** Points of a diagram's line, in runs that lie on the floor. */
function runsOf(slice: Slice, diagram: Diagram, values: (number | null)[], scale: number): Point[][] {
  const [[ax = 0, ay = 0], [bx = 0, by = 0]] = slice.line as [number[], number[]];
  const length = Math.hypot(bx - ax, by - ay) || 1;
  const [ux, uy] = [(bx - ax) / length, (by - ay) / length];
  const runs: Point[][] = [[]];
  diagram.s_m.forEach((s, i) => {
    const v = values[i];
    if (v === null || v === undefined) {
      if ((runs[runs.length - 1] as Point[]).length) runs.push([]);
      return;
    }
    // Sagging is drawn on the right of the slice's direction, below a slice that is read from left to right.
    (runs[runs.length - 1] as Point[]).push([ax + s * ux + v * scale * uy, ay + s * uy - v * scale * ux]);
  });
  return runs.filter((r) => r.length > 1);
}

const text = (list: Point[]) => list.map(([x, y]) => `${x.toFixed(3)} ${y.toFixed(3)}`).join("L");

/** Slices with their diagrams: greatest and least over arrangements as surfaces, all live load as a line. */
export function SliceLayer(props: {
  slices: Slice[];
  diagrams: Record<string, Diagram | string | undefined>;
  chosen: string | null;
  pick: (id: string) => void;
}) {
  const { slices, diagrams, chosen, pick } = props;
  const drawn = Object.values(diagrams).filter((d): d is Diagram => typeof d === "object");
  return (
    <g className="slices">
      {slices.map((slice) => {
        const d = diagrams[slice.id];
        const scale = typeof d === "object" ? sliceScale(drawn, d.unit) : 1;
        const line = slice.line as Point[];
        return (
          // biome-ignore lint/a11y/noStaticElementInteractions: slices are reached by keyboard through the ledger
          <g
            key={slice.id}
            className={chosen === slice.id ? "slice chosen" : "slice"}
            data-slice={slice.id}
            onClick={(event) => {
              event.stopPropagation();
              pick(slice.id);
            }}
            onKeyDown={() => undefined}
          >
            {typeof d === "object" &&
              (["greatest", "least"] as const).map((kind) =>
                runsOf(slice, d, d[kind], scale).map((run) => {
                  const base = runsOf(
                    slice,
                    d,
                    d[kind].map((v) => (v === null ? null : 0)),
                    1,
                  );
                  const foot = base.find((b) => b.length === run.length) ?? [];
                  return (
                    <path
                      key={kind + text(run.slice(0, 1))}
                      d={`M${text(run)}L${text([...foot].reverse())}Z`}
                      className={`moment ${kind === "greatest" ? "high" : "low"}`}
                    />
                  );
                }),
              )}
            {typeof d === "object" &&
              runsOf(slice, d, d.all, scale).map((run) => (
                <path key={text(run.slice(0, 1))} d={`M${text(run)}`} className="whole" />
              ))}
            <path d={`M${text(line)}`} className="base" />
            <path d={`M${text(line)}`} className="grip" />
          </g>
        );
      })}
    </g>
  );
}

/** Labels of each slice's extremes, and of the slice itself. */
export function sliceLabels(
  slices: Slice[],
  diagrams: Record<string, Diagram | string | undefined>,
  place: (x: number, y: number) => { x: number; y: number },
  system: System,
): Wanted[] {
  const drawn = Object.values(diagrams).filter((d): d is Diagram => typeof d === "object");
  return slices.flatMap((slice) => {
    const [[ax = 0, ay = 0], [bx = 0, by = 0]] = slice.line as [number[], number[]];
    const out: Wanted[] = [{ ...place(ax, ay), text: slice.id, tone: "id", priority: 6 }];
    const d = diagrams[slice.id];
    if (typeof d !== "object") return out;
    const scale = sliceScale(drawn, d.unit);
    const length = Math.hypot(bx - ax, by - ay) || 1;
    const [ux, uy] = [(bx - ax) / length, (by - ay) / length];
    const one = d.high.value === d.low.value && d.high.at_m === d.low.at_m;
    for (const peak of one ? [d.high] : [d.high, d.low]) {
      if (peak.value === null || Math.abs(peak.value) * scale < 0.12) continue;
      const v = peak.value * scale;
      const at = place(ax + peak.at_m * ux + v * uy, ay + peak.at_m * uy - v * ux);
      out.push({ ...at, text: resultOf(peak.value, d.unit, system), tone: "soft", priority: 20 });
    }
    return out;
  });
}
