import { useMemo, useState } from "react";
import { designedAlone } from "../model/bars";
import type { FloorDocument } from "../model/floor";
import { GATHERED, provisionName } from "../model/provisions";
import type { Results, Strip } from "../model/results";
import { usePicked, useStale } from "../session";
import { useUnits } from "../units/quantities";
import { figureOf, resultOf, toldUnit } from "../units/results";
import { EFFECTS, type Effect, ForceDiagram } from "./ForceDiagram";
import { alongAxis, MARGIN, type Station, StationSurface, stationsOf } from "./StationSurface";
import { FACES, type Face, steelAlong } from "./steelAlong";

/** Required and given steel along the strips or the beams of an axis, top above and bottom below; a station is picked by click or arrows. */
export function StripDiagram(props: { document: FloorDocument; results: Results | null }) {
  const { document, results } = props;
  const { selection, select, openRow, edit } = usePicked("selection", "select", "openRow", "edit");
  const stale = useStale();
  const system = useUnits((u) => u.system);
  const [picked, setPicked] = useState<{ strip: string; s: number } | null>(null);
  const [shown, setShown] = useState<"steel" | Effect>("steel");
  const { strips, beam, asked, given } = useMemo(() => steelAlong(results), [results]);
  const row = selection?.type === "row" ? results?.rows.find((r) => r.id.key === selection.key) : undefined;
  const bars = selection?.type === "bars" ? results?.bars.find((b) => b.mark === selection.mark) : undefined;
  const station = selection?.type === "station" ? selection : undefined;
  const spanOf = (key: string | null | undefined) => results?.beams.find((b) => b.row === key)?.strip;
  const ofRow = row?.id.of.kind === "strips" ? row.id.of.id : spanOf(row?.id.key);
  const named = station ? station.strip : (ofRow ?? bars?.why[0]?.strip ?? spanOf(bars?.row));
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
  const span = beam(strip);
  const toldAs = span ? "mm²" : "mm²/m";
  const most = Math.max(1, ...line.flatMap((s) => FACES.flatMap((f) => [...asked(s, f), ...given(s, f)])));
  const lies = (id: string, s: number) => stations.findIndex((t) => t.strip.id === id && Math.abs(t.s - s) < 1e-3);
  // A station picked on another axis is none of this one's.
  const walked = picked ? lies(picked.strip, picked.s) : -1;
  const at =
    walked >= 0
      ? walked
      : station
        ? lies(station.strip, station.s)
        : row?.id.station != null && ofRow
          ? lies(ofRow, row.id.station)
          : -1;
  const pick = (i: number) => {
    const t = stations[i];
    setPicked(t ? { strip: t.strip.id, s: t.s } : null);
  };
  const here = stations[at];
  const of = here && beam(here.strip);
  const open = (t: Station, face: Face) => select({ type: "station", strip: t.strip.id, s: t.s, face });
  // The face that has less left of what it is given.
  const worse = ({ strip: s, k }: Station): Face => {
    const [top, bottom] = FACES.map((f) => (asked(s, f)[k] ?? 0) / Math.max(given(s, f)[k] ?? 0, 1e-9)) as [
      number,
      number,
    ];
    return top >= bottom ? "top" : "bottom";
  };
  const unit = toldUnit(toldAs, system).unit;
  const told = (face: Face) => {
    if (!here) return null;
    const f = here.strip[face];
    const all = Object.entries(f?.provisions ?? {})
      .map(([k, v]) => [k, v[here.k] ?? 0] as const)
      .filter(([, v]) => v > 0)
      .sort((a, b) => b[1] - a[1]);
    return (
      <p key={face}>
        <button type="button" className="link" title="Section and trace (Enter)" onClick={() => open(here, face)}>
          {face}
        </button>{" "}
        required {figureOf(asked(here.strip, face)[here.k] ?? 0, toldAs, system)}, given{" "}
        {figureOf(given(here.strip, face)[here.k] ?? 0, toldAs, system)} {unit}
        <span className="quiet">
          {" "}
          {all
            .map(
              ([k, v]) =>
                `${provisionName(k)} ${figureOf(v, "mm²/m", system)}${
                  GATHERED.has(k) ? ` (given there ${figureOf(f?.band_mm2_m[here.k] ?? 0, "mm²/m", system)})` : ""
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
          const key = results?.beams.find((b) => b.strip === e.target.value)?.row;
          const found = results?.rows.find((r) =>
            key ? r.id.key === key : r.check === "flexure" && r.id.of.id === e.target.value,
          );
          if (found) openRow(found);
        }}
      >
        {[["Strips", strips.filter((s) => !beam(s))] as const, ["Beams", strips.filter((s) => beam(s))] as const].map(
          ([name, some]) =>
            some.length > 0 && (
              <optgroup label={name} key={name}>
                {some.map((s) => (
                  <option key={s.id} value={s.id}>
                    {s.direction}, {s.label}
                  </option>
                ))}
              </optgroup>
            ),
        )}
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
        {!span && (
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
        )}
        <span className="quiet" title="Required by the greatest provision; given with its anchored share">
          {unit}; filled: required, line: given
        </span>
      </div>
      <StationSurface
        line={line}
        at={at}
        pick={pick}
        open={(i) => stations[i] && open(stations[i], worse(stations[i]))}
        name="Steel along the strips"
      >
        {(x, WIDE, HIGH) => {
          const zero = (HIGH - MARGIN.bottom + MARGIN.top) / 2;
          const y = (v: number, face: Face) => zero + (face === "top" ? -1 : 1) * (v / most) * (zero - MARGIN.top);
          const path = (s: Strip, face: Face, values: number[]) =>
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
                      {figureOf(Math.abs(v) * most, toldAs, system)}
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
                  {FACES.map((face) => (
                    <g key={face}>
                      <path
                        d={`${path(s, face, asked(s, face))}L${x(s.s_m[s.s_m.length - 1] as number)} ${zero}L${x(s.s_m[0] as number)} ${zero}Z`}
                        className={`needed ${face}`}
                      />
                      <path d={path(s, face, given(s, face))} className="given" />
                    </g>
                  ))}
                </g>
              ))}
              <path d={`M${MARGIN.left} ${zero}H${WIDE - MARGIN.right}`} className="zero" />
            </>
          );
        }}
      </StationSurface>
      <div className={`told-station ${of ? "of-beam" : ""}`} aria-live="polite">
        {here ? (
          <>
            {told("top")}
            {told("bottom")}
            {of && (
              <p>
                Links required {figureOf(of.links_mm2_m[here.k] ?? 0, "mm²/m", system)}, given{" "}
                {figureOf(of.links_given_mm2_m ?? 0, "mm²/m", system)} {toldUnit("mm²/m", system).unit}
                <span className="quiet">
                  {" "}
                  V {resultOf(of.V_Ed_kN[here.k] ?? 0, "kN", system)} · T{" "}
                  {resultOf(of.T_Ed_kNm[here.k] ?? 0, "kNm", system)}
                </span>
              </p>
            )}
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
        <ForceDiagram choices={choices} line={line} effect={shown} at={at} pick={pick} combination={row?.combination} />
      )}
    </div>
  );
}
