import { barOf, sized, withKept } from "../model/bars";
import type { FloorDocument } from "../model/floor";
import { provisionName } from "../model/provisions";
import type { Results } from "../model/results";
import { usePicked, useStale } from "../session";
import { use } from "../units/format";
import { useUnits } from "../units/quantities";
import { figureOf, resultOf, toldUnit } from "../units/results";
import { KeptBars } from "./KeptBars";

/** Why bars are there: the stations and provisions that asked for them, and what can be done with them. */
export function BarView(props: { document: FloorDocument; results: Results | null; mark: string }) {
  const { document, results, mark } = props;
  const { edit, select, openRow } = usePicked("edit", "select", "openRow");
  const stale = useStale();
  const system = useUnits((u) => u.system);
  const bar = barOf(results, mark);
  if (!bar) return <p className="empty">Bars {mark} are not in the newest results.</p>;
  const strips = new Map((results?.strips ?? []).map((s) => [s.id, s]));
  const kept = (document.designed_bars ?? []).find((g) => g.id === mark);
  const asked = bar.why.map((w) => {
    const strip = strips.get(w.strip);
    const at = strip ? strip.s_m.findIndex((s) => Math.abs(s - w.station) < 1e-3) : -1;
    const face = strip?.[bar.face];
    const demands = at >= 0 && face ? Object.entries(face.provisions).map(([k, v]) => [k, v[at] ?? 0] as const) : [];
    return {
      ...w,
      strip_label: strip?.label ?? w.strip,
      /** What the provision asks for, and the greatest of all of them. */
      own: at >= 0 ? face?.provisions[w.provision]?.[at] : undefined,
      required: at >= 0 ? face?.required_mm2_m[at] : undefined,
      demands,
    };
  });
  const worst = asked.reduce<(typeof asked)[number] | undefined>(
    (a, b) => ((b.required ?? 0) > (a?.required ?? -1) ? b : a),
    undefined,
  );
  const keep = (origin: "designed" | "drawn") =>
    edit({ line: `Bars ${mark} are kept`, change: (d) => withKept(d, bar, origin) });
  const release = () =>
    edit({
      line: `Bars ${mark} are let go`,
      change: (d) => ({ ...d, designed_bars: (d.designed_bars ?? []).filter((g) => g.id !== mark) }),
    });
  const row = bar.row
    ? results?.rows.find((r) => r.id.key === bar.row)
    : worst && results?.rows.find((r) => r.check === "flexure" && r.id.of.id === worst.strip);
  return (
    <>
      <h2>Bars {mark}</h2>
      <p>
        {bar.count} {sized(bar, system)}, {resultOf(bar.length_m, "m", system)}, {bar.face}, along {bar.direction},{" "}
        {bar.layer} layer, {resultOf(bar.mass_kg, "kg", system, bar.mass_kg < 10 ? 1 : 0)}
        {bar.shape !== "straight" && ", bent at the edge"}
      </p>
      {stale && <p className="warning">These bars are of an older revision.</p>}
      {kept && !stale && <KeptBars bar={bar} results={results} />}
      <h3>Why these bars are here</h3>
      {bar.why.length === 0 ? (
        <p className="quiet">
          {bar.row
            ? "They are designed with what they strengthen: its row tells what asked for them."
            : bar.origin === "drawn"
              ? "They were drawn by hand; no station would fall short without them."
              : kept
                ? "They are kept from an earlier design; no station would fall short without them."
                : "With the bars beside them, no other mat takes less steel."}
        </p>
      ) : (
        <table className="small-table">
          <thead>
            <tr>
              <th>Station</th>
              <th>{toldUnit("mm²/m", system).unit}</th>
            </tr>
          </thead>
          <tbody>
            {asked.map((w) => (
              <tr key={w.strip + w.station}>
                <th>
                  {provisionName(w.provision)}{" "}
                  <button
                    type="button"
                    className="link"
                    title="Section and trace of this station"
                    onClick={() => select({ type: "station", strip: w.strip, s: w.station, face: bar.face })}
                  >
                    {w.strip_label} at {resultOf(w.station, "m", system)}
                  </button>
                  {w.combination && <span className="quiet">, {w.combination}</span>}
                </th>
                <td>{w.own === undefined ? "–" : figureOf(w.own, "mm²/m", system)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {worst && worst.demands.length > 0 && (
        <>
          <h3>All provisions at the worst of them, {toldUnit("mm²/m", system).unit}</h3>
          <table className="small-table">
            <tbody>
              {[...worst.demands]
                .filter(([, v]) => v > 0)
                .sort((a, b) => b[1] - a[1])
                .map(([k, v]) => (
                  <tr key={k}>
                    <th>{provisionName(k)}</th>
                    <td>{figureOf(v, "mm²/m", system)}</td>
                  </tr>
                ))}
            </tbody>
          </table>
          {worst.demands.some(([, v]) => v <= 0) && (
            <p className="quiet">
              Nothing by:{" "}
              {worst.demands
                .filter(([, v]) => v <= 0)
                .map(([k]) => provisionName(k).toLowerCase())
                .join(", ")}
              .
            </p>
          )}
        </>
      )}
      <div className="button-row">
        {bar.row ? null : kept ? (
          <button type="button" className="small" onClick={() => void release()}>
            Let go
          </button>
        ) : (
          <button type="button" className="small" onClick={() => void keep("designed")}>
            Lock
          </button>
        )}
        {!bar.row && (
          <button
            type="button"
            className="small"
            onClick={() =>
              void (async () => {
                if (!kept) await keep("drawn");
                select({ type: "object", kind: "designed_bars", id: mark });
              })()
            }
          >
            Edit
          </button>
        )}
        {row && (
          <button type="button" className="small" onClick={() => openRow(row)}>
            {bar.row ? "The row that tells why" : "Worst station of the strip"} {use(row.utilisation)}
          </button>
        )}
      </div>
    </>
  );
}
