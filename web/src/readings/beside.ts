import { useQuery } from "@tanstack/react-query";
import { create } from "zustand";
import { api } from "../api/client";
import { fetchOwn } from "../api/entry";
import type { Results } from "../model/results";
import { usePicked } from "../session";
import { useRuns } from "./runs";

/** What stands beside the open floor: another floor of the project, or an earlier run of this one. */
export type Beside = { kind: "floor" | "run"; id: number; name: string };

type Compared = { beside: Beside | null; put: (beside: Beside | null) => void };

export const useCompared = create<Compared>((set) => ({ beside: null, put: (beside) => set({ beside }) }));

/** What may stand beside it. */
export function useCandidates(): Beside[] {
  const { floor, project, projects, shownRun } = usePicked("floor", "project", "projects", "shownRun");
  const { runs } = useRuns(true);
  const others = projects.find((p) => p.id === project?.id)?.floors ?? [];
  return [
    ...others.filter((f) => f.id !== floor?.id).map((f) => ({ kind: "floor" as const, id: f.id, name: f.name })),
    ...runs
      .filter((r) => r.readable && r.id !== shownRun)
      .map((r) => ({ kind: "run" as const, id: r.id, name: `revision ${r.revision}: ${r.line}` })),
  ];
}

/** The newest results of what stands beside the open floor; null until they are there (`reading`), or where there are none. */
export function useBeside(): { beside: Beside | null; results: Results | null; reading: boolean } {
  const floor = usePicked("floor").floor?.id;
  const beside = useCompared((c) => c.beside);
  // A floor beside itself, after it was opened: nothing.
  const wanted = beside && !(beside.kind === "floor" && beside.id === floor) ? beside : null;
  const { data, isFetching } = useQuery({
    queryKey: ["beside", wanted?.kind, wanted?.id],
    enabled: wanted !== null,
    staleTime: 10_000,
    queryFn: async () => {
      const id = wanted?.id ?? 0;
      const run =
        wanted?.kind === "run"
          ? id
          : (await api.GET("/api/floors/{floor_id}", { params: { path: { floor_id: id } } })).data?.fresh?.id;
      if (run === undefined) return null;
      const answer = await fetchOwn(`/api/runs/${run}/results`);
      return answer.ok ? ((await answer.json()) as Results) : null;
    },
  });
  return { beside: wanted, results: wanted ? (data ?? null) : null, reading: isFetching };
}
