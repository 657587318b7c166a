import { isLegs, sized, strokes } from "../model/bars";
import type { Bar } from "../model/results";
import type { System } from "../units/quantities";
import { resultOf } from "../units/results";
import type { Wanted } from "./labels";
import type { View } from "./view";

const TICK = 0.12;
/** Legs of links are dotted so far apart (m), whatever their spacing is. */
const LEGS = 0.15;
/** Groups of bars of one face and direction, as drawings have them: one bar of each, and the line across over which they lie. */
export function BarLayer(props: { bars: Bar[]; chosen: string | null; pick: (mark: string) => void }) {
  const { bars, chosen, pick } = props;
  return (
    <g className="bars">
      <defs>
        <pattern id="legs" patternUnits="userSpaceOnUse" width={LEGS} height={LEGS}>
          <circle cx={LEGS / 2} cy={LEGS / 2} r={LEGS / 7} />
        </pattern>
      </defs>
      {bars.map((b) => {
        const { bar, extent } = strokes(b);
        const [p, q] = extent;
        const length = Math.hypot(q[0] - p[0], q[1] - p[1]) || 1;
        // Ticks at 45 degrees end the extent, as dimension lines do.
        const u = [(q[0] - p[0]) / length, (q[1] - p[1]) / length] as const;
        const tick = [TICK * (u[0] - u[1]), TICK * (u[1] + u[0])] as const;
        const ends = extent.map(([x, y]) => `M${x - tick[0]} ${y - tick[1]}L${x + tick[0]} ${y + tick[1]}`).join("");
        return (
          // biome-ignore lint/a11y/noStaticElementInteractions: bars are reached by keyboard through the ledger
          <g
            key={b.mark}
            className={chosen === b.mark ? "chosen" : ""}
            data-bars={b.mark}
            onClick={(event) => {
              event.stopPropagation();
              pick(b.mark);
            }}
            onKeyDown={() => undefined}
          >
            {isLegs(b) && <path d={`M${b.outline.map((c) => c.join(" ")).join("L")}Z`} className="legs" />}
            {chosen === b.mark && <path d={`M${b.outline.map((c) => c.join(" ")).join("L")}Z`} className="ground" />}
            {!isLegs(b) && (
              <>
                <path d={`M${p.join(" ")}L${q.join(" ")}${ends}`} className="reach" />
                <path d={`M${bar[0].join(" ")}L${bar[1].join(" ")}`} className={`bar ${b.locked ? "locked" : ""}`} />
              </>
            )}
            <path d={`M${bar[0].join(" ")}L${bar[1].join(" ")}`} className="grip" />
          </g>
        );
      })}
    </g>
  );
}

export function barLabels(bars: Bar[], chosen: string | null, view: View, system: System): Wanted[] {
  return bars.map((b) => {
    const [x, y] = strokes(b).bar[1];
    const open = b.mark === chosen;
    return {
      x: view.x + view.k * x,
      y: view.y - view.k * y - 6,
      text: open
        ? `${b.mark}  ${b.count} ${sized(b, system)}  L ${system === "US" ? resultOf(b.length_m, "m", system) : Math.round(1000 * b.length_m)}`
        : b.mark,
      priority: open ? 60 : 1 + b.mass_kg / 1000,
      callout: open,
      tone: open ? undefined : "soft",
    };
  });
}
