import { floorProperty } from "../kinds/properties";
import type { FloorDocument, Labelled } from "../model/floor";
import {
  type Combination,
  type DeflectionLimit,
  endOf,
  type History,
  historyOf,
  withHistory,
  withoutStage,
  withStage,
} from "../model/history";
import type { Property } from "../model/property";
import { usePicked } from "../session";
import { FloorFields } from "./FloorFields";
import { PropertyField } from "./PropertyField";

const LIMIT = floorProperty("deflection.span_over", "Limit, span over", { quantity: undefined });
const FIELDS = [
  floorProperty("history.humidity_pct", "Humidity, %"),
  floorProperty("history.cement", "Cement class"),
  floorProperty("history.cured_days", "Cured until day"),
  floorProperty("history.end_days", "Ends on day"),
  floorProperty("history.tension", "Strength that cracks"),
  floorProperty("history.tension_stiffening", "Concrete between cracks acts"),
];
const SCATTER = [
  floorProperty("history.scatter.modulus", "Modulus, part of one"),
  floorProperty("history.scatter.tension", "Tensile strength"),
  floorProperty("history.scatter.creep", "Creep"),
  floorProperty("history.scatter.shrinkage", "Shrinkage"),
];
const ID: Property = { path: "id", name: "Stage", type: "text" };
const START: Property = { path: "start_days", name: "from day", type: "number" };
const COMBINATION: Property = {
  path: "combination",
  name: "carries",
  type: "choice",
  choices: (d) => ((d.combinations ?? []) as Combination[]).map((c) => c.id),
};
const OVER: Property = { path: "span_over", name: "span over", type: "number" };
const LIMIT_ID: Property = { path: "id", name: "Limit", type: "text" };
const edge = (path: "from" | "to", name: string): Property => ({
  path,
  name,
  type: "choice",
  choices: (d) => ["", ...(historyOf(d)?.stages ?? []).map((s) => s.id)],
});
const EDGES = [edge("from", "after"), edge("to", "until")];

/** Stages and limits of the floor's history, and what its concrete lives in; without a history, the limit of the estimate. */
export function HistoryPanel(props: { document: FloorDocument }) {
  const { document } = props;
  const { edit } = usePicked("edit");
  const history = historyOf(document);
  const change = (line: string, by: (h: History) => History) => edit({ line, change: withHistory(by) });
  if (!history)
    return (
      <div className="fields">
        <FloorFields document={document} properties={[LIMIT]} />
      </div>
    );
  const stages = history.stages;
  const limits = history.limits ?? [];
  const later = () => {
    const last = stages[stages.length - 1];
    const start = Math.round(Math.sqrt((last?.start_days ?? 1) * endOf(history)));
    let n = stages.length + 1;
    while (stages.some((s) => s.id === `stage ${n}`)) n++;
    const added = { id: `stage ${n}`, start_days: start, combination: last?.combination ?? "" };
    void change(`Stage ${added.id} from day ${start}`, (h) => ({ ...h, stages: [...h.stages, added] }));
  };
  const setLimit = (k: number, part: Partial<DeflectionLimit>, line: string) =>
    change(line, (h) => ({ ...h, limits: (h.limits ?? []).map((l, i) => (i === k ? { ...l, ...part } : l)) }));
  return (
    <>
      <h3>Stages</h3>
      <div className="stage-fields quiet" aria-hidden="true">
        <span>name</span>
        <span>from day</span>
        <span>carries</span>
        <span />
      </div>
      {stages.map((s, k) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a stage that is renamed stays in its place
        <div className="stage-fields" key={k}>
          {[ID, START, COMBINATION].map((p) => (
            <PropertyField
              key={p.path}
              property={p}
              items={[{ ...s, id: s.id } as unknown as Labelled]}
              document={document}
              save={(value, told) =>
                change(`Stage ${s.id}: ${p.name} ${told}`, (h) => withStage(h, k, { [p.path]: value }))
              }
            />
          ))}
          <button
            type="button"
            className="small"
            aria-label={`Take stage ${s.id} out`}
            disabled={stages.length === 1}
            onClick={() => change(`Stage ${s.id} is taken out`, (h) => withoutStage(h, k))}
          >
            ×
          </button>
        </div>
      ))}
      <div className="button-row">
        <button type="button" className="small" onClick={later} disabled={stages.length >= 12}>
          Add a stage
        </button>
        <button
          type="button"
          className="small"
          onClick={() =>
            edit({
              line: "The history is taken away; deflection is a quick estimate",
              change: (d) => ({ ...d, history: null }) as unknown as FloorDocument,
            })
          }
        >
          Without a history
        </button>
      </div>
      <h3>Limits</h3>
      {limits.length === 0 && (
        <div className="fields">
          <FloorFields document={document} properties={[LIMIT]} />
        </div>
      )}
      {limits.length > 0 && (
        <div className="stage-fields four quiet" aria-hidden="true">
          <span>name</span>
          <span>after</span>
          <span>until</span>
          <span>span over</span>
          <span />
        </div>
      )}
      {limits.map((l, k) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a limit that is renamed stays in its place
        <div className="stage-fields four" key={k}>
          {[LIMIT_ID, ...EDGES, OVER].map((p) => (
            <PropertyField
              key={p.path}
              property={p}
              items={[l as unknown as Labelled]}
              document={document}
              save={(value, told) =>
                setLimit(k, { [p.path]: value === "" ? null : value }, `Limit ${l.id}: ${p.name} ${told}`)
              }
            />
          ))}
          <button
            type="button"
            className="small"
            aria-label={`Take limit ${l.id} out`}
            onClick={() =>
              change(`Limit ${l.id} is taken out`, (h) => ({ ...h, limits: limits.filter((_, i) => i !== k) }))
            }
          >
            ×
          </button>
        </div>
      ))}
      <div className="button-row">
        <button
          type="button"
          className="small"
          onClick={() => {
            let n = limits.length + 1;
            while (limits.some((l) => l.id === `limit ${n}`)) n++;
            void change(`Limit ${n}: span over 250`, (h) => ({
              ...h,
              limits: [...(h.limits ?? []), { id: `limit ${n}`, span_over: 250 }],
            }));
          }}
        >
          Add a limit
        </button>
      </div>
      <h3>Air and concrete</h3>
      <div className="fields">
        <FloorFields document={document} properties={FIELDS} />
      </div>
      <h3>Scatter</h3>
      <p className="quiet">Coefficients of variation, by which the band is found.</p>
      <div className="fields">
        <FloorFields document={document} properties={SCATTER} />
      </div>
    </>
  );
}
