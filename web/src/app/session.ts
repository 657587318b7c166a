import { create } from "zustand";
import { api, type Conflict, type FloorState, type Problem, type ProjectSummary, problemsOf } from "../api/client";
import { type Fields, readFields } from "../api/fields";
import type { FloorDocument, Kind } from "../model/floor";
import type { Results, Row } from "../model/results";
import { DISPLAY_OF, useDisplay } from "../plan/display";

export type StepName =
  | "setout"
  | "build"
  | "load"
  | "combine"
  | "arrange"
  | "analyse"
  | "strips"
  | "steel"
  | "punching"
  | "deflection";

export type Selection =
  | { type: "object"; kind: Kind; id: string }
  | { type: "row"; check: string; where: string }
  | { type: "panel"; id: string }
  | null;

export type RunEvent = { run: number; revision: number; state: string; stage?: string; share?: number; told?: string };
export type Edit = { line: string; change: (document: FloorDocument) => FloorDocument };
export type Flight = { x: number; y: number; count: number };

type Session = {
  projects: ProjectSummary[];
  floor: FloorState | null;
  document: FloorDocument | null;
  results: Results | null;
  fields: Fields | null;
  /** Number of the revision that the shown results belong to. */
  freshRevision: number | null;
  run: RunEvent | null;
  step: StepName;
  selection: Selection;
  flight: Flight | null;
  note: { text: string; bad: boolean } | null;
  problems: Problem[];
  conflict: { told: Conflict; edit: Edit } | null;
  saving: boolean;
  open: (floorId: number) => Promise<void>;
  start: () => Promise<void>;
  setStep: (step: StepName) => void;
  select: (selection: Selection) => void;
  flyTo: (at: [number, number] | null) => void;
  edit: (edit: Edit) => Promise<boolean>;
  undo: () => Promise<void>;
  redo: () => Promise<void>;
  cancel: () => Promise<void>;
  settle: (mine: boolean) => Promise<void>;
  say: (text: string, bad?: boolean) => void;
  openRow: (row: Row) => void;
};

let source: EventSource | null = null;

const STEP_OF: Record<string, StepName> = { flexure: "steel", punching: "punching", deflection: "deflection" };

export const useSession = create<Session>((set, get) => {
  async function loadResults(floor: FloorState) {
    if (!floor.fresh) {
      set({ results: null, fields: null, freshRevision: null });
      return;
    }
    const run = floor.fresh.id;
    const [results, fields] = await Promise.all([
      fetch(`/api/runs/${run}/results`).then((r) => (r.ok ? (r.json() as Promise<Results>) : null)),
      fetch(`/api/runs/${run}/fields`).then((r) => (r.ok ? r.arrayBuffer() : null)),
    ]);
    // Another floor may have been opened while these were on their way.
    if (get().floor?.id !== floor.id || !results || !fields) return;
    set({ results, fields: readFields(fields), freshRevision: floor.fresh.revision });
  }

  async function refresh(floorId: number) {
    const { data, error } = await api.GET("/api/floors/{floor_id}", { params: { path: { floor_id: floorId } } });
    if (!data) {
      set({ problems: problemsOf(error) });
      return;
    }
    set({ floor: data, document: data.document as unknown as FloorDocument });
    await loadResults(data);
  }

  function listen(floorId: number) {
    source?.close();
    source = new EventSource(`/api/floors/${floorId}/events`);
    source.onmessage = (message) => {
      const event = JSON.parse(message.data) as RunEvent;
      if (get().floor?.id !== floorId) return;
      set({ run: event });
      if (event.state === "fresh") void refreshRun(floorId);
      if (event.state === "refused") set({ problems: [{ path: "the floor", sentence: event.told ?? "" }] });
    };
  }

  async function refreshRun(floorId: number) {
    const { data } = await api.GET("/api/floors/{floor_id}", { params: { path: { floor_id: floorId } } });
    if (!data || get().floor?.id !== floorId) return;
    const mine = get().floor as FloorState;
    set({ floor: data.revision >= mine.revision ? data : mine });
    if (data.revision >= mine.revision && !get().saving) set({ document: data.document as unknown as FloorDocument });
    await loadResults(data);
    await loadProjects();
  }

  async function loadProjects() {
    const { data, error } = await api.GET("/api/projects");
    if (data) set({ projects: data });
    else set({ problems: problemsOf(error) });
  }

  async function save(edit: Edit): Promise<boolean> {
    const { floor, document } = get();
    if (!floor || !document) return false;
    const changed = edit.change(document);
    set({ document: changed, saving: true, problems: [] });
    const { data, error, response } = await api
      .PUT("/api/floors/{floor_id}", {
        params: { path: { floor_id: floor.id } },
        body: { based_on: floor.revision, document: changed, line: edit.line, author: "designer" },
      })
      .catch(() => ({ data: undefined, error: undefined, response: undefined }));
    set({ saving: false });
    if (data) {
      set({ floor: { ...floor, revision: data.revision, line: data.line, undo: true, redo: false } });
      get().say(edit.line);
      return true;
    }
    set({ document });
    if (response?.status === 409) set({ conflict: { told: error as Conflict, edit } });
    else set({ problems: problemsOf(error) });
    return false;
  }

  async function travel(back: boolean) {
    const { floor } = get();
    if (!floor || !(back ? floor.undo : floor.redo)) {
      get().say(`There is nothing to ${back ? "undo" : "redo"}.`);
      return;
    }
    const path = back ? "/api/floors/{floor_id}/undo" : "/api/floors/{floor_id}/redo";
    const { data, error } = await api.POST(path, {
      params: { path: { floor_id: floor.id } },
      body: { based_on: floor.revision, author: "designer" },
    });
    if (data) {
      get().say(data.line);
      await refresh(floor.id);
    } else get().say((error as Conflict).sentence ?? problemsOf(error)[0]?.sentence ?? "", true);
  }

  // Edits wait for each other, so that each is based on the revision before it.
  let queue: Promise<unknown> = Promise.resolve();
  const inTurn = <T>(work: () => Promise<T>): Promise<T> => {
    const next = queue.then(work);
    queue = next.catch(() => undefined);
    return next;
  };

  return {
    projects: [],
    floor: null,
    document: null,
    results: null,
    fields: null,
    freshRevision: null,
    run: null,
    step: "analyse",
    selection: null,
    flight: null,
    note: null,
    problems: [],
    conflict: null,
    saving: false,
    start: async () => {
      await loadProjects();
      const wanted = Number(new URLSearchParams(location.search).get("floor"));
      const all = get().projects.flatMap((p) => p.floors);
      const first = all.find((f) => f.id === wanted) ?? all[0];
      if (first) await get().open(first.id);
    },
    open: async (floorId) => {
      set({ floor: null, document: null, results: null, fields: null, run: null, selection: null, problems: [] });
      history.replaceState(null, "", `?floor=${floorId}`);
      await refresh(floorId);
      listen(floorId);
    },
    setStep: (step) => set({ step }),
    select: (selection) => set({ selection }),
    flyTo: (at) => at && set((s) => ({ flight: { x: at[0], y: at[1], count: (s.flight?.count ?? 0) + 1 } })),
    edit: (edit) => inTurn(() => save(edit)),
    undo: () => inTurn(() => travel(true)),
    redo: () => inTurn(() => travel(false)),
    cancel: async () => {
      const { floor } = get();
      if (floor) await api.POST("/api/floors/{floor_id}/cancel", { params: { path: { floor_id: floor.id } } });
    },
    settle: async (mine) => {
      const { conflict, floor } = get();
      set({ conflict: null });
      if (!floor) return;
      await refresh(floor.id);
      if (mine && conflict) await get().edit(conflict.edit);
    },
    say: (text, bad = false) => set({ note: { text, bad } }),
    openRow: (row) => {
      useDisplay.getState().show({ ...DISPLAY_OF[STEP_OF[row.check] ?? "analyse"], of: null, kind: null });
      set({ step: STEP_OF[row.check] ?? "analyse", selection: { type: "row", check: row.check, where: row.where } });
      get().flyTo(row.at);
    },
  };
});

/** Whether what is shown belongs to an older revision than the newest one. */
export function useStale(): boolean {
  return useSession((s) => s.freshRevision !== null && s.floor !== null && s.freshRevision !== s.floor.revision);
}
