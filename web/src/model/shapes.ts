import type { Column, Vertex } from "../model/floor";
import { type Point, points } from "../model/outlines";

export { points } from "../model/outlines";

export function path(list: [number, number][], close = true): string {
  return list.length ? `M${list.map(([x, y]) => `${x.toFixed(4)} ${y.toFixed(4)}`).join("L")}${close ? "Z" : ""}` : "";
}

export function columnOutline(column: Column): [number, number][] {
  const [x = 0, y = 0] = column.at;
  const shape = column.shape;
  if (shape.kind === "circle") {
    const r = shape.diameter_m / 2;
    return Array.from({ length: 24 }, (_, k) => {
      const t = (2 * Math.PI * k) / 24;
      return [x + r * Math.cos(t), y + r * Math.sin(t)];
    });
  }
  const t = ((column.angle_deg ?? 0) * Math.PI) / 180;
  const [c, s] = [Math.cos(t), Math.sin(t)];
  const [b, d] = [shape.b_m / 2, shape.d_m / 2];
  return [
    [-b, -d],
    [b, -d],
    [b, d],
    [-b, d],
  ].map(([p = 0, q = 0]) => [x + p * c - q * s, y + p * s + q * c]);
}

/** The outline of a line with a width (walls, beams): both sides offset by half of it, corners mitred. */
export function wallOutline(line: Vertex[], width: number): [number, number][] {
  const list = points(line, false);
  const side = (sign: number): Point[] =>
    list.map(([x, y], i) => {
      const before = list[i - 1];
      const after = list[i + 1];
      const way = (p: Point, q: Point): Point => {
        const l = Math.hypot(q[0] - p[0], q[1] - p[1]) || 1;
        return [(q[0] - p[0]) / l, (q[1] - p[1]) / l];
      };
      const u = before ? way(before, [x, y]) : way([x, y], after as Point);
      const v = after ? way([x, y], after) : u;
      const [nx, ny] = [-(u[1] + v[1]), u[0] + v[0]];
      const l2 = nx * nx + ny * ny || 1;
      // The mitre reaches as far out as both sides' offsets meet.
      const reach = ((sign * width) / 2) * (2 / l2);
      return [x + nx * reach, y + ny * reach];
    });
  return [...side(1), ...side(-1).reverse()];
}

export type Box = { x0: number; y0: number; x1: number; y1: number };

export function bounds(lists: [number, number][][]): Box {
  const box = {
    x0: Number.POSITIVE_INFINITY,
    y0: Number.POSITIVE_INFINITY,
    x1: Number.NEGATIVE_INFINITY,
    y1: Number.NEGATIVE_INFINITY,
  };
  for (const list of lists)
    for (const [x, y] of list) {
      box.x0 = Math.min(box.x0, x);
      box.x1 = Math.max(box.x1, x);
      box.y0 = Math.min(box.y0, y);
      box.y1 = Math.max(box.y1, y);
    }
  return box;
}

/** A disc of a radius (m) about a point. */
export function disc([x = 0, y = 0]: Vertex, r: number): [number, number][] {
  return Array.from({ length: 16 }, (_, k) => [
    x + r * Math.cos((Math.PI * k) / 8),
    y + r * Math.sin((Math.PI * k) / 8),
  ]);
}

/** The diagonals of a quadrilateral; nothing for any other outline. */
export function cross(list: [number, number][]): string {
  if (list.length !== 4) return "";
  const [a, b, c, d] = list as [number, number][];
  return `M${a}L${c}M${b}L${d}`;
}

/** A double-headed arrow through the middle of a region, in the direction in which it spans. */
export function arrow(list: [number, number][], degrees: number): string {
  const n = list.length;
  const cx = list.reduce((t, p) => t + p[0], 0) / n;
  const cy = list.reduce((t, p) => t + p[1], 0) / n;
  const [c, s] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)];
  const reach = 0.35 * Math.max(...list.map(([x, y]) => Math.abs((x - cx) * c + (y - cy) * s)));
  const h = Math.min(0.25, reach / 3);
  const at = (u: number, v: number) => `${cx + u * c - v * s} ${cy + u * s + v * c}`;
  return `M${at(-reach, 0)}L${at(reach, 0)}M${at(reach - h, h)}L${at(reach, 0)}L${at(reach - h, -h)}M${at(h - reach, h)}L${at(-reach, 0)}L${at(h - reach, -h)}`;
}
