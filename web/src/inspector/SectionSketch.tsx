import type { Row, TraceValue } from "../model/results";
import { measured, useUnits } from "../units/quantities";

/** Greatest strain of concrete by the symbol that a standard gives the neutral axis. */
const CRUSHED: Record<string, number> = { x: 0.0035, c: 0.003 };
const [WIDE, HIGH] = [280, 150];

/** The section at a station with its bars, the strains and the forces under the governing combination. */
export function SectionSketch(props: { row: Row }) {
  const { row } = props;
  const system = useUnits((u) => u.system);
  const all = (row.trace?.steps ?? []).flatMap((s) => [...s.values, ...(s.result ? [s.result] : [])]);
  const of = (symbol: string): TraceValue | undefined => all.find((v) => v.symbol === symbol);
  const h = of("h")?.value;
  const d = of("d")?.value;
  const axis = of("x") ?? of("c");
  if (row.check !== "flexure" || !h || !d || !axis) return null;
  const x = axis.value;
  const omega = of("omega")?.value ?? 0;
  const crushed = CRUSHED[axis.symbol] ?? 0.0035;
  const strain = x > 0 ? (crushed * (d - x)) / x : 0;
  // The stretched face lies where the row says it does: at the top, the section is compressed from below.
  const top = row.id.face === "top";
  const scale = (HIGH - 30) / h;
  const y = (depth: number) => 14 + scale * (top ? h - depth : depth);
  const size = (v: number) => measured(v, "size", system);
  const widest = Math.max(crushed, Math.min(strain, 0.01));
  const wide = 44 / widest;
  const middle = 150;
  return (
    <figure className="sketch">
      <svg
        viewBox={`0 0 ${WIDE} ${HIGH}`}
        role="img"
        aria-label={`Section: depth ${size(h)}, neutral axis at ${size(x)}`}
      >
        <rect x={8} y={14} width={84} height={scale * h} className="body" />
        <rect x={8} y={Math.min(y(0), y(omega * d))} width={84} height={scale * omega * d} className="block" />
        {[0, 1, 2, 3].map((k) => (
          <circle key={k} cx={19 + k * 20.6} cy={y(d)} r={3.4} className="bar" />
        ))}
        <path d={`M4 ${y(x)}H${WIDE - 6}`} className="axis" />
        <path
          d={`M${middle} ${y(0)}H${middle - crushed * wide}L${middle + Math.min(strain, 0.01) * wide} ${y(d)}H${middle}Z`}
          className="strain"
        />
        <path d={`M${middle} ${y(0)}V${y(d)}`} className="zero" />
        <rect x={214} y={Math.min(y(0), y(omega * d))} width={34} height={scale * omega * d} className="block" />
        <path d={`M214 ${y(0)}V${y(d)}M214 ${y(d)}h40m-6 -4l6 4l-6 4`} className="force" />
        <text x={8} y={HIGH - 3}>
          d {size(d)}
        </text>
        <text x={104} y={HIGH - 3}>
          ε {(1000 * strain).toFixed(1)} ‰
        </text>
        <text x={204} y={HIGH - 3}>
          {axis.symbol} {size(x)}
        </text>
      </svg>
      <figcaption className="quiet">
        Section, strains and stresses at this station, {top ? "hogging" : "sagging"}; dashed: neutral axis.
      </figcaption>
    </figure>
  );
}
