import { saying } from "../api/client";
import { fetchOwn } from "../api/entry";
import type { components } from "../api/generated";
import { isKind, plural, singular } from "../kinds";
import { differenceText, thingOf } from "../kinds/differences";
import type { FloorDocument } from "../model/floor";
import type { System } from "../units/quantities";

export type ModelRead = components["schemas"]["ModelRead"];
export type Compared = components["schemas"]["ModelCompared"];
export type Piece = Compared["pieces"][number];

/** Sends a building model; what came of it, or what is wrong. */
export async function sendModel<T>(path: string, file: File): Promise<{ data?: T; problem: string }> {
  const answer = await fetchOwn(`${path}?${new URLSearchParams({ name: file.name })}`, {
    method: "POST",
    body: file,
  }).catch(() => null);
  if (!answer) return { problem: "The server does not answer; try again." };
  const data = await answer.json().catch(() => null);
  return answer.ok ? { data: data as T, problem: "" } : { problem: saying(data) };
}

/** How many of what was read, in words. */
export const countsTold = (counts: Record<string, number>): string =>
  Object.entries(counts)
    .filter(([, n]) => n > 0)
    .map(([kind, n]) => (isKind(kind) ? `${n} ${(n > 1 ? plural : singular)(kind).toLowerCase()}` : `${n} ${kind}`))
    .join(", ");

/** The key by which a piece is ticked. */
export const keyOf = (p: Piece) => `${p.level}\n${p.list}\n${p.id}`;

/** What happened to a piece, in words and the units of the project. */
export function pieceTold(p: Piece, document: FloorDocument, system: System): string {
  if (p.kind !== "changed") return `${thingOf(p.list, p.id)} is ${p.kind === "added" ? "new" : "gone"}`;
  const said = p.values.map(([path, before, after]) =>
    differenceText({ list: p.list, id: p.id, kind: "changed", path: String(path), before, after }, document, system),
  );
  const once = [...new Set(said)];
  return once.slice(0, 3).join("; ") + (once.length > 3 ? `; and ${once.length - 3} more` : "");
}
