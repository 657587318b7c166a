import { create } from "zustand";
import { api, problemsOf } from "../api/client";
import { fetchOwn } from "../api/entry";
import type { components } from "../api/generated";
import type { Catalogue, Chosen, Minus } from "../display/reading";

export type { Catalogue, Chosen, Minus } from "../display/reading";
export type QuantityState = components["schemas"]["QuantityState"];
export type Reading = components["schemas"]["ReadingState"];
export type Diagram = components["schemas"]["DiagramState"];
export type RunList = components["schemas"]["RunList"];
export type ReactionTable = components["schemas"]["ReactionTable"];

export type FieldValues = { values: Float32Array; least: number; greatest: number; unit: string };

type Readings = {
  /** The run that everything here belongs to. */
  run: number | null;
  catalogue: Catalogue | null;
  /** The field on the plan, and the request that it answers. */
  field: FieldValues | null;
  fieldKey: string;
  problem: string;
  load: (run: number | null) => Promise<void>;
  loadField: (key: string) => Promise<void>;
};

const KEPT = 24;
const cache = new Map<string, FieldValues>();

/** Reads one field: a JSON header, then float32. */
export function readField(buffer: ArrayBuffer): FieldValues {
  const length = new DataView(buffer).getUint32(0, true);
  const header = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, length)));
  const values = new Float32Array(buffer, 4 + length, header.count);
  return { values, least: header.least, greatest: header.greatest, unit: header.unit };
}

/** The request for a field of a run. */
export function fieldRequest(
  run: number,
  quantity: string,
  chosen: Chosen,
  minus: Minus | null,
  byElement: boolean,
): string {
  const query = new URLSearchParams({ quantity, of: chosen.of, kind: chosen.kind });
  if (chosen.arrangement) query.set("arrangement", chosen.arrangement);
  if (minus) {
    // Another run is read in the same way as this one, whatever that is: least less least, greatest less greatest.
    const other = "run" in minus ? chosen : minus.chosen;
    query.set("minus_of", other.of);
    query.set("minus_kind", other.kind);
    if (other.arrangement) query.set("minus_arrangement", other.arrangement);
    if ("run" in minus && minus.run !== run) query.set("minus_run", String(minus.run));
  }
  if (byElement) query.set("by_element", "true");
  return `/api/runs/${run}/field?${query}`;
}

/** What can be read of the newest run, and the field that is on the plan. */
export const useReadings = create<Readings>((set, get) => ({
  run: null,
  catalogue: null,
  field: null,
  fieldKey: "",
  problem: "",
  load: async (run) => {
    if (run === get().run) return;
    // The catalogue of the run before stays until the new one is there: most runs have the same.
    set({ run });
    if (run === null) {
      set({ catalogue: null, field: null, fieldKey: "" });
      return;
    }
    const { data } = await api.GET("/api/runs/{run_id}/catalogue", { params: { path: { run_id: run } } });
    if (data && get().run === run) set({ catalogue: data });
  },
  loadField: async (key) => {
    if (key === get().fieldKey) return;
    const kept = cache.get(key);
    set({ fieldKey: key, problem: "", ...(kept ? { field: kept } : key ? {} : { field: null }) });
    if (kept || !key) return;
    const answer = await fetchOwn(key).catch(() => null);
    if (!answer?.ok) {
      const problem = answer ? problemsOf(await answer.json().catch(() => null))[0]?.sentence : "";
      if (get().fieldKey === key) set({ field: null, problem: problem ?? "" });
      return;
    }
    const field = readField(await answer.arrayBuffer());
    cache.set(key, field);
    for (const old of [...cache.keys()].slice(0, Math.max(0, cache.size - KEPT))) cache.delete(old);
    if (get().fieldKey === key) set({ field });
  },
}));

/** A quantity at a point or support, with the arrangements behind it. */
export async function readValue(
  run: number,
  of: string,
  quantity: string,
  place: { x: number; y: number } | { support: string },
): Promise<Reading | string> {
  const { data, error } = await api.GET("/api/runs/{run_id}/value", {
    params: { path: { run_id: run }, query: { of, quantity, ...place } },
  });
  return data ?? problemsOf(error)[0]?.sentence ?? "";
}

export async function readSlice(
  run: number,
  of: string,
  quantity: string,
  line: number[][],
  width_m: number,
): Promise<Diagram | string> {
  const { data, error } = await api.POST("/api/runs/{run_id}/slice", {
    params: { path: { run_id: run } },
    body: { of, quantity, line, width_m },
  });
  return data ?? problemsOf(error)[0]?.sentence ?? "";
}
