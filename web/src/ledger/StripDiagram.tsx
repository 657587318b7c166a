import { useLayoutEffect, useMemo, useRef, useState } from "react";
import { GATHERED, provisionName } from "../inspector/BarView";
import type { Results, Strip } from "../model/results";
import { usePicked } from "../session";
import { useUnits } from "../units/quantities";
import { figureOf, toldUnit } from "../units/results";

const MARGIN = { left: 64, right: 16, top: 16, bottom: 22 };

type Station = { strip: Strip; k: number; s: number };

/** The strips of one kind along one axis, from its start to its end. */
function alongAxis(strips: Strip[], of: Strip): Strip[] {
  const [axis, , kind, side] = of.id.split("-");
  return strips
    .filter((s) => {
      const [a, , k, e] = s.id.split("-");
      return a === axis && k === kind && e === side;
    })
    .sort((a, b) => (a.s_m[0] as number) - (b.s_m[0] as number));
}

/** Required and given steel along the strips of an axis, top above and bottom below; a station is picked by click or arrows. */
export function StripDiagram(props: { results: Results | null }) {
  const { results } = props;
  const { selection, openRow } = usePicked("selection", "openRow");
  const system = useUnits((u) => u.system);
  const [picked, setPicked] = useState<number | null>(null);
  const surface = useRef<HTMLDivElement>(null);
  const [{ WIDE, HIGH }, setSize] = useState({ WIDE: 900, HIGH: 120 });
  useLayoutEffect(() => {
    const watch = new ResizeObserver(([entry]) => {
      if (entry)
        setSize({ WIDE: Math.max(entry.contentRect.width, 300), HIGH: Math.max(entry.contentRect.height, 90) });
    });
    if (surface.current) watch.observe(surface.current);
    return () => watch.disconnect();
  }, []);
  const strips = useMemo(() => (results?.strips ?? []).filter((s) => s.top && s.bottom), [results]);
  const row = selection?.type === "row" ? results?.rows.find((r) => r.id.key === selection.key) : undefined;
  const bars = selection?.type === "bars" ? results?.bars.find((b) => b.mark === selection.mark) : undefined;
  const named = row?.id.of.kind === "strips" ? row.id.of.id : bars?.why[0]?.strip;
  const worst = results?.rows.filter((r) => r.check === "flexure" && r.utilisation !== null);
  const first = worst?.reduce(
    (a, b) => ((b.utilisation ?? 0) > (a.utilisation ?? 0) ? b : a),
    worst[0] as (typeof worst)[number],
  );
  const [chosen, setChosen] = useState<string | null>(null);
  const strip = strips.find((s) => s.id === (named ?? chosen ?? first?.id.of.id)) ?? strips[0];
  if (!strip) return <p className="empty">{results ? "There are no strips with steel." : "No results yet."}</p>;
  const line = alongAxis(strips, strip);
  const stations: Station[] = line.flatMap((s) => s.s_m.map((at, k) => ({ strip: s, k, s: at })));
  const [low, high] = [stations[0]?.s ?? 0, stations[stations.length - 1]?.s ?? 1];
  // What is gathered over a column is asked for in a band of the strip, and told beside the rest.
  const asked = (s: Strip, face: "top" | "bottom") =>
    s.s_m.map((_, k) =>
      Math.max(
        0,
        ...Object.entries(s[face]?.provisions ?? {}).flatMap(([p, v]) => (GATHERED.has(p) ? [] : [v[k] ?? 0])),
      ),
    );
  const most = Math.max(
    1,
    ...line.flatMap((s) =>
      (["top", "bottom"] as const).flatMap((f) => [...asked(s, f), ...(s[f]?.provided_mm2_m ?? [])]),
    ),
  );
  const x = (s: number) => MARGIN.left + ((s - low) / Math.max(high - low, 1e-6)) * (WIDE - MARGIN.left - MARGIN.right);
  const zero = (HIGH - MARGIN.bottom + MARGIN.top) / 2;
  const y = (v: number, face: "top" | "bottom") => zero + (face === "top" ? -1 : 1) * (v / most) * (zero - MARGIN.top);
  const path = (s: Strip, face: "top" | "bottom", values: number[]) =>
    s.s_m.map((at, k) => `${k ? "L" : "M"}${x(at).toFixed(1)} ${y(values[k] ?? 0, face).toFixed(1)}`).join("");
  const at =
    picked !== null && picked < stations.length
      ? picked
      : row?.id.station != null
        ? stations.findIndex((t) => t.strip.id === row.id.of.id && Math.abs(t.s - (row.id.station as number)) < 1e-3)
        : -1;
  const here = stations[at];
  const unit = toldUnit("mm²/m", system).unit;
  const told = (face: "top" | "bottom") => {
    const f = here?.strip[face];
    if (!f || !here) return null;
    const all = Object.entries(f.provisions)
      .map(([k, v]) => [k, v[here.k] ?? 0] as const)
      .filter(([, v]) => v > 0)
      .sort((a, b) => b[1] - a[1]);
    return (
      <p key={face}>
        <b>{face}</b> required {figureOf(asked(here.strip, face)[here.k] ?? 0, "mm²/m", system)}, given{" "}
        {figureOf(f.provided_mm2_m[here.k] ?? 0, "mm²/m", system)} {unit}
        <span className="quiet">
          {" "}
          {all
            .map(
              ([k, v]) =>
                `${provisionName(k)} ${figureOf(v, "mm²/m", system)}${
                  GATHERED.has(k) ? ` (given there ${figureOf(f.band_mm2_m[here.k] ?? 0, "mm²/m", system)})` : ""
                }`,
            )
            .join(" · ")}
        </span>
      </p>
    );
  };
  const step = (by: number) => setPicked(Math.max(0, Math.min(stations.length - 1, Math.max(at, 0) + by)));
  return (
    <div className="strip-diagram">
      <div className="button-row">
        <select
          aria-label="Strip"
          value={strip.id}
          onChange={(e) => {
            setChosen(e.target.value);
            setPicked(null);
            const found = results?.rows.find((r) => r.check === "flexure" && r.id.of.id === e.target.value);
            if (found) openRow(found);
          }}
        >
          {strips.map((s) => (
            <option key={s.id} value={s.id}>
              {s.direction}, {s.label}
            </option>
          ))}
        </select>
        <span className="quiet">filled: required by the greatest provision; line: given, anchored; {unit}</span>
      </div>
      <div className="surface-of" ref={surface}>
        <svg
          width={WIDE}
          height={HIGH}
          role="group"
          aria-label="Steel along the strips; arrow keys walk the stations"
          // biome-ignore lint/a11y/noNoninteractiveTabindex: the stations are walked by arrow keys
          tabIndex={0}
          onKeyDown={(e) => {
            if (e.key === "ArrowRight") step(1);
            else if (e.key === "ArrowLeft") step(-1);
            else return;
            e.preventDefault();
          }}
          onClick={(e) => {
            const r = e.currentTarget.getBoundingClientRect();
            const px = ((e.clientX - r.left) / r.width) * WIDE;
            const best = stations.reduce(
              (a, t, i) => (Math.abs(x(t.s) - px) < Math.abs(x(stations[a]?.s ?? 0) - px) ? i : a),
              0,
            );
            setPicked(best);
          }}
        >
          {[-1, -0.5, 0.5, 1].map((v) => {
            const face = v > 0 ? "top" : "bottom";
            const height = y(Math.abs(v) * most, face);
            return (
              <g key={v}>
                <path d={`M${MARGIN.left} ${height}H${WIDE - MARGIN.right}`} className="rule" />
                <text x={MARGIN.left - 6} y={height + 4} textAnchor="end">
                  {figureOf(Math.abs(v) * most, "mm²/m", system)}
                </text>
              </g>
            );
          })}
          <text x={4} y={MARGIN.top + 4}>
            top
          </text>
          <text x={4} y={HIGH - 5}>
            bottom
          </text>
          {line.map((s) => (
            <g key={s.id}>
              {(["top", "bottom"] as const).map((face) => (
                <g key={face}>
                  <path
                    d={`${path(s, face, asked(s, face))}L${x(s.s_m[s.s_m.length - 1] as number)} ${zero}L${x(s.s_m[0] as number)} ${zero}Z`}
                    className={`needed ${face}`}
                  />
                  <path d={path(s, face, s[face]?.provided_mm2_m ?? [])} className="given" />
                </g>
              ))}
              <text
                className="span-of"
                x={(x(s.s_m[0] as number) + x(s.s_m[s.s_m.length - 1] as number)) / 2}
                y={HIGH - 5}
                textAnchor="middle"
              >
                {s.label.replace(/^(column strip|middle strip (left|right) of|whole width,) /, "")}
              </text>
            </g>
          ))}
          <path d={`M${MARGIN.left} ${zero}H${WIDE - MARGIN.right}`} className="zero" />
          {here && <path d={`M${x(here.s)} ${MARGIN.top}V${HIGH - MARGIN.bottom}`} className="station" />}
        </svg>
      </div>
      <div className="told-station" aria-live="polite">
        {here ? (
          <>
            {told("top")}
            {told("bottom")}
          </>
        ) : (
          <p className="quiet">Click a station, or walk them with the arrow keys.</p>
        )}
      </div>
    </div>
  );
}
