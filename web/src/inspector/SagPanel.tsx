import type { Sag } from "../model/results";
import { shown } from "../units/format";
import { useUnits } from "../units/quantities";
import { figureOf, toldUnit } from "../units/results";

const PARTS = ["load, uncracked", "shrinkage", "creep", "cracking"] as const;
const KEYS = ["load", "shrinkage", "creep", "cracking"] as const;
const CAUSES: Record<string, string> = {
  modulus: "the modulus",
  tension: "the tensile strength",
  creep: "creep",
  shrinkage: "shrinkage",
};

/** What a sag is made of, and how sure it is. */
export function SagPanel(props: { sag: Sag }) {
  const { sag } = props;
  const system = useUnits((u) => u.system);
  const unit = toldUnit("mm", system).unit;
  const size = sag.parts_mm.reduce((t, p) => t + Math.abs(p), 0) || 1;
  const variance = sag.causes.reduce((t, c) => t + c.sag_mm ** 2, 0) || 1;
  const [most, next] = sag.causes;
  const share = (mm: number) => `${Math.round((100 * mm ** 2) / variance)} %`;
  return (
    <>
      <p className="quiet">
        {figureOf(sag.sag_mm, "mm", system)} of {figureOf(sag.limit_mm, "mm", system)} {unit}, span{" "}
        {figureOf(sag.span_m, "m", system)} {toldUnit("m", system).unit}.{" "}
        {sag.by === "estimate" && "A quick estimate: curvatures interpolated once."}
      </p>
      <h3>What it is made of, {unit}</h3>
      <div className="parts-bar" aria-hidden="true">
        {sag.parts_mm.map((p, k) => (
          <span key={KEYS[k]} className={`part-${KEYS[k]}`} style={{ width: `${(100 * Math.abs(p)) / size}%` }} />
        ))}
      </div>
      <table className="small-table parts-of">
        <tbody>
          {sag.parts_mm.map((p, k) => (
            <tr key={KEYS[k]}>
              <th>
                <span className={`swatch part-${KEYS[k]}`} aria-hidden="true" /> {PARTS[k]}
              </th>
              <td>{figureOf(p, "mm", system)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {sag.band_mm && sag.chance !== null && (
        <>
          <h3>How sure</h3>
          <table className="small-table">
            <tbody>
              <tr>
                <th>8 of 10 such floors, {unit}</th>
                <td>
                  {figureOf(sag.band_mm[0], "mm", system)} to {figureOf(sag.band_mm[1], "mm", system)}
                </td>
              </tr>
              <tr>
                <th>Chance to keep the limit, %</th>
                <td>{shown(100 * (1 - sag.chance), "", 0)}</td>
              </tr>
            </tbody>
          </table>
          {most && (
            <p className="quiet">
              Mostly by {CAUSES[most.property] ?? most.property} ({share(most.sag_mm)})
              {next && ` and ${CAUSES[next.property] ?? next.property} (${share(next.sag_mm)})`}.
            </p>
          )}
        </>
      )}
    </>
  );
}
