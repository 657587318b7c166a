import { useQuery } from "@tanstack/react-query";
import { api } from "../api/client";
import { useSession } from "../session";
import type { RunList } from "./readings";

/** The newest runs of the floor, read anew when one ends. */
const NONE: RunList = { runs: [], kept_runs: 0, kept_MB: 0 };

export function useRuns(wanted: boolean): RunList {
  const floor = useSession((s) => s.floor?.id);
  const state = useSession((s) => `${s.run?.run} ${s.run?.state} ${s.shownRun}`);
  const { data } = useQuery({
    queryKey: ["runs", floor, state],
    enabled: wanted && floor !== undefined,
    queryFn: async () =>
      (await api.GET("/api/floors/{floor_id}/runs", { params: { path: { floor_id: floor ?? 0 } } })).data ?? NONE,
    placeholderData: (before) => before,
  });
  return data ?? NONE;
}
