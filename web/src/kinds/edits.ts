import {
  type FloorDocument,
  itemOf,
  itemsOf,
  type Kind,
  type Labelled,
  type Ref,
  type Varies,
  type Vertex,
} from "../model/floor";
import { withCombination, withoutCombinations } from "../model/history";
import { type Point, vertex } from "../model/outlines";
import { fitted } from "../model/tendons";
import { kindOf } from ".";

/** Columns, walls and supports share their labels: a reaction is reported by the label alone. */
const SHARING: Kind[] = ["columns", "walls", "supports"];

/** What presses on the floor or holds it on a small area: its zones have settings under its label. */
const PRESSING: Kind[] = ["columns", "walls", "supports", "loads"];

function labels(document: FloorDocument, kind: Kind): Set<string> {
  const kinds = SHARING.includes(kind) ? SHARING : [kind];
  return new Set(kinds.flatMap((k) => itemsOf(document, k).map((i) => i.id)));
}

/** The document with new objects, each under the label it has if that is free, or the next number. */
export function added(
  document: FloorDocument,
  kind: Kind,
  items: Omit<Labelled, "id">[],
): { document: FloorDocument; refs: Ref[] } {
  const taken = labels(document, kind);
  const made = items.map((item) => {
    const wanted = (item as { id?: string }).id;
    let id = wanted && !taken.has(wanted) ? wanted : "";
    const stem = wanted ? wanted.replace(/\d+$/, "") : kindOf(kind).prefix;
    for (let n = 1; !id; n++) if (!taken.has(`${stem}${n}`)) id = `${stem}${n}`;
    taken.add(id);
    return { ...item, id } as Labelled;
  });
  return {
    document: { ...document, [kind]: [...itemsOf(document, kind), ...made] },
    refs: made.map((m) => ({ kind, id: m.id })),
  };
}

const keyOf = (ref: Ref) => `${ref.kind}\n${ref.id}`;

export function removed(document: FloorDocument, refs: Ref[]): FloorDocument {
  const gone = new Set(refs.map(keyOf));
  const out = { ...document };
  for (const kind of new Set(refs.map((r) => r.kind)))
    out[kind] = itemsOf(document, kind).filter((i) => !gone.has(keyOf({ kind, id: i.id }))) as never;
  // What is fixed for the zones of something goes with it.
  const lost = new Set(refs.filter((r) => PRESSING.includes(r.kind)).map((r) => r.id));
  if (lost.size && document.zone_settings) {
    const left = new Set(PRESSING.flatMap((k) => itemsOf(out, k).map((i) => i.id)));
    out.zone_settings = document.zone_settings.filter((s) => !lost.has(s.zone) || left.has(s.zone));
  }
  const combinations = new Set(refs.filter((r) => r.kind === "combinations").map((r) => r.id));
  return combinations.size ? withoutCombinations(out, combinations) : out;
}

/** A tendon's profile is as long as its line. */
const tidied = (kind: Kind, item: Labelled) => (kind === "tendons" ? fitted(item) : item);

/** The document with the picked objects replaced. */
export function mapped(
  document: FloorDocument,
  refs: Ref[],
  change: (item: Labelled, kind: Kind) => Labelled,
): FloorDocument {
  const picked = new Set(refs.map(keyOf));
  const out = { ...document };
  for (const kind of new Set(refs.map((r) => r.kind)))
    out[kind] = itemsOf(document, kind).map((i) =>
      picked.has(keyOf({ kind, id: i.id })) ? tidied(kind, change(i, kind)) : i,
    ) as never;
  return out;
}

/** The document with an object under a new label, and everything that names it. */
export function relabelled(document: FloorDocument, ref: Ref, id: string): FloorDocument {
  let out = mapped(document, [ref], (item) => ({ ...item, id }));
  for (const [kind, key] of kindOf(ref.kind).namedBy ?? [])
    out = {
      ...out,
      [kind]: itemsOf(out, kind).map((i) => (i[key] === ref.id ? { ...i, [key]: id } : i)),
    };
  if (ref.kind === "slabs")
    out.loads = (out.loads ?? []).map((l) =>
      l.kind === "area" && l.slabs?.includes(ref.id)
        ? { ...l, slabs: l.slabs.map((s) => (s === ref.id ? id : s)) as [string, ...string[]] }
        : l,
    );
  if (PRESSING.includes(ref.kind) && out.zone_settings)
    out.zone_settings = out.zone_settings.map((s) => (s.zone === ref.id ? { ...s, zone: id } : s));
  if (ref.kind === "combinations") out = withCombination(out, ref.id, id);
  if (ref.kind === "load_cases")
    out.combinations = (out.combinations ?? []).map((c) => ({
      ...c,
      factors: Object.fromEntries(Object.entries(c.factors).map(([k, f]) => [k === ref.id ? id : k, f])),
    }));
  return out;
}

/** A motion of the plan: a turn (and a reflection about the x axis before it) about the origin, then a shift. */
export type Motion = { angle: number; flip: boolean; dx: number; dy: number };

export const shift = (dx: number, dy: number): Motion => ({ angle: 0, flip: false, dx, dy });

/** Turns by an angle (rad) about a point. */
export function turn([cx, cy]: Point, angle: number): Motion {
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  return { angle, flip: false, dx: cx - (c * cx - s * cy), dy: cy - (s * cx + c * cy) };
}

/** Reflects in the line through two points. */
export function mirror([ax, ay]: Point, [bx, by]: Point): Motion {
  const angle = 2 * Math.atan2(by - ay, bx - ax);
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  return { angle, flip: true, dx: ax - (c * ax + s * ay), dy: ay - (s * ax - c * ay) };
}

/** Brings one point onto another and the direction to a second one onto that to a fourth, without stretching. */
export function align(from: Point, to: Point, from2: Point, to2: Point): Motion {
  const angle = Math.atan2(to2[1] - to[1], to2[0] - to[0]) - Math.atan2(from2[1] - from[1], from2[0] - from[0]);
  const turned = turn([0, 0], angle);
  const [x, y] = movedPoint(from, turned);
  return { ...turned, dx: to[0] - x, dy: to[1] - y };
}

export function movedPoint([x = 0, y = 0]: Vertex, m: Motion): Point {
  const [c, s] = [Math.cos(m.angle), Math.sin(m.angle)];
  const v = m.flip ? -y : y;
  return [c * x - s * v + m.dx, s * x + c * v + m.dy];
}

function movedVertex(v: Vertex, m: Motion): Vertex {
  const [x, y] = movedPoint(v, m);
  const bulge = v[2] ?? 0;
  return vertex(x, y, m.flip ? -bulge : bulge);
}

const DIRECTIONS = ["angle_deg", "bar_angle_deg"];

/** An object after a motion of the plan, its directions and moments included. */
export function moved(item: Labelled, m: Motion): Labelled {
  const out: Labelled = { ...item };
  if (Array.isArray(item.at)) out.at = vertex(...movedPoint(item.at as Vertex, m));
  for (const key of ["outline", "line"])
    if (Array.isArray(item[key])) out[key] = (item[key] as Vertex[]).map((v) => movedVertex(v, m));
  const varies = item.varies as Varies | null | undefined;
  if (varies)
    out.varies =
      varies.kind === "direction"
        ? { ...varies, line: varies.line.map((v) => movedVertex(v, m)) }
        : { ...varies, points: varies.points.map((v) => movedVertex(v, m)) };
  const degrees = (m.angle * 180) / Math.PI;
  if (Math.abs(degrees) > 1e-9 || m.flip) {
    const turns = "shape" in item || "angle_deg" in item ? ["angle_deg"] : [];
    for (const key of DIRECTIONS)
      if (key in item || turns.includes(key)) {
        const was = (item[key] as number | undefined) ?? 0;
        const now = ((((m.flip ? -was : was) + degrees) % 360) + 360) % 360;
        out[key] = Number((now > 180 ? now - 360 : now).toFixed(9)) + 0;
      }
    const patch = item.patch as { angle_deg?: number } | null | undefined;
    if (patch) out.patch = { ...patch, angle_deg: (m.flip ? -1 : 1) * (patch.angle_deg ?? 0) + degrees };
    if ("Mx_kNm" in item || "My_kNm" in item) {
      const [c, s] = [Math.cos(m.angle), Math.sin(m.angle)];
      // A moment is an axial vector: a reflection turns it against the point's own.
      const [mx, my] = [(item.Mx_kNm as number) ?? 0, (item.My_kNm as number) ?? 0];
      const [ux, uy] = m.flip ? [-mx, my] : [mx, my];
      out.Mx_kNm = Number((c * ux - s * uy).toFixed(9)) + 0;
      out.My_kNm = Number((s * ux + c * uy).toFixed(9)) + 0;
    }
  }
  return out;
}

/** The document with copies of objects under each of the motions. */
export function copied(
  document: FloorDocument,
  refs: Ref[],
  motions: Motion[],
): { document: FloorDocument; refs: Ref[] } {
  let out = document;
  const made: Ref[] = [];
  for (const m of motions)
    for (const ref of refs) {
      const item = itemOf(document, ref);
      if (!item) continue;
      const step = added(out, ref.kind, [moved(item, m)]);
      out = step.document;
      made.push(...step.refs);
    }
  return { document: out, refs: made };
}

/** Objects whose properties equal those of one object, places and labels aside. */
export function alike(document: FloorDocument, ref: Ref): Ref[] {
  const own = itemOf(document, ref);
  const essence = (item: Labelled | undefined) => {
    const { id: _id, at: _at, outline: _outline, line: _line, ...rest } = item ?? { id: "" };
    return JSON.stringify(Object.entries(rest).sort(([a], [b]) => a.localeCompare(b)));
  };
  return itemsOf(document, ref.kind)
    .filter((i) => essence(i) === essence(own))
    .map((i) => ({ kind: ref.kind, id: i.id }));
}
