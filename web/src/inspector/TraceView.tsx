import type { Trace } from "../model/results";
import { markOf, SIGN, use } from "../units/format";
import { useUnits } from "../units/quantities";
import { toldText } from "../units/results";

/** Why a number is what it is: every step with its clause, formula and figures. */
export function TraceView(props: { trace: Trace; stale: boolean }) {
  const { trace, stale } = props;
  const mark = markOf(trace.utilisation);
  const system = useUnits((u) => u.system);
  // Formulas whose figures stand without units are the standard's own, in SI; others can be told in any unit.
  const told = trace.check === "deflection";
  return (
    <article className="trace" data-testid="trace">
      <h3>
        Trace: why {use(trace.utilisation)} <span className={mark}>{SIGN[mark]}</span>
      </h3>
      {system === "US" && !told && <p className="quiet">The figures of these formulas are in kN, m and mm².</p>}
      {stale && <p className="warning">These figures are of an older revision.</p>}
      <ol className={mark}>
        {trace.steps.map((s) => (
          <li key={s.title}>
            <h4>
              {s.title} {s.clause && <span className="quiet">{s.clause}</span>}
            </h4>
            {(s.formula || s.numbers) && (
              <div className="formula">
                {s.formula && <div>{s.formula}</div>}
                {s.numbers && <div className="numbers">{told ? toldText(s.numbers, system) : s.numbers}</div>}
              </div>
            )}
          </li>
        ))}
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
        {trace.panels.length > 0 && (
          <li>
            <h4>
              Arrangement <span className="quiet">{trace.panels.length} loaded, drawn on the plan</span>
            </h4>
            <p className="panels mono">{trace.panels.map((p) => p.split(": ").pop()).join(" ")}</p>
          </li>
        )}
      </ol>
    </article>
  );
}
