import { create } from "zustand";
import { api, saying } from "../api/client";
import { useSession } from "../session";

/** What is done to a project's floors: each thing done can be taken back, in the order in which it was done. */
export type Deed = { line: string; undone: string; back: () => Promise<string>; again: () => Promise<string> };

type Deeds = { done: Deed[]; undone: Deed[] };
export const useDeeds = create<Deeds>(() => ({ done: [], undone: [] }));

const MOST = 50;

/** Do something and remember how it is taken back; what was wrong, or nothing. */
export async function does(deed: Deed): Promise<string> {
  const problem = await deed.again();
  if (!problem) {
    useDeeds.setState(({ done }) => ({ done: [...done, deed].slice(-MOST), undone: [] }));
    useSession.getState().say(deed.line);
  }
  return problem;
}

/** Take the last deed back, or do again what was taken back last. */
export async function travel(back: boolean): Promise<void> {
  const { done, undone } = useDeeds.getState();
  const { say } = useSession.getState();
  const deed = (back ? done : undone).at(-1);
  if (!deed) {
    say(`There is nothing to ${back ? "undo" : "redo"} here; changes within a floor are undone there.`);
    return;
  }
  const problem = await (back ? deed.back() : deed.again());
  if (problem) {
    say(problem, true);
    return;
  }
  useDeeds.setState(
    back
      ? { done: done.slice(0, -1), undone: [...undone, deed] }
      : { done: [...done, deed], undone: undone.slice(0, -1) },
  );
  say(back ? deed.undone : deed.line);
}

const told = ({ error, response }: { error?: unknown; response: Response }) => (response.ok ? "" : saying(error));

/** Put a floor away, or bring it back. */
export const keepFloor = async (id: number, away: boolean): Promise<string> =>
  told(await api.PUT("/api/floors/{floor_id}/away", { params: { path: { floor_id: id } }, body: { away } }));

/** Give a project's floors an order. */
export const orderFloors = async (project: number, floors: number[]): Promise<string> =>
  told(
    await api.PUT("/api/projects/{project_id}/order", { params: { path: { project_id: project } }, body: { floors } }),
  );

/** Name a floor, as a revision of its own. */
export async function nameFloor(id: number, name: string): Promise<string> {
  const { data, error } = await api.GET("/api/floors/{floor_id}", { params: { path: { floor_id: id } } });
  if (!data) return saying(error);
  const line = `floor is called ${name}`;
  const body = { based_on: data.revision, document: { ...data.document, name }, line, settle: "both" as const };
  return told(await api.PUT("/api/floors/{floor_id}", { params: { path: { floor_id: id } }, body }));
}

/** The order with a floor shifted by some places; the same list where it cannot go. */
export function shifted(ids: number[], id: number, by: number): number[] {
  const at = ids.indexOf(id);
  if (at < 0 || at + by < 0 || at + by >= ids.length) return ids;
  const rest = ids.filter((k) => k !== id);
  rest.splice(at + by, 0, id);
  return rest;
}
