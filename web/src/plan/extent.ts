import { scaleLinear } from "d3-scale";
import type { FloorDocument } from "../model/floor";
import { bounds, points } from "../model/shapes";
import type { Drawing } from "./DrawingLayer";

/** What the plan is to show whole: the slabs, and the grid if it is `wanted`, or grid and drawing where there are no slabs yet. */
export function extent(document: FloorDocument | null, drawing: Drawing | null, wanted: boolean) {
  const slabs = (document?.slabs ?? []).map((s) => points(s.outline));
  const grid = (document?.grid ?? []).map((g) => points(g.line, false));
  if (slabs.length) return bounds(wanted ? [...slabs, ...grid] : slabs);
  const lines = [...grid, ...(drawing?.lines ?? []).map((l) => l.points)];
  return lines.length ? bounds(lines) : { x0: -2, y0: -2, x1: 22, y1: 16 };
}

/** Where the toolbar, the legend and the scale lie; labels keep out of there. */
export const CORNERS = (width: number, height: number, editing: boolean) => [
  new DOMRect(0, 0, editing ? width : Math.min(620, width * 0.8), 52),
  new DOMRect(width - 300, 44, 300, 110),
  new DOMRect(width - 146, height - 34, 146, 34),
];

/** The greatest round length up to a rough one: 1, 2 or 5 times a power of ten. */
export function niceLength(rough: number): number {
  const [, step = rough] = scaleLinear([0, rough], [0, 1]).ticks(1);
  return step;
}
