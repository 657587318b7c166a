import { create } from "zustand";
import type { Kind } from "../model/floor";

/** What the dialog that puts one thing in the place of another is about. */
export const useReplacing = create<{ kind: Kind; old: string; begin: (kind: Kind, old: string) => void }>((set) => ({
  kind: "build_ups",
  old: "",
  begin: (kind, old) => set({ kind, old }),
}));
