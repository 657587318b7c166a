import { type BufferGeometry, ExtrudeGeometry, Path, Shape } from "three";
import { type FloorDocument, itemsOf, type Kind, type Ref, type Slab, type Vertex } from "../model/floor";
import { isInside, type Point, points } from "../model/outlines";
import { columnOutline, wallOutline } from "../model/shapes";

export type Solid = { ref: Ref; outline: Point[]; holes: Point[][]; bottom: number; top: number; faint: boolean };

/** Every body of the floor with its levels (m about the floor's datum), as it is cast. */
export function solidsOf(document: FloorDocument): Solid[] {
  const out: Solid[] = [];
  const solid = (
    kind: Kind,
    id: string,
    outline: Point[],
    bottom: number,
    top: number,
    holes: Point[][] = [],
    faint = false,
  ) => {
    if (top - bottom > 1e-6 && outline.length > 2) out.push({ ref: { kind, id }, outline, holes, bottom, top, faint });
  };
  const openings = (document.openings ?? []).map((o) => points(o.outline));
  const recesses = (document.thickenings ?? []).filter((t) => t.kind === "recess");
  const wins = (a: Slab, b: Slab) =>
    ((a.priority as number | undefined) ?? 0) - ((b.priority as number | undefined) ?? 0) ||
    a.thickness_m - b.thickness_m;
  for (const s of document.slabs) {
    const inside = (list: Point[]) => list.every((p) => isInside(p, s.outline));
    const over = document.slabs.filter((o) => o !== s && wins(o, s) > 0).map((o) => points(o.outline));
    const holes = [...openings, ...over, ...recesses.map((r) => points(r.outline))].filter(inside);
    const top = s.top_offset_m ?? 0;
    solid("slabs", s.id, points(s.outline), top - s.thickness_m, top, holes);
  }
  /** The slab that holds at a place. */
  const host = (at: Point) => document.slabs.filter((s) => isInside(at, s.outline)).sort((a, b) => wins(b, a))[0];
  const middle = (list: Point[]): Point => [
    list.reduce((t, p) => t + p[0], 0) / list.length,
    list.reduce((t, p) => t + p[1], 0) / list.length,
  ];
  for (const t of document.thickenings ?? []) {
    const outline = points(t.outline);
    const slab = host(middle(outline));
    const top = t.top_offset_m ?? 0;
    const soffit = slab ? (slab.top_offset_m ?? 0) - slab.thickness_m : top;
    // Only what hangs below the slab: the part within it is the slab's own body.
    solid("thickenings", t.id, outline, top - t.thickness_m, t.kind === "recess" ? top : Math.min(top, soffit));
  }
  for (const b of document.beams ?? []) {
    const outline = wallOutline(b.line, b.width_m);
    // A beam along an edge has its middle on the slab's outline; its corners tell which slab it is cast with.
    const slab = [middle(outline), ...outline].map(host).find((s) => s !== undefined);
    const top = b.top_offset_m ?? 0;
    const [slabTop, soffit] = slab ? [slab.top_offset_m ?? 0, (slab.top_offset_m ?? 0) - slab.thickness_m] : [top, top];
    solid("beams", b.id, outline, top - b.depth_m, Math.min(top, soffit));
    solid("beams", b.id, outline, Math.max(top - b.depth_m, slabTop), top);
  }
  const levels = (at: Point): [number, number] => {
    const slab = host(at);
    const thick = (document.thickenings ?? []).find((t) => t.kind !== "recess" && isInside(at, t.outline));
    const top = slab?.top_offset_m ?? 0;
    return [
      Math.min(top - (slab?.thickness_m ?? 0.25), thick ? (thick.top_offset_m ?? 0) - thick.thickness_m : 0),
      top,
    ];
  };
  for (const kind of ["columns", "walls"] as const)
    for (const item of itemsOf(document, kind)) {
      const outline =
        kind === "columns"
          ? columnOutline(item as never)
          : wallOutline(item.line as Vertex[], item.thickness_m as number);
      const [soffit, top] = levels(middle(outline));
      const { below, above } = item as { below?: { height_m: number } | null; above?: { height_m: number } | null };
      if (below) solid(kind, item.id, outline, soffit - below.height_m, soffit);
      if (above) solid(kind, item.id, outline, top, top + above.height_m, [], true);
    }
  return out;
}

export function geometryOf(s: Solid): BufferGeometry {
  const shape = new Shape();
  const trace = (path: Path, list: Point[]) => {
    list.forEach(([x, y], i) => {
      if (i) path.lineTo(x, y);
      else path.moveTo(x, y);
    });
    path.closePath();
  };
  trace(shape, s.outline);
  for (const h of s.holes) {
    const hole = new Path();
    trace(hole, h);
    shape.holes.push(hole);
  }
  const made = new ExtrudeGeometry(shape, { depth: s.top - s.bottom, bevelEnabled: false });
  made.translate(0, 0, s.bottom);
  return made;
}
