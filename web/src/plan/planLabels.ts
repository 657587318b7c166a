import type { Display } from "../display/display";
import { kindOf, ON_PLAN } from "../kinds";
import { type FloorDocument, itemsOf, type Kind, type Labelled, type Vertex } from "../model/floor";
import type { Results } from "../model/results";
import { bounds, columnOutline, points } from "../model/shapes";
import type { StepName } from "../model/step";
import type { System } from "../units/quantities";
import type { Stretch, Wanted } from "./labels";

/** Half the size of what has a footprint of its own about its place, m. */
function halfOf(kind: Kind, item: Labelled): number {
  if (kind !== "columns") return 0;
  const b = bounds([columnOutline(item as never)]);
  return Math.max(b.x1 - b.x0, b.y1 - b.y0) / 2;
}

/** The walls of a floor on the screen, which no label is to cut. */
export function solidOf(document: FloorDocument | null, hidden: Set<Kind>, scale: number, place: Place): Stretch[] {
  return hidden.has("walls")
    ? []
    : (document?.walls ?? []).flatMap((w) => {
        const line = points(w.line as Vertex[], false).map(([x, y]) => place(x, y));
        const half = (scale * w.thickness_m) / 2;
        return line.slice(1).map((b, i) => ({ a: line[i] as { x: number; y: number }, b, half }));
      });
}

type Place = (x: number, y: number) => { x: number; y: number };

/** Labels of what stands on the plan at a step of the route. */
export function modelLabels(
  document: FloorDocument,
  results: Results | null,
  step: StepName,
  display: Display,
  scale: number,
  place: Place,
  system: System,
): Wanted[] {
  const seen = { document, step, scale, zones: display.zones, loadsOf: display.loadsOf, system };
  const middle = (list: [number, number][]): [number, number] => {
    const b = bounds([list]);
    return [(b.x0 + b.x1) / 2, (b.y0 + b.y1) / 2];
  };
  const own = (item: Labelled): [number, number] => {
    if (item.at) return [(item.at as Vertex)[0] ?? 0, (item.at as Vertex)[1] ?? 0];
    return middle(points((item.outline ?? item.line) as Vertex[], Boolean(item.outline)));
  };
  const out: Wanted[] = ON_PLAN.filter((kind) => !display.hidden.has(kind)).flatMap((kind) =>
    itemsOf(document, kind).flatMap((item) => {
      const caption = kindOf(kind).caption?.(item, seen);
      if (!caption) return [];
      const { text, rank, tone = "id", at, must } = caption;
      return [
        { ...place(...(at ?? own(item))), text, tone, priority: rank, must, clear: (scale * halfOf(kind, item)) | 0 },
      ];
    }),
  );
  if (step === "arrange")
    for (const p of results?.panels ?? [])
      out.push({ ...place(...middle(p.outline)), text: p.id, tone: "id", priority: 3 });
  return out;
}
