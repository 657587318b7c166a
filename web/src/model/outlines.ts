import type { Vertex } from "./floor";

export type Point = [number, number];

/** The circle of an edge with a bulge. */
export function arcOf(a: Vertex, b: Vertex, bulge: number) {
  const [ax = 0, ay = 0] = a;
  const [bx = 0, by = 0] = b;
  const offset = (1 - bulge * bulge) / (4 * bulge);
  const cx = (ax + bx) / 2 - (by - ay) * offset;
  const cy = (ay + by) / 2 + (bx - ax) * offset;
  return {
    cx,
    cy,
    radius: Math.hypot(ax - cx, ay - cy),
    start: Math.atan2(ay - cy, ax - cx),
    sweep: 4 * Math.atan(bulge),
  };
}

/** The bulge of an arc from a to b through a third point. */
export function bulgeThrough(a: Vertex, b: Vertex, via: Vertex): number {
  const [ax = 0, ay = 0] = a;
  const [bx = 0, by = 0] = b;
  const [px = 0, py = 0] = via;
  // The angle at `via` between the chords to both ends is half of what the arc leaves of the circle.
  const angle = Math.atan2(
    (ax - px) * (by - py) - (ay - py) * (bx - px),
    (ax - px) * (bx - px) + (ay - py) * (by - py),
  );
  const half = (angle > 0 ? angle - Math.PI : angle + Math.PI) / 2;
  return Math.abs(half) < 1e-9 ? 0 : Math.tan(half);
}

/** Points along vertices, arcs as chords (the bulge is the tangent of a quarter of the arc's angle). */
export function points(vertices: Vertex[], closed = true): Point[] {
  const out: Point[] = [];
  const last = closed ? vertices.length : vertices.length - 1;
  for (let i = 0; i < last; i++) {
    const a = vertices[i] as Vertex;
    const b = vertices[(i + 1) % vertices.length] as Vertex;
    const [ax = 0, ay = 0, bulge = 0] = a;
    out.push([ax, ay]);
    if (!bulge) continue;
    const { cx, cy, radius, start, sweep } = arcOf(a, b, bulge);
    const count = Math.max(12, Math.ceil(Math.abs(sweep) * 28));
    for (let k = 1; k < count; k++) {
      const t = start + (sweep * k) / count;
      out.push([cx + radius * Math.cos(t), cy + radius * Math.sin(t)]);
    }
  }
  if (!closed && vertices.length) {
    const [x = 0, y = 0] = vertices[vertices.length - 1] as Vertex;
    out.push([x, y]);
  }
  return out;
}

export function areaOf(outline: Vertex[]): number {
  const list = points(outline);
  let twice = 0;
  list.forEach(([x, y], i) => {
    const [u, v] = list[(i + 1) % list.length] as Point;
    twice += x * v - u * y;
  });
  return Math.abs(twice) / 2;
}

export function lengthOf(line: Vertex[]): number {
  const list = points(line, false);
  return list
    .slice(1)
    .reduce((t, [x, y], i) => t + Math.hypot(x - (list[i] as Point)[0], y - (list[i] as Point)[1]), 0);
}

export function isInside([x, y]: Point, outline: Vertex[]): boolean {
  const list = points(outline);
  let inside = false;
  for (let i = 0, j = list.length - 1; i < list.length; j = i++) {
    const [ax, ay] = list[i] as Point;
    const [bx, by] = list[j] as Point;
    if (ay > y !== by > y && x < ((bx - ax) * (y - ay)) / (by - ay) + ax) inside = !inside;
  }
  return inside;
}

/** Signed twice-area's sign: whether the outline runs anticlockwise. */
export function isAnticlockwise(outline: Vertex[]): boolean {
  const list = points(outline);
  let twice = 0;
  list.forEach(([x, y], i) => {
    const [u, v] = list[(i + 1) % list.length] as Point;
    twice += x * v - u * y;
  });
  return twice > 0;
}

const tidy = (v: number) => Number(v.toFixed(9)) + 0;
export const vertex = (x: number, y: number, bulge = 0): Vertex =>
  bulge ? [tidy(x), tidy(y), bulge] : [tidy(x), tidy(y)];

/** A corner in the middle of an edge; an arc becomes two arcs of the same circle. */
export function withCorner(outline: Vertex[], edge: number, at?: Point): Vertex[] {
  const a = outline[edge] as Vertex;
  const b = outline[(edge + 1) % outline.length] as Vertex;
  const bulge = a[2] ?? 0;
  const out = outline.map((v) => [...v]);
  if (!bulge) {
    const [x, y] = at ?? [((a[0] ?? 0) + (b[0] ?? 0)) / 2, ((a[1] ?? 0) + (b[1] ?? 0)) / 2];
    out.splice(edge + 1, 0, vertex(x, y));
    return out;
  }
  const arc = arcOf(a, b, bulge);
  const half = Math.tan(arc.sweep / 8);
  const t = arc.start + arc.sweep / 2;
  out[edge] = vertex(a[0] as number, a[1] as number, half);
  out.splice(edge + 1, 0, vertex(arc.cx + arc.radius * Math.cos(t), arc.cy + arc.radius * Math.sin(t), half));
  return out;
}

export function withoutCorner(outline: Vertex[], index: number): Vertex[] {
  return outline.filter((_, i) => i !== index);
}

export function withMovedCorner(outline: Vertex[], index: number, [x, y]: Point): Vertex[] {
  return outline.map((v, i) => (i === index ? vertex(x, y, v[2] ?? 0) : v));
}

/** The outline with one straight edge moved outwards (m; inwards if negative), its neighbours lengthened along themselves. */
export function withMovedEdge(outline: Vertex[], edge: number, distance: number): Vertex[] | string {
  const n = outline.length;
  const at = (i: number) => outline[(i + n) % n] as Vertex;
  if (at(edge)[2] || at(edge - 1)[2] || at(edge + 1)[2])
    return "The edge or one beside it is an arc; move its corners instead.";
  const side = isAnticlockwise(outline) ? 1 : -1;
  const [a, b] = [at(edge), at(edge + 1)] as [Vertex, Vertex];
  const [dx, dy] = [(b[0] ?? 0) - (a[0] ?? 0), (b[1] ?? 0) - (a[1] ?? 0)];
  const l = Math.hypot(dx, dy);
  const [ox, oy] = [(dy / l) * distance * side, (-dx / l) * distance * side];
  const slide = (from: Vertex, corner: Vertex): Vertex => {
    const [ux, uy] = [(corner[0] ?? 0) - (from[0] ?? 0), (corner[1] ?? 0) - (from[1] ?? 0)];
    const across = ux * dy - uy * dx;
    // Along a neighbour that runs nearly the same way the corner would fly off: it moves square instead.
    if (Math.abs(across) < 1e-3 * Math.hypot(ux, uy) * l) return vertex((corner[0] ?? 0) + ox, (corner[1] ?? 0) + oy);
    const t = (ox * dy - oy * dx) / across;
    return vertex((corner[0] ?? 0) + ux * t, (corner[1] ?? 0) + uy * t);
  };
  const out = outline.map((v) => [...v]);
  out[edge] = slide(at(edge - 1), a);
  out[(edge + 1) % n] = slide(at(edge + 2), b);
  return out;
}

/** The outline with a stretch of one straight edge, between two points on it, standing out by a distance (m). */
export function withCantilever(outline: Vertex[], from: Point, to: Point, distance: number): Vertex[] | string {
  const n = outline.length;
  for (let i = 0; i < n; i++) {
    const a = outline[i] as Vertex;
    const b = outline[(i + 1) % n] as Vertex;
    if (a[2]) continue;
    const [ax = 0, ay = 0] = a;
    const [dx, dy] = [(b[0] ?? 0) - ax, (b[1] ?? 0) - ay];
    const l = Math.hypot(dx, dy);
    const along = ([x, y]: Point) => ((x - ax) * dx + (y - ay) * dy) / l;
    const aside = ([x, y]: Point) => Math.abs((x - ax) * dy - (y - ay) * dx) / l;
    if (aside(from) > 1e-3 || aside(to) > 1e-3) continue;
    const [s, t] = [along(from), along(to)].sort((p, q) => p - q) as [number, number];
    if (s < -1e-3 || t > l + 1e-3 || t - s < 1e-3) continue;
    const side = isAnticlockwise(outline) ? 1 : -1;
    const [nx, ny] = [(dy / l) * side * distance, (-dx / l) * side * distance];
    const on = (d: number): Point => [ax + (dx * d) / l, ay + (dy * d) / l];
    const bump = [on(s), [on(s)[0] + nx, on(s)[1] + ny], [on(t)[0] + nx, on(t)[1] + ny], on(t)] as Point[];
    const out = outline.map((v) => [...v]);
    const inner = bump.filter(
      ([x, y]) => Math.hypot(x - ax, y - ay) > 1e-3 && Math.hypot(x - (b[0] ?? 0), y - (b[1] ?? 0)) > 1e-3,
    );
    out.splice(i + 1, 0, ...inner.map(([x, y]) => vertex(x, y)));
    return out;
  }
  return "The two points do not lie on one straight edge.";
}

/** Corners of a rectangle between two opposite ones. */
export function rectangle([ax, ay]: Point, [bx, by]: Point): Vertex[] {
  return [vertex(ax, ay), vertex(bx, ay), vertex(bx, by), vertex(ax, by)];
}

/** A circle about a centre as two half-circle arcs. */
export function circle([cx, cy]: Point, radius: number): Vertex[] {
  return [vertex(cx - radius, cy, 1), vertex(cx + radius, cy, 1)];
}

/** The bay of the setting-out lines around a point: the four lines of two directions that enclose it. */
export function bayAround([x, y]: Point, lines: Vertex[][]): Vertex[] | null {
  type Line = { nx: number; ny: number; c: number; angle: number };
  const all: Line[] = lines.map(([a = [], b = []]) => {
    const [dx, dy] = [(b[0] ?? 0) - (a[0] ?? 0), (b[1] ?? 0) - (a[1] ?? 0)];
    const l = Math.hypot(dx, dy) || 1;
    const angle = ((Math.atan2(dy, dx) % Math.PI) + Math.PI) % Math.PI;
    const [nx, ny] = [-Math.sin(angle), Math.cos(angle)];
    return { nx, ny, c: l ? nx * (a[0] ?? 0) + ny * (a[1] ?? 0) : 0, angle };
  });
  const families: Line[][] = [];
  for (const l of all) {
    const mine = families.find(([f]) => {
      const gap = Math.abs((f as Line).angle - l.angle);
      return Math.min(gap, Math.PI - gap) < 0.02;
    });
    if (mine) mine.push(l);
    else families.push([l]);
  }
  const pairs = families
    .map((family) => {
      const off = family
        .map((l) => ({ l, d: l.nx * x + l.ny * y - l.c }))
        .sort((p, q) => Math.abs(p.d) - Math.abs(q.d));
      const left = off.find((o) => o.d > 0);
      const right = off.find((o) => o.d <= 0);
      return left && right ? ([left.l, right.l] as [Line, Line]) : null;
    })
    .filter((p) => p !== null)
    .slice(0, 2);
  if (pairs.length < 2) return null;
  const [[a, b], [c, d]] = pairs as [[Line, Line], [Line, Line]];
  const meet = (p: Line, q: Line): Vertex => {
    const det = p.nx * q.ny - p.ny * q.nx;
    return vertex((p.c * q.ny - q.c * p.ny) / det, (p.nx * q.c - q.nx * p.c) / det);
  };
  const out = [meet(a, c), meet(a, d), meet(b, d), meet(b, c)];
  return isAnticlockwise(out) ? out : out.reverse();
}

/** Where two segments cross, or null. */
export function crossing(a: Point, b: Point, c: Point, d: Point): Point | null {
  const [ux, uy, vx, vy] = [b[0] - a[0], b[1] - a[1], d[0] - c[0], d[1] - c[1]];
  const det = ux * vy - uy * vx;
  if (Math.abs(det) < 1e-9) return null;
  const t = ((c[0] - a[0]) * vy - (c[1] - a[1]) * vx) / det;
  const s = ((c[0] - a[0]) * uy - (c[1] - a[1]) * ux) / det;
  return t < -1e-9 || t > 1 + 1e-9 || s < -1e-9 || s > 1 + 1e-9 ? null : [a[0] + t * ux, a[1] + t * uy];
}
