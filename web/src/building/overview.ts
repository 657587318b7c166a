import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, type FloorEvent, problemsOf, type RunEvent } from "../api/client";
import type { components } from "../api/generated";
import { OPEN } from "../session/runs";
import { type Mark, markOf } from "../units/format";
import { measured, type System } from "../units/quantities";

export type Overview = components["schemas"]["OverviewState"];
export type Card = components["schemas"]["CardState"];
export type CheckRow = Card["verdict"][number];
export type Told = Pick<RunEvent, "state" | "stage" | "share" | "revision">;

/** How long what happens is gathered before the building is asked for again, ms. */
const GATHER = 300;
/** When a line that the server closed is tried again, ms. */
const LATER = 3000;

/** A building with what is heard of its runs; asked for again whenever a run ends or something is changed. */
export function useOverview(projectId: number | undefined) {
  const client = useQueryClient();
  const [heard, setHeard] = useState<Record<number, Told>>({});
  const [line, setLine] = useState(0);
  const query = useQuery({
    queryKey: ["overview", projectId],
    enabled: projectId !== undefined,
    staleTime: 0,
    queryFn: async () => {
      const { data, error } = await api.GET("/api/projects/{project_id}/overview", {
        params: { path: { project_id: projectId ?? 0 } },
      });
      if (!data) throw new Error(problemsOf(error)[0]?.sentence ?? "");
      return data;
    },
  });
  // Floors that are made later are heard of by asking anew; a line that the server closed, too.
  const ids = query.data?.floors.map((f) => f.id).join(" ");
  useEffect(() => {
    if (projectId === undefined || ids === undefined) return;
    let timer: ReturnType<typeof setTimeout> | undefined;
    let later: ReturnType<typeof setTimeout> | undefined;
    const again = () => {
      clearTimeout(timer);
      timer = setTimeout(() => void client.invalidateQueries({ queryKey: ["overview", projectId] }), GATHER);
    };
    const source = new EventSource(`/api/projects/${projectId}/events`);
    // What happened before the line stood was not heard.
    source.onopen = () => {
      setHeard({});
      again();
    };
    source.onerror = () => {
      if (source.readyState === EventSource.CLOSED) later = setTimeout(() => setLine(line + 1), LATER);
    };
    source.onmessage = (message) => {
      const event = JSON.parse(message.data) as FloorEvent;
      if (event.kind === "run")
        setHeard((all) => ({
          ...all,
          [event.floor]: { state: event.state, stage: event.stage, share: event.share, revision: event.revision },
        }));
      if (event.kind === "revision" || (event.kind === "run" && !OPEN.includes(event.state))) again();
    };
    return () => {
      clearTimeout(timer);
      clearTimeout(later);
      source.close();
    };
  }, [projectId, ids, client, line]);
  return { overview: query.data, problem: query.error?.message ?? "", heard, again: query.refetch };
}

/** Whether a floor is being computed, or waits for it. */
export const goesOn = (card: Card, told: Told | undefined) => OPEN.includes(told?.state ?? card.run?.state ?? "");

/** How a floor stands, in words. */
export function stateOf(card: Card, told: Told | undefined): string {
  const state = told?.state ?? card.run?.state;
  if (state && OPEN.includes(state)) {
    if (state === "queued") return "waits for its turn";
    return told?.share ? `running ${Math.round(100 * told.share)} %` : state;
  }
  if (card.run && ["refused", "failed", "cancelled"].includes(card.run.state)) return card.run.state;
  if (!card.picture.slabs.length) return "empty";
  if (card.known === card.revision) return "up to date";
  return card.known === null ? "no results" : "out of date";
}

const RANK: Record<string, number> = { fail: 3, unchecked: 2, uncovered: 1, pass: 0 };
const rank = (row: CheckRow) => RANK[row.status] ?? 0;

/** Checks from the worst: what fails, what is not all checked or covered, then by utilisation. */
export const worstFirst = (rows: CheckRow[]): CheckRow[] =>
  [...rows].sort((a, b) => rank(b) - rank(a) || (b.utilisation ?? -1) - (a.utilisation ?? -1));

export function markOfRow(row: CheckRow): Mark {
  if (row.status === "fail") return "fail";
  if (row.status === "unchecked") return "none";
  return row.status === "uncovered" ? "bare" : markOf(row.utilisation);
}

/** Whether a floor works, by results of its newest revision. */
export function works(card: Card): "works" | "fails" | "open" {
  if (card.known !== card.revision || !card.verdict.length) return "open";
  if (card.verdict.some((r) => r.status === "fail")) return "fails";
  return card.verdict.every((r) => r.status === "pass") ? "works" : "open";
}

/** What kind of floor it is, with its thicknesses. */
export function kindOf(card: Card, system: System): string {
  const { picture, thicknesses_m: thick } = card;
  if (!picture.slabs.length) return "no slab yet";
  const kind = card.ground
    ? "slab on the ground"
    : card.tendons
      ? "post-tensioned"
      : picture.beams.length
        ? "slab and beams"
        : picture.thickenings.length
          ? "flat with thickenings"
          : "flat";
  const [least, most] = [thick[0] ?? 0, thick[thick.length - 1] ?? 0];
  const size = (h: number) => measured(h, "size", system);
  return `${kind}, ${least === most ? size(least) : `${size(least)} to ${size(most)}`}`;
}

/** The floor that counts at each level: of several the first, from the lowest up; floors without a level do not. */
export function byLevel(overview: Overview): { level: string; elevation: number; card: Card | null }[] {
  return overview.levels.map((l) => ({
    level: l.id,
    elevation: l.elevation_m,
    card: overview.floors.find((f) => f.level === l.id && f.picture.slabs.length > 0) ?? null,
  }));
}

const STEPS: [number, string][] = [
  [60, "s"],
  [60, "min"],
  [24, "h"],
];

/** How long ago a moment was, in one short figure; `now` is a time in ms. */
export function ago(moment: string, now: number): string {
  const at = new Date(/Z|[+]\d\d:/.test(moment) ? moment : `${moment}Z`).getTime();
  let much = Math.max(0, (now - at) / 1000);
  for (const [most, unit] of STEPS) {
    if (much < most) return unit === "s" ? "just now" : `${Math.floor(much)} ${unit} ago`;
    much /= most;
  }
  return `${Math.floor(much)} d ago`;
}

/** The box about everything that the pictures of a building show, m: least x and y, width, height. One scale makes floors comparable. */
export function boxOf(cards: Card[]): [number, number, number, number] {
  const least = [Number.POSITIVE_INFINITY, Number.POSITIVE_INFINITY];
  const most = [Number.NEGATIVE_INFINITY, Number.NEGATIVE_INFINITY];
  for (const { picture } of cards)
    for (const [x = 0, y = 0] of [...picture.slabs.flat(), ...picture.walls.flat(), ...picture.columns]) {
      [least[0], least[1]] = [Math.min(least[0] as number, x), Math.min(least[1] as number, y)];
      [most[0], most[1]] = [Math.max(most[0] as number, x), Math.max(most[1] as number, y)];
    }
  const [left = 0, low = 0] = least;
  if (!Number.isFinite(left)) return [0, 0, 1, 1];
  return [left, low, Math.max((most[0] ?? 0) - left, 1e-3), Math.max((most[1] ?? 0) - low, 1e-3)];
}
