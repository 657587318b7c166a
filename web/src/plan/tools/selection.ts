import { useDisplay } from "../../display/display";
import { kindOf, nameOf, ON_PLAN } from "../../kinds";
import { added, removed } from "../../kinds/edits";
import {
  type FloorDocument,
  itemOf,
  itemsOf,
  type Kind,
  type Labelled,
  type Ref,
  type Vertex,
} from "../../model/floor";
import { type Point, points } from "../../model/outlines";
import { columnOutline, wallOutline } from "../../model/shapes";
import { useSession } from "../../session";
import { useGesture } from "./gesture";

const CLIPBOARD = "piastra-clipboard";

export function everything(document: FloorDocument, hidden: Set<Kind>): Ref[] {
  // While loading, it is loads that are selected together: those of the active case, if there is one.
  if (useSession.getState().step === "load") {
    const active = useDisplay.getState().loadsOf;
    return (document.loads ?? []).filter((l) => !active || l.case === active).map((l) => ({ kind: "loads", id: l.id }));
  }
  if (useSession.getState().step === "tendons")
    return (document.tendons ?? []).map((t) => ({ kind: "tendons", id: t.id }));
  return ON_PLAN.filter((k) => !hidden.has(k) && !kindOf(k).drawn).flatMap((kind) =>
    itemsOf(document, kind).map((i) => ({ kind, id: i.id })),
  );
}

function outline(kind: Kind, item: Labelled): Point[] {
  if (kind === "columns") return columnOutline(item as never);
  if (kind === "walls" || kind === "beams")
    return wallOutline(item.line as Vertex[], (item.thickness_m ?? item.width_m) as number);
  if (item.outline) return points(item.outline as Vertex[]);
  if (item.line) return points(item.line as Vertex[], false);
  return item.at ? [[(item.at as Vertex)[0] ?? 0, (item.at as Vertex)[1] ?? 0]] : [];
}

/** Objects that lie wholly in a window, or that it touches (by a corner) if `touching`. */
export function inWindow(
  document: FloorDocument,
  hidden: Set<Kind>,
  w: { x0: number; y0: number; x1: number; y1: number },
  touching: boolean,
): Ref[] {
  const [x0, x1] = [Math.min(w.x0, w.x1), Math.max(w.x0, w.x1)];
  const [y0, y1] = [Math.min(w.y0, w.y1), Math.max(w.y0, w.y1)];
  const inside = ([x, y]: Point) => x >= x0 && x <= x1 && y >= y0 && y <= y1;
  return everything(document, hidden).filter((ref) => {
    const list = outline(ref.kind, itemOf(document, ref) as Labelled);
    return list.length > 0 && (touching ? list.some(inside) : list.every(inside));
  });
}

export async function deleteSelected(): Promise<void> {
  const { chosen, edit } = useSession.getState();
  const refs = chosen.filter((r) => ON_PLAN.includes(r.kind) || r.kind === "combinations" || r.kind === "load_cases");
  if (!refs.length) return;
  await edit({ line: `${nameOf(refs)} deleted`, change: (d) => removed(d, refs), picks: [] });
}

export function copySelected(): void {
  const { chosen, document, floor, say } = useSession.getState();
  if (!document || !floor || !chosen.length) return;
  const items = chosen.map((ref) => ({ kind: ref.kind, item: itemOf(document, ref) }));
  localStorage.setItem(CLIPBOARD, JSON.stringify({ floor: floor.id, items }));
  say(`${nameOf(chosen)} on the clipboard`);
}

/** Puts the clipboard onto another floor in the same place; on the floor it came from, a copy is placed by pointing. */
export async function paste(): Promise<void> {
  const session = useSession.getState();
  const kept = localStorage.getItem(CLIPBOARD);
  if (!kept || !session.document || !session.floor) return;
  const { floor, items } = JSON.parse(kept) as { floor: number; items: { kind: Kind; item: Labelled }[] };
  if (floor === session.floor.id) {
    const here = items
      .map((i) => ({ kind: i.kind, id: i.item.id }))
      .filter((r) => itemOf(session.document as FloorDocument, r));
    session.choose(here);
    useGesture.getState().begin("copy");
    return;
  }
  let made = session.document;
  const refs: Ref[] = [];
  for (const { kind, item } of items) {
    const step = added(made, kind, [fitting(item, made)]);
    made = step.document;
    refs.push(...step.refs);
  }
  const after = made;
  await session.edit({ line: `${nameOf(refs)} pasted`, change: () => after, picks: refs });
}

/** An object from elsewhere with materials and cases that this floor has. */
function fitting(item: Labelled, document: FloorDocument): Labelled {
  const out = { ...item };
  const known = (list: Labelled[] | undefined, id: unknown) => (list ?? []).some((m) => m.id === id);
  if (out.concrete && !known(document.concretes, out.concrete)) out.concrete = document.concretes[0]?.id;
  if (out.rebar && !known(document.rebars, out.rebar)) out.rebar = document.rebars[0]?.id;
  if (out.case && !known(document.load_cases, out.case)) out.case = document.load_cases?.[0]?.id;
  return out;
}
