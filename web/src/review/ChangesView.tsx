import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, saying } from "../api/client";
import type { components } from "../api/generated";
import { checkOf } from "../checks";
import { differenceText } from "../kinds/differences";
import type { FloorDocument } from "../model/floor";
import { usePicked } from "../session";
import { use } from "../units/format";
import { clock } from "../units/moments";
import { useUnits } from "../units/quantities";

type Side = components["schemas"]["RowSide"] | null;
const WORD: Record<string, string> = {
  pass: "passes",
  fail: "fails",
  unchecked: "not checked",
  uncovered: "not all covered",
};

/** What changed between two revisions of the floor: its values, and the rows of its checks that moved. */
export function ChangesView({ document }: { document: FloorDocument }) {
  const { floor } = usePicked("floor");
  const system = useUnits((u) => u.system);
  const newest = floor?.revision ?? 1;
  const [before, setBefore] = useState(Math.max(1, newest - 1));
  const [after, setAfter] = useState<number | null>(null);
  const to = after ?? newest;
  // biome-ignore lint/correctness/useExhaustiveDependencies: another floor begins anew
  useEffect(() => {
    setBefore(Math.max(1, newest - 1));
    setAfter(null);
  }, [floor?.id]);
  const { data: line = [] } = useQuery({
    queryKey: ["line", floor?.id, newest],
    enabled: Boolean(floor),
    queryFn: async () =>
      (await api.GET("/api/floors/{floor_id}/history", { params: { path: { floor_id: floor?.id ?? 0 } } })).data ?? [],
  });
  const { data, error } = useQuery({
    queryKey: ["compared", floor?.id, before, to, floor?.fresh?.id],
    enabled: Boolean(floor),
    queryFn: async () => {
      const answer = await api.GET("/api/floors/{floor_id}/compared", {
        params: { path: { floor_id: floor?.id ?? 0 }, query: { before, after: to } },
      });
      if (!answer.data) throw new Error(saying(answer.error));
      return answer.data;
    },
  });
  const choice = (name: string, value: number, set: (n: number) => void) => (
    <label>
      {name}
      <select value={value} onChange={(e) => set(Number(e.target.value))}>
        {line.map((h) => (
          <option key={h.number} value={h.number}>
            {`${h.number} · ${h.author} · ${clock(h.made)} · ${h.line}`}
          </option>
        ))}
      </select>
    </label>
  );
  const told = data ? [...new Set(data.values.map((d) => differenceText(d, document, system)))] : [];
  return (
    <div className="changes" role="region" aria-label="What changed">
      <div className="line-form">
        {choice("From revision", before, setBefore)}
        {choice("To revision", to, setAfter)}
      </div>
      {line.length === 1 && <p className="quiet">This floor has one revision so far.</p>}
      {!data && !error && <p className="quiet">Comparing …</p>}
      {error && <p className="error">{error.message}</p>}
      {data && (
        <div className="two-columns">
          <section aria-label="The floor">
            <h3>The floor</h3>
            {told.length === 0 && <p className="quiet">Nothing differs.</p>}
            <ul>
              {told.map((t) => (
                <li key={t}>{t}</li>
              ))}
            </ul>
            {data.value_count > data.values.length && (
              <p className="quiet">and {data.value_count - data.values.length} more</p>
            )}
          </section>
          <section aria-label="Its checks">
            <h3>Its checks</h3>
            {data.rows && !data.whole && (
              <p className="warning">
                The results of one of them are no longer kept: this is the worst of each check alone.
              </p>
            )}
            {data.rows === null ? (
              <p className="quiet">One of them was not computed to its end, so that its checks cannot be compared.</p>
            ) : data.rows.length === 0 ? (
              <p className="quiet">No row moved.</p>
            ) : (
              <table>
                <thead>
                  <tr>
                    <th>Check</th>
                    <th>Where</th>
                    <th>Before</th>
                    <th>After</th>
                  </tr>
                </thead>
                <tbody>
                  {data.rows.map((r) => (
                    <tr key={`${r.check}${r.where}${r.before?.utilisation}${r.after?.utilisation}`}>
                      <td>{checkOf(r.check).title}</td>
                      <td>{r.where}</td>
                      <td className="mono">{side(r.before)}</td>
                      <td className={`mono ${r.after?.status === "fail" ? "fail" : ""}`}>{side(r.after)}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
            )}
            {data.rows && data.row_count > data.rows.length && (
              <p className="quiet">and {data.row_count - data.rows.length} more rows</p>
            )}
          </section>
        </div>
      )}
    </div>
  );
}

function side(found: Side): string {
  if (!found) return "not there";
  return found.utilisation === null
    ? (WORD[found.status] ?? "")
    : `${use(found.utilisation)} ${WORD[found.status] ?? ""}`;
}
