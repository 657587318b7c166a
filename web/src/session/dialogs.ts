import { create } from "zustand";

export type DialogName =
  | "project"
  | "floor"
  | "copy"
  | "drawing"
  | "space"
  | "moving"
  | "history"
  | "keys"
  | "projects"
  | "replace"
  | "lateral"
  | "you"
  | "people"
  | "practice"
  | "report";

/** Which dialog is open. */
export const useDialogs = create<{ shown: DialogName | null; open: (name: DialogName) => void; close: () => void }>(
  (set) => ({
    shown: null,
    open: (shown) => set({ shown }),
    close: () => set({ shown: null }),
  }),
);
