import type { FloorDocument } from "../model/floor";
import { type Remedy, withRemedy } from "../model/zones";
import { usePicked } from "../session";
import { markOf, SIGN, shown, use } from "../units/format";
import { spoken, useUnits } from "../units/quantities";
import { resultOf } from "../units/results";

/** Changes that would mend what fails, as cards: utilisation, what they add, what they make worse, and a button that makes them. */
export function Remedies(props: { document: FloorDocument; of: string; remedies: Remedy[] }) {
  const { of, remedies } = props;
  const { edit } = usePicked("edit");
  const system = useUnits((u) => u.system);
  const apply = (r: Remedy) => edit({ line: `${of}: ${spoken(r.said, system)}`, change: (d) => withRemedy(d, r.edit) });
  if (!remedies.length) return null;
  return (
    <section aria-label="What would mend it">
      <h3>What would mend it</h3>
      <p className="quiet">Estimates on the mesh of this run, with its bars; applying one computes the floor anew.</p>
      <ul className="cards">
        {remedies.map((r) => {
          const mark = markOf(r.utilisation);
          return (
            <li key={r.kind + r.text} data-remedy={r.kind}>
              <p className="with-use">
                <b>{spoken(r.said, system)}</b>
                <span className={`mono ${mark}`}>
                  {use(r.utilisation)} {SIGN[mark]}
                </span>
              </p>
              <p className="quiet">{added(r, system, props.document.costs?.currency ?? "EUR")}</p>
              {r.worse_said && <p className="quiet">{spoken(r.worse_said, system)}</p>}
              {"concretes" in r.edit ? (
                <p className="quiet">Add such a concrete to the project, then choose it for the slab.</p>
              ) : (
                <button type="button" className="small" onClick={() => void apply(r)}>
                  Apply
                </button>
              )}
            </li>
          );
        })}
      </ul>
    </section>
  );
}

const M3_IN_YD3 = 1.3079506;

/** What a remedy adds, in the project's units. */
function added(r: Remedy, system: "SI" | "US", currency: string): string {
  const us = system === "US";
  const mass = (kg: number) =>
    kg >= 1000 && !us ? `${shown(kg / 1000, "", 1)} t` : resultOf(kg, "kg", system, us || kg >= 10 ? 0 : 1);
  const parts = [];
  if (r.concrete_m3 > 0)
    parts.push(
      us ? `${shown(r.concrete_m3 * M3_IN_YD3, "", 2)} yd³ concrete` : `${shown(r.concrete_m3, "", 2)} m³ concrete`,
    );
  if (r.steel_kg > 0) parts.push(`${mass(r.steel_kg)} steel`);
  if (r.formwork_m2 > 0) parts.push(`${resultOf(r.formwork_m2, "m²", system)} formwork`);
  if (r.carbon_kg > 0) parts.push(`${mass(r.carbon_kg)} CO₂e`);
  if (r.cost > 0) parts.push(`about ${shown(Number(r.cost.toPrecision(2)), "", 0)} ${currency}`);
  return parts.length ? `Adds ${parts.join(", ")}.` : "Adds nothing that is counted.";
}
