import { create } from "zustand";
import type { FieldHead } from "../api/fields";
import type { Kind } from "../model/floor";
import type { StepName } from "../route/stepName";

/** What the plan shows of the results. */
export type Display = {
  quantity: "none" | "w" | "mx" | "my" | "mxy" | "steel";
  /** The field within the quantity: what it is of, and its kind. */
  of: string | null;
  kind: string | null;
  strips: "off" | "x" | "y";
  zones: boolean;
  labels: boolean;
  /** The elements of the newest run. */
  mesh: boolean;
  /** The drawing that lies beneath. */
  drawing: boolean;
  hidden: Set<Kind>;
};

type DisplayStore = Display & { show: (part: Partial<Display>) => void };

export const useDisplay = create<DisplayStore>((set) => ({
  quantity: "w",
  of: null,
  kind: null,
  strips: "off",
  zones: false,
  labels: true,
  mesh: false,
  drawing: true,
  hidden: new Set<Kind>(),
  show: (part) => set(part),
}));

/** What a step of the route puts on the plan. */
export const DISPLAY_OF: Record<StepName, Partial<Display>> = {
  setout: { quantity: "none", strips: "off", zones: false },
  build: { quantity: "none", strips: "off", zones: false },
  load: { quantity: "none", strips: "off", zones: false },
  combine: { quantity: "none", strips: "off", zones: false },
  arrange: { quantity: "none", strips: "off", zones: false },
  analyse: { quantity: "w", strips: "off", zones: false },
  strips: { quantity: "none", strips: "x", zones: false },
  steel: { quantity: "steel", strips: "off", zones: false },
  punching: { quantity: "none", strips: "off", zones: true },
  deflection: { quantity: "w", strips: "off", zones: false },
};

export const QUANTITIES = [
  ["none", "No field"],
  ["w", "Deflection w"],
  ["mx", "Moment mx"],
  ["my", "Moment my"],
  ["mxy", "Twist mxy"],
  ["steel", "Steel"],
] as const;

const KINDS: Record<string, string> = {
  case: "case",
  combination: "all live load",
  least: "least",
  greatest: "greatest",
  "with creep": "with creep, greatest",
  required: "required",
  shortfall: "shortfall",
};

export function fieldLabel(head: FieldHead): string {
  return `${head.of}, ${KINDS[head.kind]}`;
}

/** The field to show: the one asked for, or the most telling one of the quantity. */
export function chosenField(heads: FieldHead[], display: Display): number {
  const mine = heads.map((h, i) => ({ h, i })).filter(({ h }) => h.quantity === display.quantity);
  const asked = mine.find(({ h }) => h.of === display.of && h.kind === display.kind);
  if (asked) return asked.i;
  const telling =
    display.quantity === "w"
      ? mine.find(({ h }) => h.kind === "with creep")
      : display.quantity === "steel"
        ? mine.find(({ h }) => h.of === "top x" && h.kind === "required")
        : (mine.find(({ h }) => h.limit_state === "ultimate" && h.kind === "greatest") ??
          mine.find(({ h }) => h.limit_state === "ultimate"));
  return (telling ?? mine[0])?.i ?? -1;
}
