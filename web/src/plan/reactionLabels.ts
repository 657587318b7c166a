import { useEffect, useState } from "react";
import { api } from "../api/client";
import type { Results } from "../model/results";
import type { Chosen, ReactionTable } from "../readings/readings";
import { useSession } from "../session";
import type { System } from "../units/quantities";
import { figureOf, resultOf } from "../units/results";
import type { Wanted } from "./labels";

/** The reactions of all supports under what is chosen; those of the run before stay until they are there. */
export function useReactions(chosen: Chosen | null, wanted: boolean): ReactionTable | null {
  const run = useSession((s) => s.shownRun);
  const [table, setTable] = useState<ReactionTable | null>(null);
  const { of, kind, arrangement } = chosen ?? {};
  useEffect(() => {
    if (!wanted || run === null || !of) return;
    let alive = true;
    void api
      .GET("/api/runs/{run_id}/reactions", { params: { path: { run_id: run }, query: { of, kind, arrangement } } })
      .then(({ data }) => alive && data && setTable(data));
    return () => {
      alive = false;
    };
  }, [run, of, kind, arrangement, wanted]);
  return wanted ? table : null;
}

/** Reactions as numbers at their supports: the force, and the moments below it. */
export function reactionLabels(
  table: ReactionTable,
  results: Results,
  place: (x: number, y: number) => { x: number; y: number },
  system: System,
): Wanted[] {
  const at = new Map(results.supports.map((s) => [s.id, s.at]));
  return table.rows.flatMap((r) => {
    const spot = at.get(r.support);
    if (!spot) return [];
    const force = resultOf(r.F_kN, "kN", system);
    const moments = `${figureOf(r.Mx_kNm, "kNm", system)} | ${figureOf(r.My_kNm, "kNm", system)}`;
    const label = { ...place(spot[0], spot[1]), tone: r.F_kN < -0.05 ? "fail" : "reaction", priority: 8 };
    return [
      { ...label, text: force },
      { ...label, text: moments, tone: "soft", priority: 3 },
    ];
  });
}
