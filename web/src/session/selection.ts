import { checkOf } from "../checks";
import { DISPLAY_OF, useDisplay } from "../display/display";
import type { Change, Get, SelectionPart } from "./types";

/** What is looked at: the step, what is selected, where the plan flies. */
export function selectionPart(set: Change, get: Get): SelectionPart {
  return {
    step: "analyse",
    selection: null,
    chosen: [],
    flight: null,
    setStep: (step) => {
      // A difference of two runs belongs to the step in which it was asked for.
      if (step !== get().step) useDisplay.getState().show({ minus: null });
      set({ step });
    },
    select: (selection) =>
      set({ selection, chosen: selection?.type === "object" ? [{ kind: selection.kind, id: selection.id }] : [] }),
    choose: (refs) => {
      const last = refs[refs.length - 1];
      set({ chosen: refs, selection: last ? { type: "object", ...last } : null });
    },
    flyTo: (at, wide = null) =>
      at && set((s) => ({ flight: { x: at[0], y: at[1], wide, count: (s.flight?.count ?? 0) + 1 } })),
    openRow: (row) => {
      const { step, display, wide } = checkOf(row.check);
      get().setStep(step);
      useDisplay.getState().show({ ...DISPLAY_OF[step], ...display(row, get().results) });
      set({ selection: row.id.of.id ? { type: "row", key: row.id.key } : null, chosen: [] });
      get().flyTo(row.at as [number, number] | null, wide?.(row, get().results) ?? null);
    },
  };
}
