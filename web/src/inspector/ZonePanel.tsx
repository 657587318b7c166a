import type { FloorDocument, Labelled } from "../model/floor";
import type { Property } from "../model/property";
import type { Results, Zone } from "../model/results";
import { keptRails, type RailSetting, settingOf, withSetting } from "../model/zones";
import { usePicked } from "../session";
import { shown } from "../units/format";
import { useUnits } from "../units/quantities";
import { figureOf, resultOf, toldUnit } from "../units/results";
import { PropertyField } from "./PropertyField";
import { Remedies } from "./Remedies";

const RAILS: Property[] = [
  { path: "kind", name: "Kind", type: "choice", choices: () => ["stud", "link"], fallback: "stud" },
  { path: "pattern", name: "Pattern", type: "choice", choices: () => ["radial", "cruciform"], fallback: "radial" },
  { path: "rails", name: "Rails", type: "whole" },
  { path: "per_rail", name: "A rail has", type: "whole" },
  { path: "bar_mm", name: "Diameter", type: "number", quantity: "bar" },
  { path: "first_mm", name: "First at", type: "number", quantity: "cover" },
  { path: "spacing_mm", name: "Then at", type: "number", quantity: "cover" },
  { path: "yield_MPa", name: "Yields at", type: "number", quantity: "stress" },
];
const BETA: Property = {
  path: "beta",
  name: "Eccentricity",
  type: "choice",
  choices: () => ["general", "simplified"],
  fallback: "general",
};
const START: RailSetting = {
  kind: "stud",
  bar_mm: 12,
  yield_MPa: 500,
  rails: 12,
  per_rail: 4,
  first_mm: 90,
  spacing_mm: 140,
  pattern: "radial",
};

/** A zone's shear reinforcement, how its eccentricity is found, and what would mend it. */
export function ZonePanel(props: { document: FloorDocument; zone: Zone; opinions: Results["second_opinion"] }) {
  const { document, zone } = props;
  const { edit, shownRun } = usePicked("edit", "shownRun");
  const system = useUnits((u) => u.system);
  const setting = settingOf(document, zone.id);
  const rails = setting?.rails ?? null;
  const set = (line: string, change: Parameters<typeof withSetting>[2]) =>
    edit({ line, change: (d) => withSetting(d, zone.id, change) });
  const saved = zone.rails;
  const opinion = zone.of === "columns" ? props.opinions.find((o) => o.column === zone.id) : undefined;
  return (
    <>
      <Remedies document={document} of={zone.id} remedies={zone.remedies} />
      {zone.around === "column" && (
        <>
          <h3>Shear reinforcement</h3>
          {saved && (
            <p>
              {saved.laid} rails of {saved.per_rail}, {saved.designed ? "designed" : "as they are laid"}
              {saved.left_out > 0 && `, ${saved.left_out} left out at openings and edges`}.{" "}
              {zone.A_sw_mm2 !== null && <>A perimeter has {resultOf(zone.A_sw_mm2, "mm²", system)}. </>}
              {zone.u_laid_m !== null && <>Beyond them {resultOf(zone.u_laid_m, "m", system)}</>}
              {zone.u_out_m !== null && <>, {resultOf(zone.u_out_m, "m", system)} needed</>}.
            </p>
          )}
          {!saved && !rails && <p className="quiet">None is laid.</p>}
          {rails && (
            <div className="fields two">
              {RAILS.map((p) => (
                <PropertyField
                  key={p.path}
                  property={p}
                  items={[{ id: zone.id, ...rails } as Labelled]}
                  document={document}
                  save={(value, told) =>
                    set(`Rails of ${zone.id}: ${p.name.toLowerCase()} ${told}`, {
                      rails: { ...rails, [p.path]: value },
                    })
                  }
                />
              ))}
            </div>
          )}
          <div className="button-row">
            {!rails && (
              <button
                type="button"
                className="small"
                onClick={() => set(`Rails of ${zone.id} are laid by hand`, { rails: keptRails(zone) ?? START })}
              >
                {saved ? "Keep these rails" : "Lay rails"}
              </button>
            )}
            {rails && (
              <button
                type="button"
                className="small"
                onClick={() => set(`Rails of ${zone.id} are let go`, { rails: null })}
              >
                {document.design_rails === false ? "Take the rails away" : "Let them be designed"}
              </button>
            )}
          </div>
          {document.standard === "EN 1992-1-1" && (
            <div className="fields">
              <PropertyField
                property={BETA}
                items={[{ id: zone.id, beta: setting?.beta ?? "general" } as Labelled]}
                document={document}
                save={(value) =>
                  set(`Eccentricity of ${zone.id}: ${value}`, { beta: value as "general" | "simplified" })
                }
              />
            </div>
          )}
        </>
      )}
      {opinion && zone.around === "column" && (
        <>
          <h3>Second opinion</h3>
          <table className="small-table">
            <thead>
              <tr>
                <th>All live load present, {opinion.combination}</th>
                <th>by hand</th>
                <th>here</th>
              </tr>
            </thead>
            <tbody>
              <tr>
                <th>Force by tributary area, {toldUnit("kN", system).unit}</th>
                <td>{figureOf(opinion.tributary_kN, "kN", system, 0)}</td>
                <td>{figureOf(opinion.F_kN, "kN", system, 0)}</td>
              </tr>
              {opinion.frames.map((f) => (
                <tr key={f.angle_deg}>
                  <th>
                    Moment by a frame at {shown(f.angle_deg, "", 0)}°, {toldUnit("kNm", system).unit}
                  </th>
                  <td>{figureOf(f.frame_kNm, "kNm", system, 0)}</td>
                  <td>{figureOf(f.M_kNm, "kNm", system, 0)}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <p className="quiet">
            Tributary areas end half way between supports and know no continuity, so inner columns get too little; a
            frame carries all of the load in each direction over the full width of the slab, where the plate brings less
            of it to the column.
            {opinion.frames.length === 0 && " No frame: the supports in line with this column are not regular enough."}
          </p>
        </>
      )}
      {shownRun !== null && (
        <p className="button-row">
          {(["svg", "dxf"] as const).map((kind) => (
            <a
              key={kind}
              className="small"
              href={`/api/runs/${shownRun}/zone.${kind}?row=${encodeURIComponent(zone.row)}`}
            >
              Sheet as {kind.toUpperCase()}
            </a>
          ))}
        </p>
      )}
    </>
  );
}
