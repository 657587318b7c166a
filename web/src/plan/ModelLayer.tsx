import { type KeyboardEvent, type MouseEvent, memo, type ReactNode } from "react";
import { kindOf, singular } from "../kinds";
import { type FloorDocument, itemOf, type Kind, type Labelled, loadsOf, type Ref, type Vertex } from "../model/floor";
import { loadPlace } from "../model/loads";
import { disc, path, points } from "../model/shapes";

type Pick = (ref: Ref, more: boolean) => void;

/** Everything that stands on the plan, in plan coordinates; each shape can be reached and picked by keyboard. */
export const ModelLayer = memo(function ModelLayer(props: {
  document: FloorDocument;
  hidden: Set<Kind>;
  pick: Pick;
  /** Loads of this case, of `all` cases, or none. */
  loads: string | null;
  panels: boolean;
  mats: boolean;
}) {
  const { document, hidden, pick, loads, mats, panels } = props;
  const seen = (kind: Kind) => !hidden.has(kind);
  const draw = (kind: Kind, list: { id: string }[] | undefined): ReactNode[] =>
    seen(kind)
      ? ((list ?? []) as Labelled[]).map((item) => {
          const d = outlineOf(kind, item);
          return d ? (
            <Shape key={`${kind}:${item.id}`} kind={kind} id={item.id} d={d} name={kindOf(kind).look?.(item) ?? ""} />
          ) : null;
        })
      : [];

  const found = (event: MouseEvent | KeyboardEvent): Ref | null => {
    const element = (event.target as Element).closest("[data-kind]") as SVGElement | null;
    return element ? { kind: element.dataset.kind as Kind, id: element.dataset.id as string } : null;
  };
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the shapes inside are the buttons
    <g
      className="model"
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
      }}
    >
      {draw("slabs", document.slabs)}
      {draw("supports", document.supports)}
      {draw("one_way_areas", document.one_way_areas)}
      {seen("one_way_areas") &&
        (document.one_way_areas ?? []).map((a) => (
          <path key={a.id} d={arrow(points(a.outline), a.angle_deg ?? 0)} className="span-arrow" />
        ))}
      {draw("stiffness_areas", document.stiffness_areas)}
      {draw("thickenings", document.thickenings)}
      {mats && draw("mats", document.mats)}
      {draw("openings", document.openings)}
      {seen("openings") &&
        (document.openings ?? []).map((o) => (
          <path key={o.id} d={cross(points(o.outline))} className="opening-cross" />
        ))}
      {draw("beams", document.beams)}
      {loads &&
        draw(
          "loads",
          loadsOf(document)
            .filter((l) => loads === "all" || l.case === loads)
            .map((l) => (l.kind === "joint" ? { ...l, at: loadPlace(l, document) ?? undefined } : l)),
        )}
      {panels && draw("panels", document.panels)}
      {draw("walls", document.walls)}
      {draw("columns", document.columns)}
      {draw("probes", document.probes)}
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
      tabIndex={0}
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
        const d = item && ref.kind !== "slices" && outlineOf(ref.kind, item);
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
export function outlineOf(kind: Kind, item: Labelled): string | null {
  const own = kindOf(kind).shape?.(item);
  if (own) return own;
  if (item.outline) return path(points(item.outline as Vertex[]));
  if (item.line) return path(points(item.line as Vertex[], false), false);
  if (item.at) return path(disc(item.at as Vertex, 0.14));
  return null;
}

function cross(list: [number, number][]): string {
  if (list.length !== 4) return "";
  const [a, b, c, d] = list as [number, number][];
  return `M${a}L${c}M${b}L${d}`;
}

/** A double-headed arrow through the middle of a region, in the direction in which it spans. */
function arrow(list: [number, number][], degrees: number): string {
  const n = list.length;
  const cx = list.reduce((t, p) => t + p[0], 0) / n;
  const cy = list.reduce((t, p) => t + p[1], 0) / n;
  const [c, s] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)];
  const reach = 0.35 * Math.max(...list.map(([x, y]) => Math.abs((x - cx) * c + (y - cy) * s)));
  const h = Math.min(0.25, reach / 3);
  const at = (u: number, v: number) => `${cx + u * c - v * s} ${cy + u * s + v * c}`;
  return `M${at(-reach, 0)}L${at(reach, 0)}M${at(reach - h, h)}L${at(reach, 0)}L${at(reach - h, -h)}M${at(h - reach, h)}L${at(-reach, 0)}L${at(h - reach, -h)}`;
}
