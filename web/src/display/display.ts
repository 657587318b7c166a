import { create } from "zustand";
import type { FieldHead } from "../api/fields";
import type { Kind } from "../model/floor";
import type { StepName } from "../model/step";
import type { Catalogue, Chosen, Minus } from "./reading";

/** What the plan shows of the results. */
export type Display = {
  /** A quantity that can be read, `steel`, or `none`. */
  quantity: string;
  /** What it is of: a case, a combination, a face and direction; null for the most telling one. */
  of: string | null;
  kind: string | null;
  arrangement: string | null;
  /** What is taken off. */
  minus: Minus | null;
  /** The stage since whose load the deflection of a life is told; null: since the beginning. */
  since: string | null;
  byElement: boolean;
  /** Limits of the bands that the reader has set; null: fitted to the field. */
  limits: { from: number; to: number } | null;
  /** Bands of steel go by the sizes of bars. */
  sized: boolean;
  strips: "off" | "x" | "y";
  zones: boolean;
  reactions: boolean;
  /** Groups of bars of the field's face and direction. */
  bars: boolean;
  labels: boolean;
  /** The elements of the newest run. */
  mesh: boolean;
  /** The drawing that lies beneath. */
  drawing: boolean;
  /** Loads of this case alone are shown while loading; null: of all. */
  loadsOf: string | null;
  hidden: Set<Kind>;
};

type DisplayStore = Display & { show: (part: Partial<Display>) => void };

export const useDisplay = create<DisplayStore>((set) => ({
  quantity: "w",
  of: null,
  kind: null,
  arrangement: null,
  minus: null,
  since: null,
  byElement: false,
  limits: null,
  sized: false,
  strips: "off",
  zones: false,
  reactions: false,
  bars: false,
  labels: true,
  mesh: false,
  drawing: true,
  loadsOf: null,
  hidden: new Set<Kind>(),
  show: (part) =>
    set((now) => {
      // Limits belong to the field that they were set for.
      const other = ["quantity", "of", "kind", "minus", "since"].some(
        (k) => k in part && part[k as keyof Display] !== now[k as keyof Display],
      );
      return other && !("limits" in part) ? { ...part, limits: null } : part;
    }),
}));

const NO_FIELD = { quantity: "none", strips: "off", zones: false, reactions: false, bars: false } as const;

/** What a step of the route puts on the plan. */
export const DISPLAY_OF: Record<StepName, Partial<Display>> = {
  setout: NO_FIELD,
  build: NO_FIELD,
  load: NO_FIELD,
  combine: NO_FIELD,
  arrange: NO_FIELD,
  analyse: { ...NO_FIELD, quantity: "w" },
  strips: { ...NO_FIELD, strips: "x" },
  steel: { ...NO_FIELD, quantity: "steel", bars: true },
  punching: { ...NO_FIELD, zones: true },
  tendons: NO_FIELD,
  deflection: { ...NO_FIELD, quantity: "w" },
  review: NO_FIELD,
};

export const KINDS: Record<string, string> = {
  all: "all live load",
  least: "least",
  greatest: "greatest",
  arrangement: "arrangement",
  "with creep": "with creep, greatest",
  history: "at the end of the stage",
  top: "top, at the end of the stage",
  bottom: "bottom, at the end of the stage",
  required: "required",
  shortfall: "shortfall",
};

/** Fields of the stages of a life, beside its deflection. */
export const LIVED = ["cracked", "steel_stress", "crack_width"];
const STORED = ["steel", ...LIVED];

/** Whether a field came with the mesh of the run whatever is chosen. */
export const isStored = (quantity: string) => STORED.includes(quantity);

/** Where the deflection just after the load of a stage is among the fields; -1: nowhere, or nothing is taken off. */
export function begun(heads: FieldHead[], display: Display): number {
  return display.since && display.quantity === "w"
    ? heads.findIndex((h) => h.quantity === "w" && h.kind === "loaded" && h.of === display.since)
    : -1;
}

/** A field that came with the mesh of the run: steel, deflection with creep, and what a life makes of the floor. */
export function stored(heads: FieldHead[], display: Display): number {
  const own = display.kind === "with creep" || display.kind === "history";
  if (!isStored(display.quantity) && !own && !(display.quantity === "w" && !display.kind)) return -1;
  if (display.minus) return -1;
  const mine = heads.map((h, i) => ({ h, i })).filter(({ h }) => h.quantity === display.quantity);
  const asked = mine.find(({ h }) => h.of === display.of && (!display.kind || h.kind === display.kind));
  if (asked) return asked.i;
  if (display.quantity === "steel")
    return mine.find(({ h }) => h.of === "top x" && h.kind === "required")?.i ?? mine[0]?.i ?? -1;
  if (LIVED.includes(display.quantity))
    return (mine.find(({ h }) => h.of === display.of) ?? mine[mine.length - 1])?.i ?? -1;
  // Nothing is asked for: the end of the floor's life, or else the first combination that lasts.
  const lived = mine.filter(({ h }) => h.kind === "history");
  return display.of ? -1 : (lived[lived.length - 1]?.i ?? mine[0]?.i ?? -1);
}

/** What is read where the reader has not chosen: the first ultimate combination, greatest where there is pattern load. */
export function chosenReading(
  catalogue: Catalogue | null,
  display: Pick<Display, "quantity" | "of" | "kind" | "arrangement">,
): Chosen | null {
  if (!catalogue?.selections.length) return null;
  const quantity = catalogue.quantities.find((q) => q.key === display.quantity);
  const found =
    catalogue.selections.find((s) => s.of === display.of) ??
    catalogue.selections.find((s) => s.limit_state === "ultimate" && s.pattern) ??
    catalogue.selections.find((s) => s.limit_state === "ultimate") ??
    catalogue.selections[0];
  if (!found) return null;
  const senses = quantity?.senses ?? ["least", "greatest"];
  let kind = (display.kind ?? (found.pattern ? senses[senses.length - 1] : "all")) as Chosen["kind"];
  if (!["all", "least", "greatest", "arrangement"].includes(kind)) kind = "all";
  if (!found.pattern || (kind !== "all" && kind !== "arrangement" && !senses.includes(kind))) kind = "all";
  if (kind === "arrangement" && !display.arrangement) kind = "all";
  return kind === "arrangement"
    ? { of: found.of, kind, arrangement: display.arrangement as string }
    : { of: found.of, kind };
}

export function chosenText(chosen: Chosen): string {
  return `${chosen.of}, ${chosen.kind === "arrangement" ? (chosen.arrangement ?? "") : KINDS[chosen.kind]}`;
}

/** What is taken off, in words. */
export function minusText(minus: Minus): string {
  return "run" in minus ? `less the same of revision ${minus.revision}` : `less ${chosenText(minus.chosen)}`;
}
