import type { Column, Vertex } from "../model/floor";

/** Points of a closed outline, arcs as chords (the bulge is the tangent of a quarter of the arc's angle). */
export function points(outline: Vertex[]): [number, number][] {
  const out: [number, number][] = [];
  outline.forEach((a, i) => {
    const b = outline[(i + 1) % outline.length] as Vertex;
    const [ax = 0, ay = 0, bulge = 0] = a;
    const [bx = 0, by = 0] = b;
    out.push([ax, ay]);
    if (!bulge) return;
    const sweep = 4 * Math.atan(bulge);
    const offset = (1 - bulge * bulge) / (4 * bulge);
    const cx = (ax + bx) / 2 - (by - ay) * offset;
    const cy = (ay + by) / 2 + (bx - ax) * offset;
    const radius = Math.hypot(ax - cx, ay - cy);
    const start = Math.atan2(ay - cy, ax - cx);
    const count = Math.max(8, Math.ceil(Math.abs(sweep) * 16));
    for (let k = 1; k < count; k++) {
      const t = start + (sweep * k) / count;
      out.push([cx + radius * Math.cos(t), cy + radius * Math.sin(t)]);
    }
  });
  return out;
}

export function path(list: [number, number][], close = true): string {
  return `M${list.map(([x, y]) => `${x.toFixed(4)} ${y.toFixed(4)}`).join("L")}${close ? "Z" : ""}`;
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

export function wallOutline(line: Vertex[], thickness: number): [number, number][] {
  const [[ax = 0, ay = 0], [bx = 0, by = 0]] = line as [Vertex, Vertex];
  const l = Math.hypot(bx - ax, by - ay) || 1;
  const ux = ((bx - ax) / l) * (thickness / 2);
  const uy = ((by - ay) / l) * (thickness / 2);
  return [
    [ax - ux + uy, ay - uy - ux],
    [bx + ux + uy, by + uy - ux],
    [bx + ux - uy, by + uy + ux],
    [ax - ux - uy, ay - uy + ux],
  ];
}

export type Box = { x0: number; y0: number; x1: number; y1: number };

export function bounds(lists: [number, number][][]): Box {
  const all = lists.flat();
  const xs = all.map((p) => p[0]);
  const ys = all.map((p) => p[1]);
  return { x0: Math.min(...xs), y0: Math.min(...ys), x1: Math.max(...xs), y1: Math.max(...ys) };
}
