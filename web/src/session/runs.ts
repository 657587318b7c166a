import { api, type FloorEvent, type FloorState, type RunEvent } from "../api/client";
import { fetchOwn } from "../api/entry";
import { readFields } from "../api/fields";
import type { Results, Row } from "../model/results";
import type { Change, Get, RunPart } from "./types";

/** States of a run that has not ended. */
export const OPEN = ["queued", "running", "failed, will retry once"];

/** Runs of the open floor: what is heard of them, and the results that are shown. */
export function runPart(get: Get): RunPart {
  return {
    results: null,
    fields: null,
    freshRevision: null,
    shownRun: null,
    run: null,
    early: null,
    away: false,
    cancel: async () => {
      const { floor } = get();
      if (floor) await api.POST("/api/floors/{floor_id}/cancel", { params: { path: { floor_id: floor.id } } });
    },
  };
}

/** Shows the results that stand for a floor's state; those that are shown already are not fetched again. */
export async function loadResults(set: Change, get: Get, floor: FloorState): Promise<void> {
  if (!floor.fresh) {
    set({ results: null, fields: null, freshRevision: null, shownRun: null });
    return;
  }
  const run = floor.fresh.id;
  if (get().shownRun === run && get().results) {
    set({ freshRevision: floor.fresh.revision });
    return;
  }
  const [results, fields] = await Promise.all([
    fetchOwn(`/api/runs/${run}/results`)
      .then((r) => (r.ok ? (r.json() as Promise<Results>) : null))
      .catch(() => null),
    fetchOwn(`/api/runs/${run}/fields`)
      .then((r) => (r.ok ? r.arrayBuffer() : null))
      .catch(() => null),
  ]);
  // Another floor may have been opened while these were on their way.
  if (get().floor?.id !== floor.id || !results || !fields) return;
  set({ results, fields: readFields(fields), freshRevision: floor.fresh.revision, shownRun: run });
}

/**
 * What hearing of a run changes, if it is one of the revision that is open, or the one of an earlier revision that stands
 * for it because what was changed since is only drawn or read.
 */
export function heardRun(event: RunEvent, openRevision: number, standing: number | null): Partial<RunPart> | null {
  if (event.revision !== openRevision && event.run !== standing) return null;
  return {
    run: { ...event, revision: openRevision },
    ...(event.verdict
      ? { early: { revision: openRevision, verdict: event.verdict as Row[], whole: event.whole !== false } }
      : {}),
  };
}

let source: EventSource | null = null;

/**
 * Listens to what happens to a floor; the floor listened to before is let go. `connected` is called whenever the line
 * stands, the first time too: what happened before that was not heard. `away` hears when it breaks.
 */
export function listen(
  floorId: number,
  hear: (event: FloorEvent) => void,
  connected: () => void,
  away: (gone: boolean) => void,
): void {
  source?.close();
  source = new EventSource(`/api/floors/${floorId}/events`);
  source.onopen = () => {
    away(false);
    connected();
  };
  const line = source;
  line.onerror = () => {
    // The browser tries again by itself until the server answers. One that answers otherwise is not away: the sign-in may be over, which is
    // waited for, or the database may be gone for a moment.
    away(line.readyState === EventSource.CONNECTING);
    if (line.readyState === EventSource.CLOSED) void anew(line, floorId, hear, connected, away);
  };
  source.onmessage = (message) => hear(JSON.parse(message.data) as FloorEvent);
}

const LATER = 3000;

async function anew(line: EventSource, ...to: Parameters<typeof listen>): Promise<void> {
  const answer = await fetchOwn(`/api/floors/${to[0]}`).catch(() => null);
  // Another floor is listened to by now, or this one is no longer to be seen.
  if (source !== line || answer?.status === 404) return;
  if (!answer?.ok) await new Promise((done) => setTimeout(done, LATER));
  if (source === line) listen(...to);
}
