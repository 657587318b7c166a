import { type KeyboardEvent, type PointerEvent, useState } from "react";
import { nameOf } from "../../kinds";
import { mapped } from "../../kinds/edits";
import type { Ref, Vertex } from "../../model/floor";
import { points as chords, type Point, withCorner, withMovedCorner, withoutCorner } from "../../model/outlines";
import { path } from "../../model/shapes";
import { usePicked } from "../../session";
import type { View } from "../view";
import type { Snap } from "./snap";

/** The corners of the one selected object, to drag; between them, points that become corners. */
export function Handles(props: {
  view: View;
  target: Ref;
  vertices: Vertex[];
  closed: boolean;
  snap: (x: number, y: number, free: boolean) => Snap;
}) {
  const { view, target, vertices, closed, snap } = props;
  const { edit } = usePicked("edit");
  const [shown, setShown] = useState<Vertex[] | null>(null);
  const now = shown ?? vertices;
  const key = closed ? "outline" : "line";
  const sx = (x = 0) => view.x + view.k * x;
  const sy = (y = 0) => view.y - view.k * y;
  const save = (next: Vertex[], what: string) =>
    edit({
      line: `${nameOf([target])}: ${what}`,
      change: (d) => mapped(d, [target], (i) => ({ ...i, [key]: next })),
      picks: [target],
    }).finally(() => setShown(null));

  const drag = (index: number, insert: boolean) => (event: PointerEvent<SVGElement>) => {
    event.stopPropagation();
    const start = insert ? withCorner(vertices, index) : vertices;
    const corner = insert ? index + 1 : index;
    const element = event.currentTarget;
    const frame = (element.ownerSVGElement as SVGSVGElement).getBoundingClientRect();
    element.setPointerCapture(event.pointerId);
    let next = start;
    let moved = false;
    const move = (e: globalThis.PointerEvent) => {
      const at = snap((e.clientX - frame.left - view.x) / view.k, (view.y - e.clientY + frame.top) / view.k, e.altKey);
      next = withMovedCorner(start, corner, [at.x, at.y]);
      moved = true;
      setShown(next);
    };
    element.addEventListener("pointermove", move);
    element.addEventListener(
      "pointerup",
      () => {
        element.removeEventListener("pointermove", move);
        if (moved) void save(next, insert ? "corner added" : "corner moved");
      },
      { once: true },
    );
  };
  const keys = (index: number) => (event: KeyboardEvent) => {
    const step = event.shiftKey ? 0.1 : 0.01;
    const by = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, step], ArrowDown: [0, -step] }[event.key];
    if (by) {
      const [x = 0, y = 0] = vertices[index] as Vertex;
      void save(withMovedCorner(vertices, index, [x + (by[0] ?? 0), y + (by[1] ?? 0)]), "corner moved");
    } else if (event.key === "Delete" || event.key === "Backspace") {
      if (vertices.length > (closed ? 3 : 2)) void save(withoutCorner(vertices, index), "corner taken out");
    } else return;
    event.preventDefault();
    event.stopPropagation();
  };
  const edges = closed ? now.length : now.length - 1;
  const middle = (i: number): Point => {
    const one = chords([now[i] as Vertex, (now[(i + 1) % now.length] as Vertex).slice(0, 2)], false);
    return one.length > 2
      ? (one[Math.floor(one.length / 2)] as Point)
      : [((one[0]?.[0] ?? 0) + (one[1]?.[0] ?? 0)) / 2, ((one[0]?.[1] ?? 0) + (one[1]?.[1] ?? 0)) / 2];
  };
  return (
    <g className="handles">
      {shown && (
        <path
          d={path(
            chords(now, closed).map(([x, y]) => [sx(x), sy(y)]),
            closed,
          )}
          className="rubber"
        />
      )}
      {!shown &&
        closed &&
        Array.from({ length: edges }, (_, i) => {
          const [x, y] = middle(i);
          return (
            <path
              key={`m${now[i]}`}
              d={`M${sx(x)} ${sy(y) - 4}l4 4l-4 4l-4 -4Z`}
              className="between"
              onPointerDown={drag(i, true)}
            >
              <title>Drag to add a corner</title>
            </path>
          );
        })}
      {now.map((v, i) => (
        <rect
          // biome-ignore lint/suspicious/noArrayIndexKey: a corner is its place in the outline
          key={`c${i}`}
          x={sx(v[0]) - 4.5}
          y={sy(v[1]) - 4.5}
          width={9}
          height={9}
          role="button"
          tabIndex={0}
          aria-label={`Corner ${i + 1} of ${target.id}; arrow keys move it, Delete takes it out`}
          className="corner"
          onPointerDown={drag(i, false)}
          onKeyDown={keys(i)}
          onClick={(e) => e.stopPropagation()}
        />
      ))}
    </g>
  );
}
