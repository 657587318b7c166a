import { create } from "zustand";
import { useDisplay } from "../../display/display";
import { startOf } from "../../kinds";
import type { Storeys } from "../../kinds/kind";
import type { FloorDocument, Kind, Labelled } from "../../model/floor";

/** What the next object of each kind is like; it keeps what was chosen last. */
export const useTemplates = create<{
  items: Partial<Record<string, Labelled>>;
  set: (key: string, item: Labelled) => void;
}>((set) => ({
  items: {},
  set: (key, item) => set((s) => ({ items: { ...s.items, [key]: item } })),
}));

/** The template of a tool: what was chosen last, with materials and cases that the floor has, or what its kind begins with. */
export function templateOf(key: string, kind: Kind, document: FloorDocument, storeys: Storeys): Labelled {
  const activeCase = useDisplay.getState().loadsOf;
  const kept = useTemplates.getState().items[key];
  if (!kept) return startOf(kind, { tool: key, document, storeys, activeCase });
  const known = (list: { id: string }[], id: unknown) => list.some((m) => m.id === id);
  const fit = { ...kept };
  const cases = document.load_cases ?? [];
  if ("concrete" in fit && !known(document.concretes, fit.concrete)) fit.concrete = document.concretes[0]?.id;
  if ("rebar" in fit && !known(document.rebars, fit.rebar)) fit.rebar = document.rebars[0]?.id;
  if ("case" in fit && activeCase && known(cases, activeCase)) fit.case = activeCase;
  if ("case" in fit && !known(cases, fit.case)) fit.case = cases[0]?.id;
  return fit;
}
