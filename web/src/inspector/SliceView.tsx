import { useEffect, useState } from "react";
import type { Slice } from "../model/floor";
import { panelsOf } from "../model/results";
import { useChosen } from "../readings/chosen";
import { useDiagrams } from "../readings/diagrams";
import type { Diagram } from "../readings/readings";
import { showArrangement } from "../readings/shown";
import { useUnits } from "../units/quantities";
import { figureOf, resultOf, toldUnit } from "../units/results";

/** A slice's diagram with its peaks; the arrangement of the chosen peak is on the plan. */
export function SliceView(props: { slice: Slice }) {
  const { slice } = props;
  const system = useUnits((u) => u.system);
  const of = useChosen()?.of ?? null;
  const [list, setList] = useState([slice]);
  useEffect(() => setList([slice]), [slice]);
  const diagram = useDiagrams(list, of)[slice.id];
  const [sense, setSense] = useState<"greatest" | "least">("greatest");
  const peak = typeof diagram === "object" ? (sense === "greatest" ? diagram.high : diagram.low) : null;
  useEffect(() => {
    if (!peak) return;
    showArrangement(
      peak.panels.length ? panelsOf(peak.panels) : null,
      `Loaded for the ${sense} value of slice ${slice.id}`,
    );
    return () => showArrangement(null);
  }, [peak, sense, slice.id]);
  if (typeof diagram === "string") return <p className="empty">{diagram}</p>;
  if (!diagram) return <p className="empty">Its diagram comes with the next results.</p>;
  const { unit } = toldUnit(diagram.unit, system);
  const total = diagram.unit === "kNm/m" ? "kNm" : diagram.unit === "kN/m" ? "kN" : "";
  return (
    <>
      <h3>
        Along the slice, {of}, {unit}
      </h3>
      <Chart diagram={diagram} />
      {(["greatest", "least"] as const).map((k) => {
        const p = k === "greatest" ? diagram.high : diagram.low;
        return (
          <button
            type="button"
            key={k}
            className={`row-link ${sense === k ? "current" : ""}`}
            aria-pressed={sense === k}
            onClick={() => setSense(k)}
          >
            <span>
              {k}{" "}
              <span className="quiet">
                at {resultOf(p.at_m, "m", system)}
                {p.panels.length > 0 && `, ${p.panels.length} panels loaded`}
              </span>
            </span>
            <span className="mono" data-testid={`peak-${k}`}>
              {p.value === null ? "–" : figureOf(p.value, diagram.unit, system)}
            </span>
          </button>
        );
      })}
      {peak && peak.panels.length > 0 && (
        <p className="panels mono" data-testid="peak-panels">
          {[...panelsOf(peak.panels)].join(" ")}
        </p>
      )}
      <table className="small-table">
        <tbody>
          {total && diagram.total !== null && (
            <tr>
              <th>Total, by the free body on one side</th>
              <td data-testid="total">{resultOf(diagram.total, total, system)}</td>
            </tr>
          )}
          <tr>
            <th>Area under the diagram</th>
            <td>{total ? resultOf(diagram.area, total, system) : figureOf(diagram.area, diagram.unit, system)}</td>
          </tr>
          <tr>
            <th>Mean over {resultOf(diagram.length_m, "m", system)} of floor</th>
            <td>{diagram.mean === null ? "–" : resultOf(diagram.mean, diagram.unit, system)}</td>
          </tr>
        </tbody>
      </table>
      <p className="quiet">
        Total, area and mean are with all live load. The total balances the loads on one side; the area is that of the
        recovered field. Strips, not slices, are what is designed.
      </p>
    </>
  );
}

const W = 262;
const H = 130;

/** Greatest and least over arrangements as a band, all live load as a line; sagging downwards. */
function Chart(props: { diagram: Diagram }) {
  const { diagram } = props;
  const system = useUnits((u) => u.system);
  const [at, setAt] = useState<number | null>(null);
  const { s_m: s, least, greatest, all } = diagram;
  const length = s[s.length - 1] || 1;
  const values = [...least, ...greatest, 0].filter((v): v is number => v !== null);
  const [low, high] = [Math.min(...values), Math.max(...values)];
  const x = (v: number) => 4 + (v / length) * (W - 8);
  // Upside down, as moments are drawn on the stretched side.
  const y = (v: number) => 14 + ((v - low) / Math.max(1e-9, high - low)) * (H - 28);
  const runs: number[][] = [[]];
  s.forEach((_, i) => {
    if (all[i] === null) runs.push([]);
    else (runs[runs.length - 1] as number[]).push(i);
  });
  const line = (list: (number | null)[], run: number[]) =>
    run.map((i) => `${x(s[i] as number)} ${y(list[i] as number)}`);
  const k =
    at === null ? -1 : s.reduce((best, v, i) => (Math.abs(v - at) < Math.abs((s[best] as number) - at) ? i : best), 0);
  return (
    <figure className="chart">
      <svg
        width={W}
        height={H}
        role="img"
        aria-label="Diagram along the slice"
        onPointerMove={(e) =>
          setAt(((e.clientX - e.currentTarget.getBoundingClientRect().left - 4) / (W - 8)) * length)
        }
        onPointerLeave={() => setAt(null)}
      >
        <line x1={4} x2={W - 4} y1={y(0)} y2={y(0)} className="axis" />
        {runs
          .filter((r) => r.length > 1)
          .map((r) => (
            <g key={r[0]}>
              <path
                d={`M${line(greatest, r).join("L")}L${line(least, [...r].reverse()).join("L")}Z`}
                className="band"
              />
              <path d={`M${line(greatest, r).join("L")}`} className="high" />
              <path d={`M${line(least, r).join("L")}`} className="low" />
              <path d={`M${line(all, r).join("L")}`} className="all" />
            </g>
          ))}
        {k >= 0 && <line x1={x(s[k] as number)} x2={x(s[k] as number)} y1={4} y2={H - 4} className="at" />}
        <text x={4} y={10}>
          {figureOf(low, diagram.unit, system)}
        </text>
        <text x={4} y={H - 2}>
          {figureOf(high, diagram.unit, system)}
        </text>
      </svg>
      <figcaption className="mono quiet">
        {k >= 0 && all[k] !== null && all[k] !== undefined
          ? `${resultOf(s[k] as number, "m", system)}: ${figureOf(least[k] as number, diagram.unit, system)} to ${figureOf(greatest[k] as number, diagram.unit, system)}`
          : "Point at the diagram to read it."}
      </figcaption>
    </figure>
  );
}
