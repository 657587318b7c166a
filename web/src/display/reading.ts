import type { components } from "../api/generated";

export type Catalogue = components["schemas"]["Catalogue"];

/** What of a run is read: a case or combination, with all live load, over arrangements, or under one of them. */
export type Chosen = { of: string; kind: "all" | "least" | "greatest" | "arrangement"; arrangement?: string };
/** What is taken off it: another choice of this run; or the same reading of another run, which is told with its revision. */
export type Minus = { chosen: Chosen } | { run: number; revision: number };
