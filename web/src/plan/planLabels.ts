import type { Display } from "../display/display";
import { kindOf, ON_PLAN } from "../kinds";
import { type FloorDocument, itemsOf, type Labelled, type Vertex } from "../model/floor";
import type { Results } from "../model/results";
import { bounds, points } from "../model/shapes";
import type { StepName } from "../model/step";
import type { System } from "../units/quantities";
import type { Wanted } from "./labels";

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
      const { text, rank, tone = "id", at } = caption;
      return [{ ...place(...(at ?? own(item))), text, tone, priority: rank }];
    }),
  );
  if (step === "arrange")
    for (const p of results?.panels ?? [])
      out.push({ ...place(...middle(p.outline)), text: p.id, tone: "id", priority: 3 });
  return out;
}
