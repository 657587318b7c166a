import { useSyncExternalStore } from "react";
import { create } from "zustand";
import { persist } from "zustand/middleware";

export const INSPECTOR = { least: 240, most: 560 };
const NARROW = 1200;
/** Below this the route is slim in any case. */
const TIGHT = 1000;

/** How the room on the screen is shared out; the browser remembers it. */
type Room = {
  /** The route shows numbers and signs only. */
  slim: boolean;
  inspector: { width: number; folded: boolean };
  ledger: { height: number; folded: boolean };
  give: (change: Partial<Pick<Room, "slim">>) => void;
  inspect: (change: Partial<Room["inspector"]>) => void;
  tables: (change: Partial<Room["ledger"]>) => void;
  /** All for the plan, or everything beside it again. */
  clear: () => void;
};

export const useRoom = create<Room>()(
  persist(
    (set) => ({
      slim: window.innerWidth < NARROW,
      inspector: { width: 308, folded: false },
      ledger: { height: 228, folded: false },
      give: (change) => set(change),
      inspect: (change) => set((r) => ({ inspector: { ...r.inspector, ...change } })),
      tables: (change) => set((r) => ({ ledger: { ...r.ledger, ...change } })),
      clear: () =>
        set((r) => {
          const folded = !(r.inspector.folded && r.ledger.folded && r.slim);
          return {
            slim: folded || window.innerWidth < NARROW,
            inspector: { ...r.inspector, folded },
            ledger: { ...r.ledger, folded },
          };
        }),
    }),
    { name: "piastra-room", partialize: ({ slim, inspector, ledger }) => ({ slim, inspector, ledger }) },
  ),
);

/** A width within bounds that leave the plan some. */
export const widthOf = (wanted: number) =>
  Math.max(INSPECTOR.least, Math.min(INSPECTOR.most, window.innerWidth - 420, wanted));

/** A height of the ledger that leaves the plan some. */
export const heightOf = (wanted: number) => Math.max(80, Math.min(window.innerHeight - 320, wanted));

const resized = (tell: () => void) => {
  window.addEventListener("resize", tell);
  return () => window.removeEventListener("resize", tell);
};

/** Whether the route is a slim rail: by choice, or since there is no room for more. */
export const useSlim = () => {
  const tight = useSyncExternalStore(resized, () => window.innerWidth < TIGHT);
  return useRoom((r) => r.slim) || tight;
};
