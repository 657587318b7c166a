import { FirstMet } from "../display/FirstMet";
import { panelsOf, type Row, type TraceStep } from "../model/results";
import { markOf, SIGN, use } from "../units/format";
import { spoken, useUnits } from "../units/quantities";
import { Formula } from "./Formula";

/** One step of an explanation: its title and clause, formula and figures, and what is to be said of it. */
export function StepLine(props: { step: TraceStep }) {
  const { step } = props;
  const system = useUnits((u) => u.system);
  return (
    <li>
      <h4>
        {step.title} {step.clause && <span className="quiet">{step.clause}</span>}
      </h4>
      <Formula step={step} system={system} />
      {step.said && <p className="quiet">{spoken(step.said, system)}</p>}
    </li>
  );
}

/** Why a number is what it is: every step with its clause, formula and figures. */
export function TraceView(props: { row: Row; stale: boolean }) {
  const { row, stale } = props;
  const trace = row.trace;
  if (!trace) return null;
  const mark = markOf(row.utilisation);
  return (
    <article className="trace" data-testid="trace">
      <FirstMet words={["trace"]} />
      <h3>
        Trace: why {use(row.utilisation)} <span className={mark}>{SIGN[mark]}</span>
      </h3>
      {stale && <p className="warning">These figures are of an older revision.</p>}
      <ol className={mark}>
        {trace.steps.map((s, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: steps of several provisions may be alike, and never move
          <StepLine key={i} step={s} />
        ))}
        {trace.combination && (
          <li>
            <h4>
              Combination {trace.combination}{" "}
              <span className="quiet">
                {Object.entries(trace.factors)
                  .map(([k, f]) => `${f.toFixed(2)} ${k}`)
                  .join(" + ")}
              </span>
            </h4>
          </li>
        )}
        {trace.panels.length > 0 && (
          <li>
            <h4>
              Arrangement <span className="quiet">{trace.panels.length} loaded, drawn on the plan</span>
            </h4>
            <p className="panels mono">{[...panelsOf(trace.panels)].join(" ")}</p>
          </li>
        )}
      </ol>
    </article>
  );
}
