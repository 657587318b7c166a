import { api, type FloorEvent, type FloorState, problemsOf, type RunEvent, type Saved } from "../api/client";
import { useEntry } from "../api/entry";
import { useDisplay } from "../display/display";
import { told, toldLines } from "../kinds/refusals";
import { type FloorDocument, itemOf } from "../model/floor";
import { useUnits } from "../units/quantities";
import { addressed } from "./address";
import { EditQueue, type Put } from "./editQueue";
import { loadProject, loadProjects, mayDesign } from "./project";
import { useReview } from "./review";
import { heardRun, listen, loadResults, OPEN } from "./runs";
import type { Change, FloorPart, Get, Session } from "./types";

/** Sends one change to the server; a server that does not answer is a problem like any other. */
const put: Put = async (floorId, body) => {
  const { data, error, response } = await api
    .PUT("/api/floors/{floor_id}", { params: { path: { floor_id: floorId } }, body })
    .catch(() => ({ data: undefined, error: undefined, response: undefined }));
  if (data) return { saved: data };
  // A server that is restarted, or whose database is, answers again in a while.
  if (!response || [502, 503, 504].includes(response.status)) return { away: true };
  if (response?.status === 409 && error && "sentence" in error) return { conflict: error };
  return { problems: problemsOf(error) };
};

/** Everything of a floor that goes when another one is opened. */
const NOTHING: Partial<Session> = {
  floor: null,
  document: null,
  results: null,
  fields: null,
  freshRevision: null,
  shownRun: null,
  run: null,
  early: null,
  selection: null,
  chosen: [],
  findings: [],
  problems: [],
  conflict: null,
  saving: false,
};

/** The open floor. Its queue of changes belongs to it alone. */
export function floorPart(set: Change, get: Get): FloorPart {
  let queue: EditQueue | null = null;
  /** The floor that was asked for last. */
  let wanted = 0;
  /** The newest event of a run of a revision that is not open yet: its own save may still be on its way. */
  let ahead: RunEvent | null = null;
  /** The run of an earlier revision that stands for the open one: what was changed since is only drawn or read. */
  let standing: number | null = null;

  /** Whether a floor's answer is still about what is open. */
  const isOpen = (floorId: number) => get().floor?.id === floorId;

  function queueOf(state: FloorState): EditQueue {
    const floorId = state.id;
    return new EditQueue(floorId, state.document, state.revision, put, {
      shown: (document) => isOpen(floorId) && set({ document }),
      pending: (count) => isOpen(floorId) && set({ saving: count > 0, ...(count ? { problems: [] } : {}) }),
      away: (away) => set({ away }),
      refused: (problems, document) => {
        const known = problems.map((p) => ({ ...p, told: told(p, document, useUnits.getState().system) }));
        if (isOpen(floorId)) set({ problems: known });
        else get().say(`${state.name}: a change was refused. ${known[0]?.told ?? ""}`, true);
      },
      conflict: (told, document, line) => {
        if (isOpen(floorId)) set({ conflict: { told, document, line } });
        else get().say(`${state.name}: ${told.sentence}`, true);
      },
      saved: (saved, line) => {
        const told = saved.twins?.length ? `${line}; also on ${saved.twins.join(", ")}` : line;
        get().say(isOpen(floorId) ? told : `${state.name}: ${told}`);
        if (isOpen(floorId)) took(saved, line);
      },
    });
  }

  /** The floor's head after a save; results that stand for the new revision are shown as its own. */
  function took(saved: Saved, line: string) {
    const { floor, shownRun } = get();
    if (!floor) return;
    set({
      floor: {
        ...floor,
        revision: saved.revision,
        line,
        author: useEntry.getState().me?.person?.name ?? "",
        undo: true,
        redo: false,
      },
    });
    standing = saved.stands ?? null;
    if (saved.stands && saved.stands === shownRun) set({ freshRevision: saved.revision });
    else if (saved.stands) void refreshRun(floor.id);
    if (ahead) heard(ahead);
    void loadFindings(floor.id);
  }

  function heard(event: RunEvent) {
    const floor = get().floor;
    if (!floor) return;
    ahead = event.revision > floor.revision ? event : null;
    const change = heardRun(event, floor.revision, standing);
    if (!change) {
      // Of a floor that is edited without pause, results of an earlier revision are better than none.
      if (event.state === "fresh" && event.revision < floor.revision) void refreshRun(floor.id);
      return;
    }
    set(change);
    if (event.state === "fresh") void refreshRun(floor.id);
    if (event.state === "refused") {
      const document = get().document;
      const text = event.told ?? "";
      const sentence = document ? toldLines(text, document, useUnits.getState().system) : text;
      set({ problems: [{ path: "the floor", sentence, told: sentence }] });
    }
  }

  function hear(event: FloorEvent) {
    const floor = get().floor;
    if (!floor || event.floor !== floor.id) return;
    if (event.kind === "run") heard(event);
    else if (event.kind === "review") void useReview.getState().look(floor.id);
    else if (event.revision > floor.revision && !queue?.pending) {
      get().say(`${event.author}: ${event.line}`);
      void refresh(floor.id);
    }
  }

  /** Shows a floor's newest state; what is selected and gone is let go. */
  function take(state: FloorState) {
    const document = state.document;
    if (!queue || queue.floorId !== state.id) queue = queueOf(state);
    else queue.take(document, state.revision);
    const chosen = get().chosen.filter((r) => itemOf(document, r));
    const selection = get().selection;
    const gone = selection?.type === "object" && !itemOf(document, selection);
    const run = get().run;
    standing = state.run?.revision === state.revision ? state.run.id : null;
    set({
      floor: state,
      document,
      chosen,
      ...(gone ? { selection: null } : {}),
      // Progress of an older revision is nobody's any more.
      ...(run && run.revision !== state.revision ? { run: null } : {}),
    });
    if (ahead) heard(ahead);
  }

  async function state(floorId: number): Promise<FloorState | null> {
    const { data, error } = await api.GET("/api/floors/{floor_id}", { params: { path: { floor_id: floorId } } });
    if (!data) set({ problems: problemsOf(error) });
    return data ?? null;
  }

  async function refresh(floorId: number, opening = false) {
    const data = await state(floorId);
    // Of two floors that are opened one after the other the first may answer last.
    if (!data || (opening ? wanted !== floorId : !isOpen(floorId))) return;
    take(data);
    await Promise.all([
      loadProject(set, data.project_id, () => isOpen(floorId)),
      loadFindings(floorId),
      loadResults(set, get, data),
      useReview.getState().look(floorId),
    ]);
  }

  async function refreshRun(floorId: number) {
    const data = await state(floorId);
    const mine = get().floor;
    if (!data || !mine || mine.id !== floorId) return;
    if (data.revision >= mine.revision && !queue?.pending) take(data);
    else set({ floor: { ...mine, run: data.run, fresh: data.fresh } });
    await Promise.all([loadResults(set, get, data), useReview.getState().look(floorId)]);
    await loadProjects(set);
  }

  /** After a time without news: a run may have ended and a revision come in unheard. */
  async function catchUp(floorId: number) {
    const data = await state(floorId);
    const mine = get().floor;
    if (!data || mine?.id !== floorId || queue?.pending) return;
    const { run } = get();
    const same =
      data.revision === mine.revision && data.run?.id === mine.run?.id && data.run?.state === mine.run?.state;
    if (same && (run?.state ?? data.run?.state) === data.run?.state) return;
    if (run && run.run === data.run?.id && !OPEN.includes(data.run.state)) set({ run: null });
    await refresh(floorId);
    await loadProjects(set);
  }

  async function loadFindings(floorId: number) {
    const { data } = await api.GET("/api/floors/{floor_id}/findings", { params: { path: { floor_id: floorId } } });
    if (data && isOpen(floorId)) set({ findings: data });
  }

  async function travel(back: boolean) {
    const { floor } = get();
    if (!floor || !mayDesign(get)) return;
    // Changes of the project and of the floor are taken back in the order in which they were made.
    const { data: steps } = await api.GET("/api/floors/{floor_id}/steps", { params: { path: { floor_id: floor.id } } });
    const next = back ? steps?.undo : steps?.redo;
    if (!next) {
      get().say(
        steps ? `There is nothing to ${back ? "undo" : "redo"}.` : "The server did not answer; try again.",
        !steps,
      );
      return;
    }
    if (next.of === "project") {
      await get().undoProject(back);
      return;
    }
    const path = back ? "/api/floors/{floor_id}/undo" : "/api/floors/{floor_id}/redo";
    const { data, error } = await api.POST(path, {
      params: { path: { floor_id: floor.id } },
      body: { based_on: floor.revision },
    });
    if (data) {
      get().say(data.twins?.length ? `${data.line}; also on ${data.twins.join(", ")}` : data.line);
      await refresh(floor.id);
    } else if (error && "sentence" in error) get().say(error.sentence, true);
    else get().say(problemsOf(error)[0]?.sentence ?? "", true);
  }

  const inTurn = <T>(work: () => Promise<T>): Promise<T> => (queue ? queue.inTurn(work) : work());

  return {
    floor: null,
    document: null,
    findings: [],
    problems: [],
    conflict: null,
    saving: false,
    open: async (floorId) => {
      wanted = floorId;
      queue = null;
      ahead = null;
      set(NOTHING);
      useDisplay.getState().show({ minus: null });
      addressed("floor", String(floorId));
      await refresh(floorId, true);
      if (isOpen(floorId))
        listen(
          floorId,
          hear,
          () => void catchUp(floorId),
          (away) => set({ away }),
        );
    },
    reload: async () => {
      const { floor } = get();
      await loadProjects(set);
      if (floor) await refresh(floor.id);
    },
    edit: async (edit) => {
      if (!queue || !mayDesign(get)) return false;
      const done = queue.edit(edit);
      const shown: FloorDocument = queue.document;
      if (edit.picks) get().choose(edit.picks.filter((r) => itemOf(shown, r)));
      return done;
    },
    undo: () => inTurn(() => travel(true)),
    redo: () => inTurn(() => travel(false)),
    settle: async (answer) => {
      const { conflict, floor } = get();
      set({ conflict: null });
      if (!floor || !conflict || !queue) return;
      if (answer !== "theirs") await queue.send(conflict.document, conflict.line, answer, conflict.told.based_on);
      await refresh(floor.id);
    },
  };
}
