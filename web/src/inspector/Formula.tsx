import { Fragment, type ReactNode } from "react";
import type { TraceStep, TraceValue } from "../model/results";
import { type System, traced } from "../units/quantities";
import { tokensOf, WRITTEN } from "./formulaText";

/** A symbol such as `v_Rd,c` with its subscript set low. */
export function Symbol_(props: { name: string }) {
  const [base = "", ...low] = props.name.split("_");
  return (
    <>
      {WRITTEN[base] ?? base}
      {low.length > 0 && <sub>{low.join(" ")}</sub>}
    </>
  );
}

/** A formula with its symbols, or with the figures that stand for them. */
function Expression(props: { text: string; values?: Map<string, string> }) {
  const parts: ReactNode[] = tokensOf(props.text).map((t, i) => {
    // biome-ignore lint/suspicious/noArrayIndexKey: the tokens of a formula keep their order
    if (t.kind === "name") return <Fragment key={i}>{props.values?.get(t.text) ?? <Symbol_ name={t.text} />}</Fragment>;
    // biome-ignore lint/suspicious/noArrayIndexKey: the tokens of a formula keep their order
    return <Fragment key={i}>{t.shown}</Fragment>;
  });
  return <>{parts}</>;
}

/** A step's figures: an empirical formula holds in the units in which its values are kept, others in any. */
const figure = (v: TraceValue, system: System) => traced(v.value, v.quantity, v.unit, system);

/** One step: the formula, the formula with its figures, the result; or the figures alone. */
export function Formula(props: { step: TraceStep; system: System }) {
  const { step, system } = props;
  const { result } = step;
  if (!step.formula && !step.values.length && !result) return null;
  const own = step.empirical ? "SI" : system;
  const expression = step.formula.slice(step.formula.indexOf(" = ") + 3);
  const values = new Map(step.values.map((v) => [v.symbol, figure(v, own)]));
  return (
    <div className={step.empirical ? "formula empirical" : "formula"}>
      {step.formula && result ? (
        <>
          <div>
            <Symbol_ name={result.symbol} /> = <Expression text={expression} />
          </div>
          <div className="numbers">
            = <Expression text={expression} values={values} />
          </div>
          <div className="numbers result">
            = {figure(result, own)}
            {own !== system && ` = ${figure(result, system)}`}
          </div>
        </>
      ) : (
        [...step.values, ...(result ? [result] : [])].map((v) => (
          <div key={v.symbol} className="numbers">
            <Symbol_ name={v.symbol} /> = {figure(v, system)} {v.meaning && <span className="quiet">{v.meaning}</span>}
          </div>
        ))
      )}
    </div>
  );
}
