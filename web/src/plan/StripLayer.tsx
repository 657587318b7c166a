import type { Strip } from "../model/results";
import type { System } from "../units/quantities";
import { figureOf } from "../units/results";
import type { Wanted } from "./labels";
import type { View } from "./view";

const TALL = 1.7;

/** Scale (m on plan a kNm) at which the greatest moment of the drawn strips stands 1.7 m off its line. */
export function stripScale(strips: Strip[]): number {
  const all = strips.flatMap((s) => [...s.M_kNm[0], ...s.M_kNm[1]].map(Math.abs));
  return TALL / Math.max(1e-6, ...all);
}

function lineOf(strip: Strip, values: number[] | null, scale: number): [number, number][] {
  const t = (strip.angle_deg * Math.PI) / 180;
  // Sagging is drawn on the side of the stretched face: below the line, as on a drawing board.
  const side = strip.direction === "x" ? -1 : 1;
  const nx = -Math.sin(t) * side;
  const ny = Math.cos(t) * side;
  return strip.ends.map(([a, b], i) => {
    const m = (values?.[i] ?? 0) * scale;
    return [(a[0] + b[0]) / 2 + nx * m, (a[1] + b[1]) / 2 + ny * m];
  });
}

/** Envelopes of the strips' ultimate moments, drawn on the middle line of each strip, and the strips' borders. */
export function StripLayer(props: { strips: Strip[]; chosen: string | null; pick: (id: string) => void }) {
  const { strips, chosen, pick } = props;
  const scale = stripScale(strips);
  return (
    <g className="strips">
      {strips.map((strip) => {
        const low = lineOf(strip, strip.M_kNm[0], scale);
        const high = lineOf(strip, strip.M_kNm[1], scale);
        const base = lineOf(strip, null, scale);
        const text = (list: [number, number][]) => list.map((p) => p.join(" ")).join("L");
        return (
          <g key={strip.id} className={chosen === strip.id ? "chosen" : ""}>
            {/* biome-ignore lint/a11y/noStaticElementInteractions: strips are reached by keyboard through the ledger */}
            <path
              d={strip.outline.map((part) => `M${text(part)}Z`).join("")}
              className={`strip ${strip.kind}`}
              onClick={(event) => {
                event.stopPropagation();
                pick(strip.id);
              }}
              onKeyDown={() => undefined}
            />
            <path d={`M${text(high)}L${text([...base].reverse())}Z`} className="moment high" />
            <path d={`M${text(low)}L${text([...base].reverse())}Z`} className="moment low" />
            <path d={`M${text(base)}`} className="base" />
          </g>
        );
      })}
    </g>
  );
}

/** Labels of the greatest sagging and hogging moment of each strip. */
export function stripLabels(strips: Strip[], view: View, system: System): Wanted[] {
  const scale = stripScale(strips);
  return strips.flatMap((strip) =>
    [strip.M_kNm[1], strip.M_kNm[0]].flatMap((values, k) => {
      const best = values.reduce(
        (at, m, i) => ((k ? m < (values[at] as number) : m > (values[at] as number)) ? i : at),
        0,
      );
      const m = values[best] as number;
      if (Math.abs(m) * scale < 0.18) return [];
      const [x, y] = lineOf(strip, values, scale)[best] as [number, number];
      return [
        {
          x: view.x + view.k * x,
          y: view.y - view.k * y,
          text: figureOf(m, "kNm", system, 0),
          priority: Math.abs(m) / 1000,
          tone: "soft",
        },
      ];
    }),
  );
}
