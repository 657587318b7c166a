import { type FloorDocument, type Labelled, type Load, loadsOf, type Ref, type Vertex } from "../model/floor";
import { type Point, points } from "../model/outlines";
import { added, removed } from "./edits";

/** What a load is to be worth: numbers of its own, or the label of where its value comes from. */
export type Worth =
  | { q_kPa: number }
  | { build_up: string }
  | { occupancy: string }
  | { q_kN_m: number[] }
  | { partition: string }
  | { F_kN: number };

function inside([x, y]: Point, polygon: Point[]): boolean {
  let within = false;
  polygon.forEach(([ax, ay], i) => {
    const [bx, by] = polygon[(i + 1) % polygon.length] as Point;
    if (ay > y !== by > y && x < ((bx - ax) * (y - ay)) / (by - ay) + ax) within = !within;
  });
  return within;
}

/** The stretches of a line that lie on one of the polygons. */
export function stretchesOn([a, b]: [Point, Point], polygons: Point[][]): [Point, Point][] {
  const at = (t: number): Point => [a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])];
  const cuts = [0, 1];
  for (const polygon of polygons)
    polygon.forEach(([px, py], i) => {
      const [qx, qy] = polygon[(i + 1) % polygon.length] as Point;
      const det = (b[0] - a[0]) * (qy - py) - (b[1] - a[1]) * (qx - px);
      if (Math.abs(det) < 1e-12) return;
      const t = ((px - a[0]) * (qy - py) - (py - a[1]) * (qx - px)) / det;
      const s = ((px - a[0]) * (b[1] - a[1]) - (py - a[1]) * (b[0] - a[0])) / det;
      if (t > 0 && t < 1 && s >= -1e-9 && s <= 1 + 1e-9) cuts.push(t);
    });
  cuts.sort((p, q) => p - q);
  const out: [number, number][] = [];
  for (let i = 1; i < cuts.length; i++) {
    const [t0, t1] = [cuts[i - 1] as number, cuts[i] as number];
    if (t1 - t0 < 1e-6 || !polygons.some((p) => inside(at((t0 + t1) / 2), p))) continue;
    const last = out[out.length - 1];
    if (last && Math.abs(last[1] - t0) < 1e-6) last[1] = t1;
    else out.push([t0, t1]);
  }
  const round = ([x, y]: Point): Point => [Math.round(x * 1e4) / 1e4, Math.round(y * 1e4) / 1e4];
  return out.map(([t0, t1]) => [round(at(t0)), round(at(t1))]);
}

/** The straight lines that objects give to line loads: axes of walls and beams, edges of slabs and openings. */
function linesOf(document: FloorDocument, refs: Ref[]): Vertex[][] {
  const out: Vertex[][] = [];
  for (const ref of refs) {
    const item = ((document[ref.kind] as Labelled[] | undefined) ?? []).find((i) => i.id === ref.id);
    const list = item?.outline
      ? points(item.outline as Vertex[])
      : item?.line
        ? points(item.line as Vertex[], false)
        : [];
    const closed = Boolean(item?.outline);
    for (let i = closed ? 0 : 1; i < list.length; i++)
      out.push([list[(i + list.length - 1) % list.length] as Point, list[i] as Point]);
  }
  return out;
}

/** Loads of a case that lie on the selected objects already, and whether replacing would take them away. */
export function loadsThere(document: FloorDocument, refs: Ref[], caseId: string, kind: Load["kind"]) {
  const slabs = new Set(refs.filter((r) => r.kind === "slabs").map((r) => r.id));
  const lines = linesOf(document, refs);
  const joints = new Set(refs.map((r) => r.id));
  const shapes = document.slabs.filter((s) => slabs.has(s.id)).map((s) => points(s.outline));
  const near = (p: Vertex, [a, b]: Vertex[]) => {
    const [ax, ay, bx, by] = [a?.[0] ?? 0, a?.[1] ?? 0, b?.[0] ?? 0, b?.[1] ?? 0];
    const l2 = (bx - ax) ** 2 + (by - ay) ** 2 || 1;
    const t = Math.max(0, Math.min(1, (((p[0] ?? 0) - ax) * (bx - ax) + ((p[1] ?? 0) - ay) * (by - ay)) / l2));
    return Math.hypot((p[0] ?? 0) - ax - t * (bx - ax), (p[1] ?? 0) - ay - t * (by - ay)) < 0.05;
  };
  return loadsOf(document).flatMap((load) => {
    if (load.case !== caseId || load.kind !== kind) return [];
    if (kind === "area") {
      if (load.slabs)
        return load.slabs.some((s) => slabs.has(s)) ? [{ load, goes: load.slabs.every((s) => slabs.has(s)) }] : [];
      if (!load.outline) return [{ load, goes: false }];
      const [x, y] = [0, 1].map(
        (k) => (load.outline ?? []).reduce((t, v) => t + (v[k] ?? 0), 0) / (load.outline?.length ?? 1),
      );
      return shapes.some((s) => inside([x ?? 0, y ?? 0], s)) ? [{ load, goes: true }] : [];
    }
    if (kind === "line")
      return lines.some((l) => (load.line ?? []).every((p) => near(p, l))) ? [{ load, goes: true }] : [];
    return load.support && joints.has(load.support) ? [{ load, goes: true }] : [];
  });
}

/** The floor with a load on what is selected; `replace` takes away what lies there in the same case. */
export function applied(
  document: FloorDocument,
  refs: Ref[],
  kind: Load["kind"],
  caseId: string,
  worth: Worth,
  replace: boolean,
): { document: FloorDocument; refs: Ref[] } {
  const gone = replace ? loadsThere(document, refs, caseId, kind).filter((t) => t.goes) : [];
  const left = removed(
    document,
    gone.map((g) => ({ kind: "loads", id: g.load.id })),
  );
  const base = { kind, case: caseId, ...worth };
  const items: Omit<Labelled, "id">[] =
    kind === "area"
      ? [{ ...base, slabs: refs.filter((r) => r.kind === "slabs").map((r) => r.id) }]
      : kind === "joint"
        ? refs.map((r) => ({ ...base, support: r.id }))
        : linesOf(document, refs).map((line) => ({ ...base, line }));
  return added(left, "loads", items);
}
