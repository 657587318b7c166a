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

/** The outline about all crossings of the grid, its edges `out` (m) beyond the outermost of them; null where no two lines cross. */
export function outlineOfGrid(document: FloorDocument, out: number): Point[] | null {
  const lines = (document.grid ?? []).map((g) => ends(g.line));
  const met = lines.flatMap((a, i) => lines.slice(i + 1).map((b) => crossing(...a, ...b))).filter((p) => p !== null);
  const hull = hullOf(met);
  if (hull.length < 3) return null;
  // Every edge moves out by itself; where two of them meet is a corner.
  const moved = hull.map((p, i): [Point, Point] => {
    const q = hull[(i + 1) % hull.length] as Point;
    const l = Math.hypot(q[0] - p[0], q[1] - p[1]);
    const [nx, ny] = [((q[1] - p[1]) / l) * out, ((p[0] - q[0]) / l) * out];
    return [
      [p[0] + nx, p[1] + ny],
      [q[0] + nx, q[1] + ny],
    ];
  });
  return moved.map(([a, b], i) => {
    const [c, d] = moved[(i + moved.length - 1) % moved.length] as [Point, Point];
    const [ux, uy, vx, vy] = [b[0] - a[0], b[1] - a[1], d[0] - c[0], d[1] - c[1]];
    const t = ((c[0] - a[0]) * vy - (c[1] - a[1]) * vx) / (ux * vy - uy * vx);
    return vertex(a[0] + t * ux, a[1] + t * uy) as Point;
  });
}

/** The convex hull of points, anticlockwise, without corners that are none (monotone chain, Andrew 1979). */
function hullOf(points: Point[]): Point[] {
  const sorted = [...points].sort((a, b) => a[0] - b[0] || a[1] - b[1]);
  const chain = (list: Point[]): Point[] => {
    const out: Point[] = [];
    for (const p of list) {
      for (let n = out.length; n >= 2; n--) {
        const [a, b] = [out[n - 2] as Point, out[n - 1] as Point];
        const turns = (b[0] - a[0]) * (p[1] - a[1]) - (b[1] - a[1]) * (p[0] - a[0]);
        if (turns > 1e-6) break;
        out.pop();
      }
      out.push(p);
    }
    return out.slice(0, -1);
  };
  return [...chain(sorted), ...chain(sorted.reverse())];
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
export const adding = (kind: "slabs" | "columns" | "thickenings" | "mats", items: Omit<Labelled, "id">[]) => ({
  change: (d: FloorDocument) => added(d, kind, items).document,
  picks: (d: FloorDocument) => added(d, kind, items).refs,
});
