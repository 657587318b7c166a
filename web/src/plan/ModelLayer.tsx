import type { KeyboardEvent, ReactNode } from "react";
import type { Selection } from "../app/session";
import type { FloorDocument, Kind, Vertex } from "../model/floor";
import { columnOutline, path, points, wallOutline } from "./shapes";

type Pick = (kind: Kind, id: string) => void;

/** Everything that stands on the plan, in plan coordinates; each shape can be reached and picked by keyboard. */
export function ModelLayer(props: {
  document: FloorDocument;
  selection: Selection;
  pick: Pick;
  loads: boolean;
  mats: boolean;
}) {
  const { document, selection, pick, loads, mats } = props;
  const chosen = (kind: Kind, id: string) =>
    selection?.type === "object" && selection.kind === kind && selection.id === id;

  const shape = (kind: Kind, id: string, d: string, name: string, extra = ""): ReactNode => (
    <path
      key={`${kind}:${id}`}
      d={d}
      className={`${name} ${extra} ${chosen(kind, id) ? "chosen" : ""}`}
      data-kind={kind}
      data-id={id}
      role="button"
      tabIndex={0}
      aria-label={`${name} ${id}`}
      aria-pressed={chosen(kind, id)}
      onClick={(event) => {
        event.stopPropagation();
        pick(kind, id);
      }}
      onKeyDown={(event: KeyboardEvent) => {
        if (event.key === "Enter" || event.key === " ") {
          event.preventDefault();
          pick(kind, id);
        }
      }}
    />
  );
  const line = (l: Vertex[]) => path(l.map(([x = 0, y = 0]) => [x, y]) as [number, number][], false);

  return (
    <g className="model">
      {document.slabs.map((s) => shape("slabs", s.id, path(points(s.outline)), "slab"))}
      {(document.supports ?? []).map((s) =>
        s.kind === "area"
          ? shape("supports", s.id, path(points(s.outline ?? [])), "bedding")
          : s.kind === "line"
            ? shape("supports", s.id, line(s.line ?? []), "line-support")
            : shape("supports", s.id, path(disc(s.at ?? [0, 0], 0.14)), "point-support"),
      )}
      {(document.thickenings ?? []).map((t) => shape("thickenings", t.id, path(points(t.outline)), "thickening"))}
      {mats &&
        (document.mats ?? []).map(
          (m) => m.outline && shape("mats", m.id, path(points(m.outline)), "mat", m.direction === "x" ? "" : "across"),
        )}
      {(document.openings ?? []).map((o) => (
        <g key={o.id}>
          {shape("openings", o.id, path(points(o.outline)), "opening")}
          <path d={cross(points(o.outline))} className="opening-cross" />
        </g>
      ))}
      {loads &&
        (document.loads ?? []).map((l) =>
          l.kind === "area"
            ? l.outline && shape("loads", l.id, path(points(l.outline)), "area-load")
            : l.kind === "line"
              ? shape("loads", l.id, line(l.line ?? []), "line-load")
              : shape("loads", l.id, path(disc(l.at ?? [0, 0], 0.3)), "point-load"),
        )}
      {(document.walls ?? []).map((w) => shape("walls", w.id, path(wallOutline(w.line, w.thickness_m)), "wall"))}
      {(document.columns ?? []).map((c) =>
        shape("columns", c.id, path(columnOutline(c)), "column", c.below ? "" : "above-only"),
      )}
    </g>
  );
}

function disc([x = 0, y = 0]: Vertex, r: number): [number, number][] {
  return Array.from({ length: 16 }, (_, k) => [
    x + r * Math.cos((Math.PI * k) / 8),
    y + r * Math.sin((Math.PI * k) / 8),
  ]);
}

function cross(list: [number, number][]): string {
  if (list.length !== 4) return "";
  const [a, b, c, d] = list as [number, number][];
  return `M${a}L${c}M${b}L${d}`;
}
