import { useEffect, useState } from "react";
import { api } from "../api/client";
import { useSession } from "../app/session";
import type { RunEntry } from "./readings";

/** The newest runs of the floor, read anew when one ends. */
export function useRuns(wanted: boolean): RunEntry[] {
  const floor = useSession((s) => s.floor?.id);
  const state = useSession((s) => `${s.run?.run} ${s.run?.state} ${s.shownRun}`);
  const [runs, setRuns] = useState<RunEntry[]>([]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a run that ends changes the list
  useEffect(() => {
    if (!wanted || !floor) return;
    let alive = true;
    void api
      .GET("/api/floors/{floor_id}/runs", { params: { path: { floor_id: floor } } })
      .then(({ data }) => alive && data && setRuns(data));
    return () => {
      alive = false;
    };
  }, [floor, state, wanted]);
  return runs;
}
