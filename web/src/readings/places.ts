import { useQuery } from "@tanstack/react-query";
import { api } from "../api/client";
import type { components } from "../api/generated";
import { useSession } from "../session";

export type PlaceValues = components["schemas"]["PlaceValues"];

/** What is read at some places of the shown run under a case or combination, by label; read live, so that a place that was
 * pinned just now has its values at once. */
export function usePlaces(places: { id: string; at: number[] }[], of: string | null): Record<string, PlaceValues> {
  const run = useSession((s) => s.shownRun);
  const { data } = useQuery({
    queryKey: ["places", run, of, places.map((p) => p.at)],
    enabled: run !== null && of !== null && places.length > 0,
    queryFn: async () => {
      const { data: found } = await api.POST("/api/runs/{run_id}/places", {
        params: { path: { run_id: run ?? 0 } },
        body: { of: of ?? "", at: places.map((p) => [p.at[0] ?? 0, p.at[1] ?? 0]) as never },
      });
      return found ?? [];
    },
    placeholderData: (before) => before,
  });
  return Object.fromEntries(places.flatMap((p, i) => (data?.[i] ? [[p.id, data[i]]] : [])));
}
