import type { FloorDocument, Labelled, Vertex } from "../model/floor";
import { crossing, isInside, type Point, vertex } from "../model/outlines";
import { added } from "./edits";

/** How near (m) to a crossing a column already stands there. */
const THERE = 0.3;

/** A column called by its two lines: the lettered one first, as plans have it. */
function called(a: string, b: string): string {
  const [first, second] = /^\d/.test(a) && !/^\d/.test(b) ? [b, a] : [a, b];
  return /\d$/.test(first) && /^\d/.test(second) ? `${first}-${second}` : `${first}${second}`;
}

const ends = (line: Vertex[]): [Point, Point] => {
  const [[ax = 0, ay = 0], [bx = 0, by = 0]] = [line[0] ?? [], line[line.length - 1] ?? []];
  return [
    [ax, ay],
    [bx, by],
  ];
};

/** Columns for every crossing of some grid lines that lies on a slab, outside of openings, and where none stands; named by the lines. A floor
 * without slabs takes all crossings. */
export function columnsOnCrossings(
  document: FloorDocument,
  labels: string[],
  like: Omit<Labelled, "id">,
): Omit<Labelled, "id">[] {
  const lines = (document.grid ?? []).filter((g) => labels.includes(g.id));
  const onFloor = (p: Point) =>
    (!document.slabs.length || document.slabs.some((s) => isInside(p, s.outline))) &&
    !(document.openings ?? []).some((o) => isInside(p, o.outline));
  const out: Omit<Labelled, "id">[] = [];
  const taken = (document.columns ?? []).map((c) => c.at);
  lines.forEach((a, i) => {
    for (const b of lines.slice(i + 1)) {
      const at = crossing(...ends(a.line), ...ends(b.line));
      if (!at || !onFloor(at)) continue;
      if (taken.some(([x = 0, y = 0]) => Math.hypot(x - at[0], y - at[1]) < THERE)) continue;
      taken.push(at);
      out.push({ ...like, id: called(a.id, b.id), at: vertex(...at) } as Omit<Labelled, "id">);
    }
  });
  return out;
}

/** A rectangle about each column, turned with it: its plan `b` along and `d` across, m. */
export function centredOn(
  columns: Labelled[],
  b: number,
  d: number,
  like: Omit<Labelled, "id">,
): Omit<Labelled, "id">[] {
  return columns.map((c) => {
    const [x = 0, y = 0] = c.at as Vertex;
    const t = (((c.angle_deg as number | undefined) ?? 0) * Math.PI) / 180;
    const corner = (u: number, v: number) =>
      vertex(x + u * Math.cos(t) - v * Math.sin(t), y + u * Math.sin(t) + v * Math.cos(t));
    const outline = [corner(-b / 2, -d / 2), corner(b / 2, -d / 2), corner(b / 2, d / 2), corner(-b / 2, d / 2)];
    return { ...like, outline };
  });
}

/** A mat's likes in the faces and directions where no mat lies over the same ground yet. */
export function otherWays(document: FloorDocument, mat: Labelled): Omit<Labelled, "id">[] {
  const ground = JSON.stringify(mat.outline ?? null);
  const there = new Set(
    (document.mats ?? [])
      .filter((m) => JSON.stringify(m.outline ?? null) === ground)
      .map((m) => `${m.face} ${m.direction}`),
  );
  const { id: _id, layer: _layer, ...like } = mat;
  return (["bottom", "top"] as const).flatMap((face) =>
    (["x", "y"] as const)
      .filter((direction) => !there.has(`${face} ${direction}`))
      .map((direction) => ({ ...like, face, direction })),
  );
}

/** The edit that adds such objects. */
export const adding = (kind: "columns" | "thickenings" | "mats", items: Omit<Labelled, "id">[]) => ({
  change: (d: FloorDocument) => added(d, kind, items).document,
  picks: (d: FloorDocument) => added(d, kind, items).refs,
});
