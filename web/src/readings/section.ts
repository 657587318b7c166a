import { useQuery } from "@tanstack/react-query";
import { api, problemsOf } from "../api/client";
import type { Results, Row } from "../model/results";
import type { Section } from "../model/section";

export type StationOf = { strip: string; s: number; face: "bottom" | "top" };

/** The station that a row of flexure or of beams is about; none where it is about anything else. */
export function stationOf(row: Row, results: Results | null): StationOf | null {
  const { check, of, station, face } = row.id;
  if (check === "beams" && station !== null) {
    const beam = results?.beams.find((b) => b.row === row.id.key);
    if (!beam) return null;
    // A beam's row is about the face whose bars have less left.
    const k = beam.s_m.findIndex((s) => Math.abs(s - station) < 1e-3);
    const used = (asked: number[] = [], given: number[] = []) => (asked[k] ?? 0) / Math.max(given[k] ?? 0, 1e-9);
    const top = used(beam.top_asked_mm2, beam.top_given_mm2) > used(beam.bottom_asked_mm2, beam.bottom_given_mm2);
    return { strip: beam.strip, s: station, face: top ? "top" : "bottom" };
  }
  if (check !== "flexure" || of.kind !== "strips" || station === null) return null;
  return { strip: of.id, s: station, face: face === "top" ? "top" : "bottom" };
}

/** What a station of a run shows for the steel of a face; a sentence where it cannot be told. */
export function useSection(run: number | null, of: StationOf | null) {
  return useQuery({
    queryKey: ["section", run, of],
    enabled: run !== null && of !== null,
    queryFn: async ({ signal }): Promise<Section | string> => {
      const { strip, s, face } = of as StationOf;
      const { data, error, response } = await api.GET("/api/runs/{run_id}/strips/{strip}/station", {
        params: { path: { run_id: run as number, strip }, query: { s, face } },
        signal,
      });
      // Workers that are busy with runs are asked once more, and once they are done by the next results.
      if (response.status === 503) throw new Error(problemsOf(error)[0]?.sentence);
      return data ? (data as Section) : (problemsOf(error)[0]?.sentence ?? "");
    },
  });
}
