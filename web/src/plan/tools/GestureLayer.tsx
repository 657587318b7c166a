import { align, type Motion, mirror, moved, shift, turn } from "../../kinds/edits";
import { type FloorDocument, itemOf, type Labelled, type Vertex } from "../../model/floor";
import { points as chords, type Point } from "../../model/outlines";
import { columnOutline, path, wallOutline } from "../../model/shapes";
import { useSession } from "../../session";
import { measured, useUnits } from "../../units/quantities";
import type { View } from "../view";
import { aim, basis, preview, templateFor, useGesture } from "./gesture";
import type { Snap } from "./snap";
import { steps, toolOf } from "./tools";

/** What is being drawn: the shape so far, the place that the pointer snaps to, and the figures of the stretch. */
export function GestureLayer(props: { view: View; document: FloorDocument }) {
  const { view, document } = props;
  const g = useGesture();
  const chosen = useSession((s) => s.chosen);
  const system = useUnits((u) => u.system);
  const tool = toolOf(g.tool ?? "");
  const sx = (x: number) => view.x + view.k * x;
  const sy = (y: number) => view.y - view.k * y;
  const screen = (list: Point[], close = false) =>
    path(
      list.map(([x, y]) => [sx(x), sy(y)]),
      close,
    );
  const kept = g.kept && (
    <g className="measure">
      <path d={screen([g.kept.from, g.kept.to])} />
      <text x={(sx(g.kept.from[0]) + sx(g.kept.to[0])) / 2 + 8} y={(sy(g.kept.from[1]) + sy(g.kept.to[1])) / 2 - 8}>
        {g.kept.tool === "measure" ? figures(g.kept.from, g.kept.to, system) : ""}
      </text>
    </g>
  );
  const last = basis(g.points, g.tool);
  // Without a pointer what is placed is shown all the same.
  const cursor: Snap | null = aim(g) ?? (last ? { x: last[0], y: last[1], kind: null } : null);
  if (!tool || !cursor) return <g className="gesture">{kept}</g>;
  const at: Point = [cursor.x, cursor.y];
  const shape = preview(tool, g.shape, g.points, g.via, at);
  const motions = motionsOf(tool.key, g.points as Point[], at, g);
  return (
    <g className="gesture" data-testid="gesture">
      {kept}
      {chosen.flatMap((ref) => {
        const item = itemOf(document, ref);
        const one = (m: Motion, k: number) => (
          <path key={`${ref.kind}${ref.id} ${k}`} d={ghost(item as Labelled, m, screen)} className="ghost" />
        );
        return item ? motions.map(one) : [];
      })}
      {tool.form === "point" && tool.kind === "columns" && (
        <path d={ghost({ ...(templateFor(tool) as Labelled), at }, shift(0, 0), screen)} className="ghost" />
      )}
      {shape.length > 1 && (
        <path
          d={screen(shape, tool.form === "outline" && g.points.length > 1)}
          className={tool.form === "outline" ? "rubber" : "rubber open"}
        />
      )}
      {g.points.map(([x = 0, y = 0]) => (
        <circle key={`${x},${y}`} cx={sx(x)} cy={sy(y)} r={3} className="placed" />
      ))}
      {cursor.from && <path d={screen([cursor.from, at])} className="guide" />}
      <g transform={`translate(${sx(at[0])} ${sy(at[1])})`} className="snap" data-snap={cursor.kind ?? ""}>
        <path d={MARK[cursor.kind ?? "none"]} />
        {cursor.kind && (
          <text x={10} y={-8}>
            {cursor.kind}
            {cursor.of ? ` ${cursor.of}` : ""}
          </text>
        )}
      </g>
      {last && (
        <text x={sx(at[0]) + 12} y={sy(at[1]) + 20} className="figures">
          {figures(last, at, system)}
        </text>
      )}
    </g>
  );
}

const MARK: Record<string, string> = {
  corner: "M-5 -5H5V5H-5Z",
  crossing: "M-5 -5L5 5M-5 5L5 -5",
  centre: "M-6 0H6M0 -6V6",
  middle: "M0 -6L6 5H-6Z",
  "square to": "M-6 -6V5H6M-6 0H0V5",
  "straight onto": "M-5 -5L5 5M-5 5L5 -5",
  edge: "M-4 0H4",
  "grid line": "M-4 0H4",
  drawing: "M-4 0H4",
  "in line with": "M-3 0H3M0 -3V3",
  straight: "M-3 0H3M0 -3V3",
  none: "M-3 0H3M0 -3V3",
};

function figures(a: Point, b: Point, system: "SI" | "US"): string {
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
  const l = Math.hypot(dx, dy);
  const angle = (Math.atan2(dy, dx) * 180) / Math.PI;
  return `${measured(l, "length", system)} at ${measured(angle, "angle", system)} · Δ ${measured(dx, "length", system)}, ${measured(dy, "length", system)}`;
}

function motionsOf(tool: string, p: Point[], at: Point, counts: { times: number; across: number }): Motion[] {
  const [a, b, c] = p;
  if (!a) return [];
  if (tool === "move" || tool === "copy") return [shift(at[0] - a[0], at[1] - a[1])];
  if (tool === "array") return b ? steps(a, b, at, counts) : steps(a, at, undefined, counts);
  if (tool === "mirror") return [mirror(a, at)];
  if (tool === "rotate" && b)
    return [turn(a, Math.atan2(at[1] - a[1], at[0] - a[0]) - Math.atan2(b[1] - a[1], b[0] - a[0]))];
  if (tool === "align" && b) return [c ? align(a, b, c, at) : shift(b[0] - a[0], b[1] - a[1])];
  return [];
}

function ghost(item: Labelled, m: Motion, screen: (list: Point[], close?: boolean) => string): string {
  const there = moved(item, m);
  if (there.outline) return screen(chords(there.outline as Vertex[]), true);
  if (there.line && there.thickness_m)
    return screen(wallOutline(there.line as Vertex[], there.thickness_m as number), true);
  if (there.line) return screen(chords(there.line as Vertex[], false));
  if (there.shape) return screen(columnOutline(there as never), true);
  const [x = 0, y = 0] = (there.at as Vertex) ?? [];
  return screen([
    [x - 0.1, y],
    [x + 0.1, y],
  ]);
}
