import type { Display } from "../display/display";
import type { StepName } from "../display/step";
import { type FloorDocument, loadsOf } from "../model/floor";
import { loadPlace, loadText } from "../model/loads";
import type { Results } from "../model/results";
import { bounds, points } from "../model/shapes";
import { measured, type System } from "../units/quantities";
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
  const out: Wanted[] = [];
  const seen = (kind: string) => !display.hidden.has(kind as never);
  const middle = (list: [number, number][]) => {
    const b = bounds([list]);
    return place((b.x0 + b.x1) / 2, (b.y0 + b.y1) / 2);
  };
  if (scale > 11 && !display.zones && seen("columns"))
    for (const c of document.columns ?? []) {
      const [x = 0, y = 0] = c.at;
      out.push({ ...place(x, y), text: c.id, tone: "id", priority: 2 });
    }
  if (scale > 8 && ["setout", "build", "arrange", "load"].includes(step)) {
    for (const s of seen("slabs") ? document.slabs : [])
      out.push({
        ...middle(points(s.outline)),
        text: step === "build" ? `${s.id} ${measured(s.thickness_m, "size", system)}` : s.id,
        tone: "id",
        priority: 1,
      });
    for (const o of seen("openings") ? (document.openings ?? []) : [])
      out.push({ ...middle(points(o.outline)), text: o.id, tone: "id", priority: 1 });
  }
  if (step === "build" && scale > 17)
    for (const kind of ["beams", "walls"] as const)
      for (const item of seen(kind) ? (document[kind] ?? []) : [])
        out.push({ ...middle(points(item.line, false)), text: item.id, tone: "id", priority: 1 });
  if (step === "load")
    for (const l of seen("loads") ? loadsOf(document) : []) {
      const at = loadPlace(l, document);
      if (!at || (display.loadsOf && l.case !== display.loadsOf)) continue;
      const text = `${display.loadsOf ? "" : `${l.case} `}${loadText(l, document, system)}`;
      out.push({ ...place(at[0], at[1]), text, tone: "load", priority: 4 });
    }
  if (step === "arrange")
    for (const p of results?.panels ?? []) out.push({ ...middle(p.outline), text: p.id, tone: "id", priority: 3 });
  return out;
}
