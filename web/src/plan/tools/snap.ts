import { ON_PLAN, singular } from "../../kinds";
import { type FloorDocument, itemsOf, type Kind, type Vertex } from "../../model/floor";
import { arcOf, crossing, type Point } from "../../model/outlines";
import { columnOutline } from "../../model/shapes";

export type SnapKind =
  | "corner"
  | "crossing"
  | "middle"
  | "centre"
  | "square to"
  | "edge"
  | "grid line"
  | "drawing"
  | "in line with"
  | "straight onto"
  | "straight";
export type Snap = {
  x: number;
  y: number;
  kind: SnapKind | null;
  from?: Point;
  /** What it is in line with. */
  of?: string;
};
export type Segment = { a: Point; b: Point; kind: "edge" | "grid line" | "drawing" };

/** Lower comes first where several lie within reach. */
const RANK: Record<SnapKind, number> = {
  corner: 0,
  crossing: 0,
  centre: 1,
  middle: 2,
  "square to": 3,
  "straight onto": 4,
  edge: 5,
  "grid line": 5,
  drawing: 5,
  "in line with": 6,
  straight: 7,
};

/** `slab S1` in the middle of a sentence. */
const inWords = (kind: Kind, id: string) => `${singular(kind).toLowerCase()} ${id}`;

const CELL = 2;

/** Everything on the plan that a point can be drawn to, found by place. */
export class SnapIndex {
  private spots = new Map<string, { x: number; y: number; kind: SnapKind }[]>();
  private segments = new Map<string, Segment[]>();
  readonly corners: { at: Point; of: string }[] = [];
  readonly gridLines: [Point, Point][] = [];

  constructor(document: FloorDocument, hidden: Set<Kind>, drawing: Point[][] = []) {
    for (const kind of ON_PLAN) {
      if (hidden.has(kind) || kind === "loads" || kind === "mats") continue;
      for (const item of itemsOf(document, kind)) {
        const name = inWords(kind, item.id);
        if (item.outline) this.addLine(item.outline as Vertex[], true, name);
        if (item.line) this.addLine(item.line as Vertex[], false, name);
        if (item.at) this.spot(item.at as Vertex, "centre");
      }
    }
    for (const column of hidden.has("columns") ? [] : (document.columns ?? []))
      if (column.shape.kind === "rectangle") this.addLine(columnOutline(column), true, inWords("columns", column.id));
    for (const g of hidden.has("grid") ? [] : (document.grid ?? [])) {
      const [a, b] = g.line as [Point, Point];
      this.gridLines.push([a, b]);
      this.segment({ a, b, kind: "grid line" });
    }
    this.gridLines.forEach(([a, b], i) => {
      for (const [c, d] of this.gridLines.slice(i + 1)) {
        const p = crossing(a, b, c, d);
        if (p) this.spot(p, "crossing");
      }
    });
    for (const line of drawing)
      for (let i = 1; i < line.length; i++) {
        const [a, b] = [line[i - 1] as Point, line[i] as Point];
        this.segment({ a, b, kind: "drawing" });
        this.spot(a, "corner");
        this.spot(b, "corner");
      }
  }

  /** `of` names what a corner belongs to, for other places to be in line with it. */
  private spot([x = 0, y = 0]: Vertex, kind: SnapKind, of?: string) {
    const key = `${Math.floor(x / CELL)},${Math.floor(y / CELL)}`;
    const list = this.spots.get(key);
    if (list) list.push({ x, y, kind });
    else this.spots.set(key, [{ x, y, kind }]);
    if (of) this.corners.push({ at: [x, y], of });
  }

  private segment(s: Segment) {
    const steps = Math.max(1, Math.ceil(Math.hypot(s.b[0] - s.a[0], s.b[1] - s.a[1]) / (CELL / 2)));
    const seen = new Set<string>();
    for (let k = 0; k <= steps; k++) {
      const key = `${Math.floor((s.a[0] + ((s.b[0] - s.a[0]) * k) / steps) / CELL)},${Math.floor((s.a[1] + ((s.b[1] - s.a[1]) * k) / steps) / CELL)}`;
      if (seen.has(key)) continue;
      seen.add(key);
      const list = this.segments.get(key);
      if (list) list.push(s);
      else this.segments.set(key, [s]);
    }
  }

  private addLine(vertices: Vertex[], closed: boolean, of: string) {
    vertices.forEach((a, i) => {
      this.spot(a, "corner", of);
      if (!closed && i === vertices.length - 1) return;
      const b = vertices[(i + 1) % vertices.length] as Vertex;
      const bulge = a[2] ?? 0;
      if (!bulge) {
        this.spot([((a[0] ?? 0) + (b[0] ?? 0)) / 2, ((a[1] ?? 0) + (b[1] ?? 0)) / 2], "middle");
        this.segment({ a: [a[0] ?? 0, a[1] ?? 0], b: [b[0] ?? 0, b[1] ?? 0], kind: "edge" });
        return;
      }
      const arc = arcOf(a, b, bulge);
      this.spot([arc.cx, arc.cy], "centre");
      const at = (f: number): Point => [
        arc.cx + arc.radius * Math.cos(arc.start + arc.sweep * f),
        arc.cy + arc.radius * Math.sin(arc.start + arc.sweep * f),
      ];
      this.spot(at(0.5), "middle");
      for (let k = 0; k < 24; k++) this.segment({ a: at(k / 24), b: at((k + 1) / 24), kind: "edge" });
    });
  }

  private *near<T>(map: Map<string, T[]>, x: number, y: number, reach: number): Iterable<T> {
    for (let i = Math.floor((x - reach) / CELL); i <= Math.floor((x + reach) / CELL); i++)
      for (let j = Math.floor((y - reach) / CELL); j <= Math.floor((y + reach) / CELL); j++)
        yield* map.get(`${i},${j}`) ?? [];
  }

  /** The place that a pointer at x, y means: the best of what lies within reach (m), seen from the last point drawn. */
  find(x: number, y: number, reach: number, last: Point | null): Snap {
    const candidates: (Snap & { kind: SnapKind; off: number })[] = [];
    const offer = (px: number, py: number, kind: SnapKind, from?: Point) => {
      const off = Math.hypot(px - x, py - y);
      if (off <= reach) candidates.push({ x: px, y: py, kind, off, from });
    };
    for (const s of this.near(this.spots, x, y, reach)) offer(s.x, s.y, s.kind);
    const close: Segment[] = [];
    for (const s of new Set(this.near(this.segments, x, y, reach))) {
      const foot = footOf([x, y], s.a, s.b);
      if (!foot) continue;
      if (Math.hypot(foot[0] - x, foot[1] - y) <= reach) close.push(s);
      offer(foot[0], foot[1], s.kind);
      if (last) {
        const square = footOf(last, s.a, s.b);
        if (square && Math.hypot(square[0] - last[0], square[1] - last[1]) > 1e-6)
          offer(square[0], square[1], "square to", last);
      }
    }
    close.forEach((s, i) => {
      for (const t of close.slice(i + 1)) {
        const p = crossing(s.a, s.b, t.a, t.b);
        if (p) offer(p[0], p[1], "crossing");
      }
    });
    if (last) {
      const [dx, dy] = [x - last[0], y - last[1]];
      const l = Math.hypot(dx, dy);
      const angle = Math.round(Math.atan2(dy, dx) / (Math.PI / 4)) * (Math.PI / 4);
      if (l > 3 * reach) {
        const along = dx * Math.cos(angle) + dy * Math.sin(angle);
        const px = last[0] + along * Math.cos(angle);
        const py = last[1] + along * Math.sin(angle);
        offer(px, py, "straight", last);
        // Where the straight way from the last point meets a line near the pointer.
        for (const s of close) {
          const p = crossing(last, [last[0] + 1e4 * Math.cos(angle), last[1] + 1e4 * Math.sin(angle)], s.a, s.b);
          if (p) offer(p[0], p[1], "straight onto", last);
        }
      }
    }
    if (!candidates.length) {
      // In line with a corner, across or up the sheet.
      let best: Snap | null = null;
      let off = reach * 0.6;
      for (const {
        at: [cx, cy],
        of,
      } of this.corners) {
        if (Math.abs(cy - y) < off && Math.abs(cx - x) < 12) {
          off = Math.abs(cy - y);
          best = { x, y: cy, kind: "in line with", from: [cx, cy], of };
        }
        if (Math.abs(cx - x) < off && Math.abs(cy - y) < 12) {
          off = Math.abs(cx - x);
          best = { x: cx, y, kind: "in line with", from: [cx, cy], of };
        }
      }
      if (best) return best;
    }
    candidates.sort((p, q) => RANK[p.kind] - RANK[q.kind] || p.off - q.off);
    return candidates[0] ?? { x, y, kind: null };
  }
}

/** Foot of the perpendicular from a point on a segment, or null beside it. */
export function footOf([x, y]: Point, a: Point, b: Point): Point | null {
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
  const l2 = dx * dx + dy * dy;
  if (l2 < 1e-12) return null;
  const t = ((x - a[0]) * dx + (y - a[1]) * dy) / l2;
  return t < -1e-9 || t > 1 + 1e-9 ? null : [a[0] + t * dx, a[1] + t * dy];
}
