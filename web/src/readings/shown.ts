import { create } from "zustand";

/** The arrangement that is drawn on the plan: which panels are loaded, and for what. */
export const useArrangement = create<{ panels: Set<string> | null; told: string }>(() => ({ panels: null, told: "" }));

export function showArrangement(panels: Iterable<string> | null, told = "") {
  useArrangement.setState({ panels: panels ? new Set(panels) : null, told });
}
