import createClient from "openapi-fetch";
import { fetchOwn } from "./entry";
import type { components, paths } from "./generated";

/** A server that is not reached answers like one that cannot: whoever asks hears it, and nothing breaks off. */
const reached = (request: Request): Promise<Response> =>
  fetchOwn(request).catch(() => new Response(null, { status: 503, statusText: "not reached" }));

export const api = createClient<paths>({ baseUrl: "", fetch: reached });

export type FloorState = components["schemas"]["FloorState"];
export type ProjectState = components["schemas"]["ProjectState"];
export type Finding = components["schemas"]["FindingState"];
export type ProjectSummary = components["schemas"]["ProjectSummary"];
export type FloorSummary = components["schemas"]["FloorSummary"];
export type RunSummary = components["schemas"]["RunSummary"];
export type Conflict = components["schemas"]["Conflict"];
export type HistoryEntry = components["schemas"]["HistoryEntry"];
export type Saved = components["schemas"]["Saved"];
export type RunEvent = components["schemas"]["RunEvent"];
export type FloorEvent = components["schemas"]["FloorEvent"];
export type CheckSummary = components["schemas"]["CheckSummary"];
export type Problem = components["schemas"]["Problem"];

/** What went wrong with a request, in sentences. */
export function problemsOf(error: unknown): Problem[] {
  if (error && typeof error === "object" && "problems" in error) return (error as { problems: Problem[] }).problems;
  return [{ path: "the server", sentence: "does not answer; check that it runs, then try again" }];
}

/** What went wrong with a request, in one line. */
export const saying = (error: unknown): string =>
  problemsOf(error)
    .map((p) => `${p.path} ${p.sentence}`)
    .join("; ");
