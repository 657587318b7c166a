import { useMemo, useState } from "react";
import { designedAlone } from "../model/bars";
import type { FloorDocument } from "../model/floor";
import { GATHERED, provisionName } from "../model/provisions";
import type { Results, Strip } from "../model/results";
import { usePicked, useStale } from "../session";
import { useUnits } from "../units/quantities";
import { figureOf, toldUnit } from "../units/results";
import { EFFECTS, type Effect, ForceDiagram } from "./ForceDiagram";
import { alongAxis, MARGIN, type Station, StationSurface, stationsOf } from "./StationSurface";

/** Required and given steel along the strips of an axis, top above and bottom below; a station is picked by click or arrows. */
export function StripDiagram(props: { document: FloorDocument; results: Results | null }) {
  const { document, results } = props;
  const { selection, select, openRow, edit } = usePicked("selection", "select", "openRow", "edit");
  const stale = useStale();
  const system = useUnits((u) => u.system);
  const [picked, setPicked] = useState<number | null>(null);
  const [shown, setShown] = useState<"steel" | Effect>("steel");
  const strips = useMemo(() => (results?.strips ?? []).filter((s) => s.top && s.bottom), [results]);
  const row = selection?.type === "row" ? results?.rows.find((r) => r.id.key === selection.key) : undefined;
  const bars = selection?.type === "bars" ? results?.bars.find((b) => b.mark === selection.mark) : undefined;
  const station = selection?.type === "station" ? selection : undefined;
  const named = station ? station.strip : row?.id.of.kind === "strips" ? row.id.of.id : bars?.why[0]?.strip;
  const worst = results?.rows.filter((r) => r.check === "flexure" && r.utilisation !== null);
  const first = worst?.reduce(
    (a, b) => ((b.utilisation ?? 0) > (a.utilisation ?? 0) ? b : a),
    worst[0] as (typeof worst)[number],
  );
  const [chosen, setChosen] = useState<string | null>(null);
  const strip = strips.find((s) => s.id === (named ?? chosen ?? first?.id.of.id)) ?? strips[0];
  if (!strip) return <p className="empty">{results ? "There are no strips with steel." : "No results yet."}</p>;
  const line = alongAxis(strips, strip);
  const stations = stationsOf(line);
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
  const lies = (id: string, s: number) => stations.findIndex((t) => t.strip.id === id && Math.abs(t.s - s) < 1e-3);
  const at =
    picked !== null && picked < stations.length
      ? picked
      : station
        ? lies(station.strip, station.s)
        : row?.id.station != null
          ? lies(row.id.of.id, row.id.station)
          : -1;
  const here = stations[at];
  const open = (t: Station, face: "top" | "bottom") => select({ type: "station", strip: t.strip.id, s: t.s, face });
  // The face that has less left of what it is given.
  const worse = ({ strip: s, k }: Station): "top" | "bottom" => {
    const [top, bottom] = (["top", "bottom"] as const).map(
      (f) => (asked(s, f)[k] ?? 0) / Math.max(s[f]?.provided_mm2_m[k] ?? 0, 1e-9),
    ) as [number, number];
    return top >= bottom ? "top" : "bottom";
  };
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
        <button type="button" className="link" title="Section and trace (Enter)" onClick={() => open(here, face)}>
          {face}
        </button>{" "}
        required {figureOf(asked(here.strip, face)[here.k] ?? 0, "mm²/m", system)}, given{" "}
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
  const choices = (
    <>
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
      <select aria-label="Shown along the strips" value={shown} onChange={(e) => setShown(e.target.value as Effect)}>
        <option value="steel">Steel</option>
        {EFFECTS.map((e) => (
          <option key={e.key} value={e.key}>
            {e.name}
          </option>
        ))}
      </select>
    </>
  );
  const steel = (
    <>
      <div className="button-row">
        {choices}
        <button
          type="button"
          className="small"
          disabled={stale || !results?.bars.length}
          title="Lets the bars of this axis's strips go and designs them anew; all others are kept as they are"
          onClick={() => {
            const alone = designedAlone(document, results?.bars ?? [], line);
            void edit({
              line: `Strips of ${strip.label} designed alone: ${alone.gone} groups let go, ${alone.kept} kept`,
              change: (d) => designedAlone(d, results?.bars ?? [], line).document,
            });
          }}
        >
          Design alone
        </button>
        <span className="quiet" title="Required by the greatest provision; given with its anchored share">
          {unit}; filled: required, line: given
        </span>
      </div>
      <StationSurface
        line={line}
        at={at}
        pick={setPicked}
        open={(i) => stations[i] && open(stations[i], worse(stations[i]))}
        name="Steel along the strips"
      >
        {(x, WIDE, HIGH) => {
          const zero = (HIGH - MARGIN.bottom + MARGIN.top) / 2;
          const y = (v: number, face: "top" | "bottom") =>
            zero + (face === "top" ? -1 : 1) * (v / most) * (zero - MARGIN.top);
          const path = (s: Strip, face: "top" | "bottom", values: number[]) =>
            s.s_m.map((a, k) => `${k ? "L" : "M"}${x(a).toFixed(1)} ${y(values[k] ?? 0, face).toFixed(1)}`).join("");
          return (
            <>
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
                </g>
              ))}
              <path d={`M${MARGIN.left} ${zero}H${WIDE - MARGIN.right}`} className="zero" />
            </>
          );
        }}
      </StationSurface>
      <div className="told-station" aria-live="polite">
        {here ? (
          <>
            {told("top")}
            {told("bottom")}
          </>
        ) : (
          <p className="quiet">Click a station, or walk them with the arrow keys; Enter opens its section and trace.</p>
        )}
      </div>
    </>
  );
  return (
    <div className="strip-diagram">
      {shown === "steel" ? (
        steel
      ) : (
        <ForceDiagram
          choices={choices}
          line={line}
          effect={shown}
          at={at}
          pick={setPicked}
          combination={row?.combination}
        />
      )}
    </div>
  );
}
