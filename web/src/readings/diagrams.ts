import { useEffect } from "react";
import { create } from "zustand";
import type { Slice } from "../model/floor";
import { useSession } from "../session";
import { type Diagram, readSlice } from "./readings";

/** Diagrams of slices by request; those of the run before are shown until the new ones are there. */
const useStore = create<{ found: Record<string, Diagram | string> }>(() => ({ found: {} }));

const keyOf = (run: number, of: string, s: Slice) =>
  `${run} ${of} ${s.quantity ?? "mn"} ${s.width_m ?? 0} ${JSON.stringify(s.line)}`;

/** The diagram of every slice under a case or combination, by the slice's label; a text says why there is none. */
export function useDiagrams(slices: Slice[], of: string | null): Record<string, Diagram | string | undefined> {
  const run = useSession((s) => s.shownRun);
  const found = useStore((s) => s.found);
  useEffect(() => {
    if (run === null || !of) return;
    for (const s of slices) {
      const key = keyOf(run, of, s);
      if (key in useStore.getState().found) continue;
      useStore.setState((now) => ({ found: { ...now.found, [key]: "" } }));
      void readSlice(run, of, s.quantity ?? "mn", s.line, s.width_m ?? 0).then((d) =>
        useStore.setState((now) => ({ found: { ...now.found, [key]: d } })),
      );
    }
  }, [slices, of, run]);
  return Object.fromEntries(
    slices.map((s) => [s.id, run === null || !of ? undefined : found[keyOf(run, of, s)] || undefined]),
  );
}
