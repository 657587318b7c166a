import { useQuery } from "@tanstack/react-query";
import { api, problemsOf } from "../api/client";
import type { components } from "../api/generated";

export type StripAlong = components["schemas"]["StripAlong"];

/** What forces of strips are read under: all combinations of a limit state, or one case or combination in one way. */
export type Under = { state: string } | { of: string; kind: "envelope" | "all" | "arrangement"; arrangement?: string };

/** Every effect along some strips of a run, by strip; a sentence where they cannot be read. */
export function useStripForces(run: number | null, strips: string[], under: Under | null) {
  return useQuery({
    queryKey: ["strip forces", run, strips, under],
    enabled: run !== null && strips.length > 0 && under !== null,
    placeholderData: (last: Map<string, StripAlong[]> | string | undefined) => last,
    queryFn: async (): Promise<Map<string, StripAlong[]> | string> => {
      const answers = await Promise.all(
        strips.map((strip) =>
          api.GET("/api/runs/{run_id}/strips/{strip}", {
            params: { path: { run_id: run as number, strip }, query: under ?? {} },
          }),
        ),
      );
      const wrong = answers.find((a) => !a.data);
      if (wrong) return problemsOf(wrong.error)[0]?.sentence ?? "";
      return new Map(answers.map((a, k) => [strips[k] as string, a.data as StripAlong[]]));
    },
  });
}
