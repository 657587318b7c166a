import type { Results } from "../model/results";
import type { System } from "../units/quantities";
import { resultOf } from "../units/results";
import type { Wanted } from "./labels";
import type { View } from "./view";

type Frame = Results["frames"][number];

const TICK = 0.18;

/** Of a column's frames the greater to either side, one a direction. */
export const framesOf = (frames: Frame[], column: string | null): Frame[] =>
  (["x", "y"] as const).flatMap((direction) => {
    const mine = frames.filter((f) => f.column === column && f.direction === direction);
    return mine.length ? [mine.reduce((a, b) => (b.area_m2 > a.area_m2 ? b : a))] : [];
  });

/** The gross sections of the frames that cross at a column, across the plan: what bonded bars over it are asked for by. */
export function FrameLayer(props: { frames: Frame[] }) {
  return (
    <g className="frames" pointerEvents="none">
      {props.frames.map((f) => {
        const [[a, b], [c, d]] = f.ends as [[number, number], [number, number]];
        const length = Math.hypot(c - a, d - b) || 1;
        const [u, v] = [(-(d - b) / length) * TICK, ((c - a) / length) * TICK];
        return (
          <path
            key={`${f.direction}${a}${b}`}
            className={f.governs ? "frame governs" : "frame"}
            d={`M${a} ${b}L${c} ${d}M${a - u} ${b - v}L${a + u} ${b + v}M${c - u} ${d - v}L${c + u} ${d + v}`}
          />
        );
      })}
    </g>
  );
}

export function frameLabels(frames: Frame[], view: View, system: System): Wanted[] {
  return frames.map((f) => {
    const [[a, b], [c, d]] = f.ends as [[number, number], [number, number]];
    const wide = Math.hypot(c - a, d - b);
    return {
      x: view.x + view.k * (a + 0.75 * (c - a)),
      y: view.y - view.k * (b + 0.75 * (d - b)) - 6,
      text: `A_cf ${resultOf(f.area_m2, "m²", system, 2)} over ${resultOf(wide, "m", system)}`,
      priority: f.governs ? 58 : 57,
    };
  });
}
