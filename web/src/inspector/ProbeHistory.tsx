import { useQuery } from "@tanstack/react-query";
import { api } from "../api/client";
import type { components } from "../api/generated";
import { useChosen } from "../readings/chosen";
import { useSession } from "../session";
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
  // A probe that was moved reads elsewhere, and runs nothing.
  const revision = useSession((s) => s.floor?.revision);
  const system = useUnits((u) => u.system);
  const of = useChosen()?.of ?? "";
  const { data: entries = [] } = useQuery({
    queryKey: ["probe", floor, props.id, run, revision],
    enabled: floor !== undefined,
    queryFn: async (): Promise<components["schemas"]["ProbeEntry"][]> =>
      (
        await api.GET("/api/floors/{floor_id}/probes/{probe}", {
          params: { path: { floor_id: floor ?? 0, probe: props.id } },
        })
      ).data ?? [],
    placeholderData: (before) => before,
  });
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
