import { useEffect, useState } from "react";
import { api } from "../api/client";
import type { components } from "../api/generated";
import { useSession } from "../app/session";
import { chosenReading, useDisplay } from "../plan/display";
import { useReadings } from "../readings/readings";
import { useUnits } from "../units/quantities";
import { figureOf, toldUnit } from "../units/results";

const VALUES: [string, string, string][] = [
  ["w_mm", "w", "mm"],
  ["mx_kNm_m", "mx", "kNm/m"],
  ["my_kNm_m", "my", "kNm/m"],
];

/** What a probe read in every run so far, newest first. */
export function ProbeHistory(props: { id: string }) {
  const floor = useSession((s) => s.floor?.id);
  const run = useSession((s) => s.shownRun);
  const system = useUnits((u) => u.system);
  const display = useDisplay();
  const catalogue = useReadings((r) => r.catalogue);
  const of = chosenReading(catalogue, display)?.of ?? "";
  const [entries, setEntries] = useState<components["schemas"]["ProbeEntry"][]>([]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new run adds to the history
  useEffect(() => {
    if (!floor) return;
    let alive = true;
    void api
      .GET("/api/floors/{floor_id}/probes/{probe}", { params: { path: { floor_id: floor, probe: props.id } } })
      .then(({ data }) => alive && data && setEntries(data));
    return () => {
      alive = false;
    };
  }, [floor, props.id, run]);
  if (!entries.length) return <p className="empty">Its values come with the next results.</p>;
  return (
    <>
      <h3>Over the revisions, {of}</h3>
      <table className="small-table history">
        <thead>
          <tr>
            <th>Rev</th>
            {VALUES.map(([key, name, unit]) => (
              <th key={key}>
                {name} {toldUnit(unit, system).unit}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {entries.map((e) => (
            <tr key={e.run} title={e.line}>
              <th>{e.revision}</th>
              {VALUES.map(([key, , unit]) => {
                const v = e.values[of]?.[key];
                return <td key={key}>{v === null || v === undefined ? "–" : figureOf(v, unit, system)}</td>;
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
