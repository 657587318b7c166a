import { create } from "zustand";
import {
  api,
  type Conflict,
  type Finding,
  type FloorState,
  type Problem,
  type ProjectState,
  type ProjectSummary,
  problemsOf,
} from "../api/client";
import { type Fields, readFields } from "../api/fields";
import { type FloorDocument, itemOf, type Kind, type Ref } from "../model/floor";
import type { ProjectDocument } from "../model/project";
import type { Results, Row } from "../model/results";
import { DISPLAY_OF, useDisplay } from "../plan/display";
import type { StepName } from "../route/stepName";
import { useUnits } from "../units/quantities";

export type Selection =
  | { type: "object"; kind: Kind; id: string }
  | { type: "row"; check: string; where: string }
  | { type: "panel"; id: string }
  | { type: "place"; at: [number, number] }
  | { type: "arrangement"; name: string }
  | { type: "run"; id: number }
  | null;

export type RunEvent = {
  run: number;
  revision: number;
  state: string;
  stage?: string;
  share?: number;
  told?: string;
  /** The verdict, told as soon as it is known; the rest of the results follows. */
  verdict?: Row[];
};
export type Edit = {
  line: string;
  change: (document: FloorDocument) => FloorDocument;
  /** What is selected once the change is made. */
  picks?: Ref[];
};
export type ProjectEdit = { line: string; change: (document: ProjectDocument) => ProjectDocument };
export type Answer = "theirs" | "both" | "mine";
export type Flight = { x: number; y: number; count: number };

type Session = {
  projects: ProjectSummary[];
  project: ProjectState | null;
  floor: FloorState | null;
  document: FloorDocument | null;
  results: Results | null;
  fields: Fields | null;
  /** Number of the revision that the shown results belong to. */
  freshRevision: number | null;
  /** The run that the shown results belong to. */
  shownRun: number | null;
  run: RunEvent | null;
  /** The verdict of a run whose other results are still being written. */
  early: { revision: number; verdict: Row[] } | null;
  step: StepName;
  selection: Selection;
  /** All selected objects; the last one picked is `selection`. */
  chosen: Ref[];
  findings: Finding[];
  /** Who works here; kept in this browser. */
  user: string;
  flight: Flight | null;
  note: { text: string; bad: boolean } | null;
  problems: Problem[];
  conflict: { told: Conflict; document: FloorDocument; line: string } | null;
  saving: boolean;
  open: (floorId: number) => Promise<void>;
  start: () => Promise<void>;
  setStep: (step: StepName) => void;
  select: (selection: Selection) => void;
  choose: (refs: Ref[]) => void;
  flyTo: (at: [number, number] | null) => void;
  edit: (edit: Edit) => Promise<boolean>;
  editProject: (edit: ProjectEdit) => Promise<boolean>;
  undoProject: (back: boolean) => Promise<void>;
  reload: () => Promise<void>;
  setUser: (name: string) => void;
  undo: () => Promise<void>;
  redo: () => Promise<void>;
  cancel: () => Promise<void>;
  settle: (answer: Answer) => Promise<void>;
  say: (text: string, bad?: boolean) => void;
  openRow: (row: Row) => void;
};

let source: EventSource | null = null;

const STEP_OF: Record<string, StepName> = { flexure: "steel", punching: "punching", deflection: "deflection" };

export const useSession = create<Session>((set, get) => {
  async function loadResults(floor: FloorState) {
    if (!floor.fresh) {
      set({ results: null, fields: null, freshRevision: null, shownRun: null });
      return;
    }
    const run = floor.fresh.id;
    const [results, fields] = await Promise.all([
      fetch(`/api/runs/${run}/results`).then((r) => (r.ok ? (r.json() as Promise<Results>) : null)),
      fetch(`/api/runs/${run}/fields`).then((r) => (r.ok ? r.arrayBuffer() : null)),
    ]);
    // Another floor may have been opened while these were on their way.
    if (get().floor?.id !== floor.id || !results || !fields) return;
    set({ results, fields: readFields(fields), freshRevision: floor.fresh.revision, shownRun: run });
  }

  async function refresh(floorId: number) {
    const { data, error } = await api.GET("/api/floors/{floor_id}", { params: { path: { floor_id: floorId } } });
    if (!data) {
      set({ problems: problemsOf(error) });
      return;
    }
    take(data);
    await Promise.all([loadProject(data.project_id), loadFindings(floorId), loadResults(data)]);
  }

  /** Shows a floor's newest state; what is selected and gone is let go. */
  function take(data: FloorState) {
    const document = data.document as unknown as FloorDocument;
    const chosen = get().chosen.filter((r) => itemOf(document, r));
    const selection = get().selection;
    const gone = selection?.type === "object" && !itemOf(document, selection);
    confirmed = document;
    set({ floor: data, document, chosen, ...(gone ? { selection: null } : {}) });
  }

  async function loadProject(projectId: number) {
    const { data } = await api.GET("/api/projects/{project_id}", { params: { path: { project_id: projectId } } });
    if (!data) return;
    set({ project: data });
    useUnits.setState({ system: data.document.units === "US" ? "US" : "SI" });
  }

  async function loadFindings(floorId: number) {
    const { data } = await api.GET("/api/floors/{floor_id}/findings", { params: { path: { floor_id: floorId } } });
    if (data && get().floor?.id === floorId) set({ findings: data });
  }

  function listen(floorId: number) {
    source?.close();
    source = new EventSource(`/api/floors/${floorId}/events`);
    source.onmessage = (message) => {
      const event = JSON.parse(message.data) as RunEvent;
      if (get().floor?.id !== floorId) return;
      set({ run: event, ...(event.verdict ? { early: { revision: event.revision, verdict: event.verdict } } : {}) });
      if (event.state === "fresh") void refreshRun(floorId);
      if (event.state === "refused") set({ problems: [{ path: "the floor", sentence: event.told ?? "" }] });
    };
  }

  async function refreshRun(floorId: number) {
    const { data } = await api.GET("/api/floors/{floor_id}", { params: { path: { floor_id: floorId } } });
    if (!data || get().floor?.id !== floorId) return;
    const mine = get().floor as FloorState;
    if (data.revision >= mine.revision && !get().saving) {
      if (data.revision > mine.revision) get().say(`${data.author}: ${data.line}`);
      take(data);
      void loadFindings(floorId);
    } else set({ floor: { ...mine, run: data.run, fresh: data.fresh } });
    await loadResults(data);
    await loadProjects();
  }

  async function loadProjects() {
    const { data, error } = await api.GET("/api/projects");
    if (data) set({ projects: data });
    else set({ problems: problemsOf(error) });
  }

  /** The floor as the server has it; what is shown may be ahead of it by changes on their way. */
  let confirmed: FloorDocument | null = null;
  /** Counts refused saves: a change made on top of a refused one is made anew on what stands. */
  let refusals = 0;
  let pending = 0;

  /** Shows a change at once, and saves it when those before it are saved. */
  function save(edit: Edit): Promise<boolean> {
    const { document } = get();
    if (!document) return Promise.resolve(false);
    const shownNow = edit.change(document);
    if (shownNow === document) return Promise.resolve(false);
    const seen = refusals;
    pending++;
    set({ document: shownNow, saving: true });
    if (edit.picks) get().choose(edit.picks.filter((r) => itemOf(shownNow, r)));
    return inTurn(async () => {
      const now = get().document;
      const changed = seen === refusals || !now ? shownNow : edit.change(now);
      const done = await put(changed, edit.line, "ask");
      pending--;
      set({ saving: pending > 0 });
      return done;
    });
  }

  async function put(
    changed: FloorDocument,
    line: string,
    settle: "ask" | "both" | "mine",
    basis?: number,
  ): Promise<boolean> {
    const { floor, user } = get();
    if (!floor) return false;
    set({ problems: [] });
    const { data, error, response } = await api
      .PUT("/api/floors/{floor_id}", {
        params: { path: { floor_id: floor.id } },
        body: { based_on: basis ?? floor.revision, document: changed, line, author: user, settle },
      })
      .catch(() => ({ data: undefined, error: undefined, response: undefined }));
    if (data) {
      confirmed = changed;
      const now = get().floor as FloorState;
      set({ floor: { ...now, revision: data.revision, line: data.line, author: user, undo: true, redo: false } });
      get().say(data.twins?.length ? `${line}; also on ${data.twins.join(", ")}` : line);
      void loadFindings(floor.id);
      return true;
    }
    refusals++;
    set({ document: confirmed });
    if (response?.status === 409) set({ conflict: { told: error as Conflict, document: changed, line } });
    else set({ problems: problemsOf(error) });
    return false;
  }

  async function saveProject(edit: ProjectEdit): Promise<boolean> {
    const { project, user, floor } = get();
    if (!project) return false;
    const changed = edit.change(project.document as unknown as ProjectDocument);
    const { data, error, response } = await api.PUT("/api/projects/{project_id}", {
      params: { path: { project_id: project.id } },
      body: { based_on: project.revision, document: changed, line: edit.line, author: user, settle: "ask" },
    });
    if (data) get().say(data.twins?.length ? `${edit.line}; computed anew: ${data.twins.join(", ")}` : edit.line);
    else if (response.status === 409)
      get().say(
        `${(error as Conflict).author} changed the project: ${(error as Conflict).line}. Yours was not made; look, then do it again.`,
        true,
      );
    else set({ problems: problemsOf(error) });
    if (floor && (data || response.status === 409)) await refresh(floor.id);
    if (data) await loadProjects();
    return Boolean(data);
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
      body: { based_on: floor.revision, author: get().user },
    });
    if (data) {
      get().say(data.twins?.length ? `${data.line}; also on ${data.twins.join(", ")}` : data.line);
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
    project: null,
    floor: null,
    document: null,
    results: null,
    fields: null,
    freshRevision: null,
    shownRun: null,
    run: null,
    early: null,
    step: "analyse",
    selection: null,
    chosen: [],
    findings: [],
    user: localStorage.getItem("piastra-user") ?? "designer",
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
      set({
        floor: null,
        document: null,
        results: null,
        fields: null,
        shownRun: null,
        run: null,
        early: null,
        selection: null,
        chosen: [],
        findings: [],
        problems: [],
      });
      history.replaceState(null, "", `?floor=${floorId}`);
      await refresh(floorId);
      listen(floorId);
    },
    setStep: (step) => set({ step }),
    select: (selection) =>
      set({ selection, chosen: selection?.type === "object" ? [{ kind: selection.kind, id: selection.id }] : [] }),
    choose: (refs) => {
      const last = refs[refs.length - 1];
      set({ chosen: refs, selection: last ? { type: "object", ...last } : null });
    },
    flyTo: (at) => at && set((s) => ({ flight: { x: at[0], y: at[1], count: (s.flight?.count ?? 0) + 1 } })),
    edit: save,
    editProject: (edit) => inTurn(() => saveProject(edit)),
    undoProject: (back) =>
      inTurn(async () => {
        const { project, user, floor } = get();
        if (!project || !floor) return;
        const { data, error } = await api.POST(
          back ? "/api/projects/{project_id}/undo" : "/api/projects/{project_id}/redo",
          {
            params: { path: { project_id: project.id } },
            body: { based_on: project.revision, author: user },
          },
        );
        get().say(data?.line ?? problemsOf(error)[0]?.sentence ?? "", !data);
        await refresh(floor.id);
      }),
    reload: async () => {
      const { floor } = get();
      await loadProjects();
      if (floor) await refresh(floor.id);
    },
    setUser: (name) => {
      localStorage.setItem("piastra-user", name);
      set({ user: name });
    },
    undo: () => inTurn(() => travel(true)),
    redo: () => inTurn(() => travel(false)),
    cancel: async () => {
      const { floor } = get();
      if (floor) await api.POST("/api/floors/{floor_id}/cancel", { params: { path: { floor_id: floor.id } } });
    },
    settle: async (answer) => {
      const { conflict, floor } = get();
      set({ conflict: null });
      if (!floor || !conflict) return;
      if (answer !== "theirs") await put(conflict.document, conflict.line, answer, conflict.told.based_on);
      await refresh(floor.id);
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
