import { create } from "zustand";
import { useShallow } from "zustand/react/shallow";
import type { Role } from "../api/entry";
import { floorPart } from "./floor";
import { projectPart } from "./project";
import { runPart } from "./runs";
import { selectionPart } from "./selection";
import type { Session } from "./types";

export type { Edit } from "./editQueue";
export type { Answer, ProjectEdit, Selection, Session } from "./types";

/** What is open, selected and shown. Components read it through selectors: `usePicked("document", "edit")`. */
export const useSession = create<Session>((set, get) => ({
  ...floorPart(set, get),
  ...projectPart(set, get),
  ...selectionPart(set, get),
  ...runPart(get),
  note: null,
  say: (text, bad = false) => set({ note: { text, bad } }),
}));

/** Some of the session; the component is drawn anew only when one of these changes. */
export function usePicked<K extends keyof Session>(...keys: K[]): Pick<Session, K> {
  return useSession(useShallow((s) => Object.fromEntries(keys.map((k) => [k, s[k]])) as Pick<Session, K>));
}

/** What who is signed in is in the open project. */
export function useRole(): Role | undefined {
  return useSession((s) => s.projects.find((p) => p.id === s.floor?.project_id)?.role);
}

/** Whether what is shown belongs to an older revision than the newest one. */
export function useStale(): boolean {
  return useSession((s) => s.freshRevision !== null && s.floor !== null && s.freshRevision !== s.floor.revision);
}
