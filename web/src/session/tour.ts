import { create } from "zustand";

/** What the tour goes by: a floor that fails, and how far a reader has come with it. */
export type Seen = {
  /** The floor that is open, its revision, and the revision that its results are of. */
  floor: number | null;
  revision: number;
  fresh: number | null;
  /** Whether a failing row of a check is open. */
  failing: boolean;
  undone: boolean;
};

export type Stop = { title: string; text: string; done: ((now: Seen, then: Seen) => boolean) | null };

/** From a floor that does not work, through its trace, to its mend and back. */
export const STOPS: Stop[] = [
  {
    title: "A floor that does not work",
    text: "The verdict stands at the top, one meter a check. A red one is over its limit. Click it, or the check in the list beside the plan.",
    done: (now) => now.failing,
  },
  {
    title: "Where, and why",
    text: "The plan has gone to the worst place. The trace beside it tells why: every formula with its numbers and its clause, down to the utilisation.",
    done: null,
  },
  {
    title: "What would mend it",
    text: "Beside the plan are changes that would bring it below 1.00, each with what it adds and what it makes worse. Apply one.",
    done: (now, then) => now.revision > then.revision,
  },
  {
    title: "Computed anew",
    text: "Every change is saved as a revision and computed at once. What is out of date says so until the new verdict is there; strength is told first.",
    done: (now) => now.fresh === now.revision,
  },
  {
    title: "Nothing is lost",
    text: "Ctrl Z takes the change back, with the results that belong to it. Try it.",
    done: (now) => now.undone,
  },
  {
    title: "That is all there is to it",
    text: "The route at the left goes from setting out to deflection, a step at a time. The key ? lists all keys, Ctrl K finds everything.",
    done: null,
  },
];

type Tour = {
  at: number | null;
  /** What was seen when this stop began. */
  since: Seen | null;
  begin: (now: Seen) => void;
  next: (now: Seen) => void;
  end: () => void;
  see: (now: Seen) => void;
};

/** The tour, if one is under way. A stop that asks for something goes on by itself when that was done. */
export const useTour = create<Tour>((set, get) => ({
  at: null,
  since: null,
  begin: (now) => set({ at: 0, since: now }),
  next: (now) => {
    const { at } = get();
    if (at !== null) set(at + 1 < STOPS.length ? { at: at + 1, since: now } : { at: null, since: null });
  },
  end: () => set({ at: null, since: null }),
  see: (now) => {
    const { at, since } = get();
    if (at === null || !since) return;
    // Another floor was opened: its own state is what counts from now on.
    if (now.floor !== since.floor) set({ since: now });
    else if (STOPS[at]?.done?.(now, since)) get().next(now);
  },
}));
