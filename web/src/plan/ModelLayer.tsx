import { Fragment, type KeyboardEvent, type MouseEvent, memo, useEffect, useRef } from "react";
import { kindOf, ON_PLAN, singular } from "../kinds";
import { type FloorDocument, itemOf, itemsOf, type Kind, type Labelled, type Ref, type Vertex } from "../model/floor";
import { disc, path, points } from "../model/shapes";

type Pick = (ref: Ref, more: boolean) => void;

const ARROWS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

/** The middle of a shape on the screen. */
function middle(element: Element): [number, number] {
  const r = element.getBoundingClientRect();
  return [r.left + r.width / 2, r.top + r.height / 2];
}

/** Of some shapes the nearest one in a direction: what lies ahead counts, and aside twice. */
export function ahead(from: [number, number], way: [number, number], places: [number, number][]): number {
  let best = -1;
  let least = Number.POSITIVE_INFINITY;
  places.forEach(([x, y], k) => {
    const [dx, dy] = [x - from[0], y - from[1]];
    const along = dx * way[0] + dy * way[1];
    const aside = Math.abs(dx * way[1] - dy * way[0]);
    if (along > 1 && along + 2 * aside < least) {
      least = along + 2 * aside;
      best = k;
    }
  });
  return best;
}

/** Everything that stands on the plan, in plan coordinates: one stop of the tab order, inside which arrows go from shape to shape. */
export const ModelLayer = memo(function ModelLayer(props: {
  document: FloorDocument;
  hidden: Set<Kind>;
  pick: Pick;
  /** Loads of this case, of `all` cases, or none. */
  loads: string | null;
  panels: boolean;
  mats: boolean;
  tendons: boolean;
}) {
  const { document, hidden, pick, loads, mats, panels, tendons } = props;
  const drawn = (kind: Kind) => {
    const by = kindOf(kind).drawn;
    return by === undefined || (by !== "none" && Boolean({ loads, mats, panels, tendons }[by]));
  };
  const wanted = (kind: Kind) => (item: Labelled) => kind !== "loads" || loads === "all" || item.case === loads;

  const found = (event: MouseEvent | KeyboardEvent): Ref | null => {
    const element = (event.target as Element).closest("[data-kind]") as SVGElement | null;
    return element ? { kind: element.dataset.kind as Kind, id: element.dataset.id as string } : null;
  };
  const group = useRef<SVGGElement>(null);
  const shapes = () => [...(group.current?.querySelectorAll<SVGElement>("[data-kind]") ?? [])];
  const reach = (element: SVGElement) => {
    for (const other of group.current?.querySelectorAll('[tabindex="0"]') ?? []) other.setAttribute("tabindex", "-1");
    element.setAttribute("tabindex", "0");
  };
  // One shape is in the tab order, also after the one that was is gone.
  useEffect(() => {
    const all = shapes();
    if (all.length && !all.some((e) => e.getAttribute("tabindex") === "0")) all[0]?.setAttribute("tabindex", "0");
  });
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the shapes inside are the buttons
    <g
      className="model"
      ref={group}
      onFocus={(event) => {
        const element = (event.target as Element).closest<SVGElement>("[data-kind]");
        if (element) reach(element);
      }}
      onClick={(event) => {
        const ref = found(event);
        if (!ref) return;
        event.stopPropagation();
        pick(ref, event.ctrlKey || event.metaKey || event.shiftKey);
      }}
      onKeyDown={(event) => {
        const ref = found(event);
        if (ref && (event.key === "Enter" || event.key === " ")) {
          event.preventDefault();
          event.stopPropagation();
          pick(ref, event.ctrlKey || event.metaKey || event.shiftKey);
        }
        const way = ARROWS[event.key];
        if (!way || event.shiftKey || event.ctrlKey || event.metaKey || !ref) return;
        const all = shapes();
        const next = all[ahead(middle(event.target as Element), way, all.map(middle))];
        next?.focus();
        event.preventDefault();
        event.stopPropagation();
      }}
    >
      {ON_PLAN.filter((kind) => !hidden.has(kind) && drawn(kind)).flatMap((kind) =>
        itemsOf(document, kind)
          .filter(wanted(kind))
          .map((item) => {
            const file = kindOf(kind);
            const d = outlineOf(kind, item, document);
            const mark = file.mark?.(item);
            return (
              <Fragment key={`${kind}:${item.id}`}>
                {d && <Shape kind={kind} id={item.id} d={d} name={file.look?.(item) ?? ""} />}
                {mark && <path {...mark} />}
              </Fragment>
            );
          }),
      )}
    </g>
  );
});

const Shape = memo(function Shape(props: { kind: Kind; id: string; d: string; name: string }) {
  return (
    <path
      d={props.d}
      className={props.name}
      data-kind={props.kind}
      data-id={props.id}
      role="button"
      tabIndex={-1}
      aria-label={`${singular(props.kind)} ${props.id}`}
    />
  );
});

/** The outlines of what is selected, on top. */
export function ChosenLayer(props: { document: FloorDocument; chosen: Ref[] }) {
  return (
    <g className="chosen-layer">
      {props.chosen.map((ref) => {
        const item = itemOf(props.document, ref);
        // A slice shows by itself that it is selected.
        const d = item && ref.kind !== "slices" && outlineOf(ref.kind, item, props.document);
        return d ? (
          <path
            key={`${ref.kind}:${ref.id}`}
            d={d}
            className={item.line && !item.thickness_m && !item.width_m ? "chosen open" : "chosen"}
            data-chosen={ref.id}
          />
        ) : null;
      })}
    </g>
  );
}

/** The shape of an object on the plan as a path, or nothing. */
export function outlineOf(kind: Kind, item: Labelled, document: FloorDocument): string | null {
  const own = kindOf(kind).shape?.(item, document);
  if (own) return own;
  if (item.outline) return path(points(item.outline as Vertex[]));
  if (item.line) return path(points(item.line as Vertex[], false), false);
  if (item.at) return path(disc(item.at as Vertex, 0.14));
  return null;
}
