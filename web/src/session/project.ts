import { api, type ProjectState, problemsOf } from "../api/client";
import { reaches } from "../api/entry";
import { told } from "../kinds/refusals";
import type { FloorDocument } from "../model/floor";
import { learn } from "../model/standards";
import { useUnits } from "../units/quantities";
import { asked } from "./address";
import type { Change, Get, ProjectPart } from "./types";

/** What the floors of a project share; `wanted` tells whether the floor that it was asked for is still the open one. */
export async function loadProject(set: Change, projectId: number, wanted: () => boolean): Promise<void> {
  const { data } = await api.GET("/api/projects/{project_id}", { params: { path: { project_id: projectId } } });
  if (!data || !wanted()) return;
  set({ project: data });
  useUnits.setState({ system: data.document.units === "US" ? "US" : "SI" });
}

export async function loadProjects(set: Change): Promise<void> {
  const { data, error } = await api.GET("/api/projects");
  if (data) set({ projects: data });
  else set({ problems: problemsOf(error) });
}

/** Whether who is signed in may change the open project; who may not is told so. */
export function mayDesign(get: Get): boolean {
  const { floor, projects, say } = get();
  const role = projects.find((p) => p.id === floor?.project_id)?.role;
  if (!role || reaches(role, "designer")) return true;
  say(`You are ${role} in this project and change nothing here. Its owners can make you a designer.`, true);
  return false;
}

/** The project as it stands: the open one, or another that was left while a change of it was on its way. */
async function standing(get: Get, id: number): Promise<ProjectState | null> {
  const open = get().project;
  if (open?.id === id) return open;
  const { data } = await api.GET("/api/projects/{project_id}", { params: { path: { project_id: id } } });
  return data ?? null;
}

/** The projects, and changes of what the floors of the open one share. */
export function projectPart(set: Change, get: Get): ProjectPart {
  let turn: Promise<unknown> = Promise.resolve();
  const inTurn = <T>(work: () => Promise<T>): Promise<T> => {
    const next = turn.then(work);
    turn = next.catch(() => undefined);
    return next;
  };
  return {
    projects: [],
    project: null,
    start: async () => {
      const [{ data }] = await Promise.all([api.GET("/api/standards"), loadProjects(set)]);
      if (data) learn(data);
      const wanted = Number(asked("floor"));
      const all = get().projects.flatMap((p) => p.floors);
      const first = all.find((f) => f.id === wanted) ?? all[0];
      if (first) await get().open(first.id);
    },
    editProject: (edit) => {
      const { project } = get();
      if (!project || !mayDesign(get)) return Promise.resolve(false);
      // In turn, each on what the one before it left: two edits typed quickly are no conflict with oneself.
      return inTurn(async () => {
        const now = await standing(get, project.id);
        if (!now) return false;
        const { data, error, response } = await api.PUT("/api/projects/{project_id}", {
          params: { path: { project_id: now.id } },
          body: {
            based_on: now.revision,
            document: edit.change(now.document),
            line: edit.line,
            settle: "ask",
          },
        });
        if (data) get().say(data.twins?.length ? `${edit.line}; computed anew: ${data.twins.join(", ")}` : edit.line);
        else if (error && "sentence" in error)
          get().say(
            `${error.author} changed the project: ${error.line}. Yours was not made; look, then do it again.`,
            true,
          );
        else {
          const made = edit.change(now.document) as unknown as FloorDocument;
          set({ problems: problemsOf(error).map((p) => ({ ...p, told: told(p, made, useUnits.getState().system) })) });
        }
        if (data || response.status === 409) await get().reload();
        return Boolean(data);
      });
    },
    undoProject: (back) =>
      inTurn(async () => {
        const { project } = get();
        if (!project) return;
        const { data, error } = await api.POST(
          back ? "/api/projects/{project_id}/undo" : "/api/projects/{project_id}/redo",
          { params: { path: { project_id: project.id } }, body: { based_on: project.revision } },
        );
        get().say(data?.line ?? problemsOf(error)[0]?.sentence ?? "", !data);
        await get().reload();
      }),
  };
}
