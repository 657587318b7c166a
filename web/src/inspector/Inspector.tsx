import { useSession, useStale } from "../app/session";
import { type FloorDocument, itemsOf, type Kind, SINGULAR, withValue } from "../model/floor";
import type { Results, Row } from "../model/results";
import { markOf, SIGN, shown, use } from "../units/format";
import { NumberField } from "./NumberField";
import { fieldsOf, valueAt } from "./schema";
import { TraceView } from "./TraceView";

const CHECKS: Record<string, string> = { flexure: "Steel", punching: "Zone", deflection: "Sag" };

/** What is selected: its properties, its results, its trace. */
export function Inspector() {
  const { document, results, selection } = useSession();
  return (
    <aside className="inspector" aria-label="Inspector">
      {!document ? (
        <p className="empty">Opening the floor.</p>
      ) : selection?.type === "object" ? (
        <ObjectView document={document} results={results} kind={selection.kind} id={selection.id} />
      ) : selection?.type === "row" ? (
        <RowView results={results} check={selection.check} where={selection.where} document={document} />
      ) : (
        <FloorView document={document} results={results} />
      )}
    </aside>
  );
}

function Figure(props: { name: string; value: string; unit: string }) {
  return (
    <div className="figure-line">
      <span>{props.name}</span>
      <span className="mono">
        {props.value} <span className="unit">{props.unit}</span>
      </span>
    </div>
  );
}

function ObjectView(props: { document: FloorDocument; results: Results | null; kind: Kind; id: string }) {
  const { document, results, kind, id } = props;
  const { edit, openRow } = useSession();
  const item = itemsOf(document, kind).find((i) => i.id === id);
  if (!item) return <p className="empty">{`${SINGULAR[kind]} ${id} is not on this floor any more.`}</p>;
  const fields = fieldsOf(kind, item, document);
  const reaction = results?.reactions.find((r) => r.support === id);
  const rows = results?.rows.filter((r) => r.check === "punching" && r.where === id && kind === "columns") ?? [];
  const covered = kind === "slabs" ? (document.thickenings ?? []).length : 0;
  return (
    <>
      <h2>
        {SINGULAR[kind]} {id}
      </h2>
      <p className="quiet">
        {[item.kind, item.nature, item.limit_state, item.concrete, item.case && `case ${item.case}`]
          .filter(Boolean)
          .join(", ")
          .replaceAll("_", " ")}
      </p>
      {fields.length === 0 && <p className="empty">Its numbers cannot be edited here.</p>}
      <div className="fields">
        {fields.map((field) => (
          <NumberField
            key={`${kind}${id}${field.path}`}
            field={field}
            value={Number(valueAt(item, field.path) ?? 0)}
            save={(value) =>
              edit({
                line: `${SINGULAR[kind]} ${id}: ${field.name.toLowerCase()} ${shown(Number(valueAt(item, field.path)) * field.factor, "", field.digits)} to ${shown(value * field.factor, "", field.digits)} ${field.unit}`.trim(),
                change: (d) => withValue(d, kind, id, field.path, value),
              })
            }
          />
        ))}
      </div>
      {typeof item.concrete === "string" && (
        <div className="number-field">
          <label htmlFor="concrete-of">Concrete</label>
          <select
            id="concrete-of"
            value={item.concrete}
            onChange={(e) =>
              void edit({
                line: `${SINGULAR[kind]} ${id}: concrete ${item.concrete} to ${e.target.value}`,
                change: (d) => withValue(d, kind, id, "concrete", e.target.value),
              })
            }
          >
            {document.concretes.map((c) => (
              <option key={c.id}>{c.id}</option>
            ))}
          </select>
        </div>
      )}
      {covered > 0 && <p className="quiet">{covered} thickenings keep their own thickness.</p>}
      {rows.length > 0 && (
        <>
          <h3>Checks</h3>
          {rows.map((r) => (
            <button type="button" className="row-link" key={r.where + String(r.utilisation)} onClick={() => openRow(r)}>
              <span>Punching, why</span>
              <span className={`mono ${markOf(r.utilisation)}`}>
                {use(r.utilisation)} {SIGN[markOf(r.utilisation)]}
              </span>
            </button>
          ))}
        </>
      )}
      {reaction && (
        <>
          <h3>Reaction of the joint</h3>
          <table className="small-table">
            <thead>
              <tr>
                <th />
                <th>F kN</th>
                <th>
                  M<sub>x</sub> kNm
                </th>
                <th>
                  M<sub>y</sub> kNm
                </th>
              </tr>
            </thead>
            <tbody>
              {Object.entries(reaction.values).map(([label, v]) => (
                <tr key={label}>
                  <th>{label}</th>
                  <td>{shown(v.F_kN, "kN", 1)}</td>
                  <td>{shown(v.Mx_kNm, "kNm")}</td>
                  <td>{shown(v.My_kNm, "kNm")}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <p className="quiet">F is positive where the support pushes up; combinations with all live load.</p>
        </>
      )}
    </>
  );
}

function RowView(props: { document: FloorDocument; results: Results | null; check: string; where: string }) {
  const { results, check, where, document } = props;
  const { select } = useSession();
  const stale = useStale();
  const row = results?.rows
    .filter((r) => r.check === check && r.where === where)
    .reduce<Row | null>((best, r) => (best && (best.utilisation ?? 0) >= (r.utilisation ?? 0) ? best : r), null);
  if (!row?.trace) return <p className="empty">This place has no such check in the newest results.</p>;
  const mark = markOf(row.utilisation);
  const column = check === "punching" && (document.columns ?? []).some((c) => c.id === where);
  return (
    <>
      <h2 className="with-use">
        <span>
          {CHECKS[check]} {where}
        </span>
        <span className={`mono ${mark}`}>
          {use(row.utilisation)} {SIGN[mark]}
        </span>
      </h2>
      {column && (
        <button type="button" className="small" onClick={() => select({ type: "object", kind: "columns", id: where })}>
          Column {where}
        </button>
      )}
      <TraceView trace={row.trace} stale={stale} />
    </>
  );
}

function FloorView(props: { document: FloorDocument; results: Results | null }) {
  const { document, results } = props;
  const { openRow, floor, run } = useSession();
  return (
    <>
      <h2>{floor?.name}</h2>
      <p className="quiet">
        {document.standard}. Last change: {floor?.line}.
      </p>
      {!results && (
        <p className="empty">
          {run?.state === "refused"
            ? "This floor cannot be computed yet; the message says why."
            : "The first run is under way."}
        </p>
      )}
      {results && (
        <>
          <h3>Does it work?</h3>
          {results.verdict.map((r) => (
            <button type="button" className="row-link" key={r.check} onClick={() => openRow(r)} disabled={!r.trace}>
              <span>
                {r.check} <span className="quiet">{r.where || r.reason}</span>
              </span>
              <span className={`mono ${markOf(r.utilisation)}`}>
                {use(r.utilisation)} {SIGN[markOf(r.utilisation)]}
              </span>
            </button>
          ))}
          <h3>Balance</h3>
          <table className="small-table">
            <thead>
              <tr>
                <th>Case</th>
                <th>Load kN</th>
                <th>Reaction kN</th>
                <th>Lost kN</th>
              </tr>
            </thead>
            <tbody>
              {results.equilibrium.map((e) => (
                <tr key={e.case}>
                  <th>{e.case}</th>
                  <td>{shown(e.applied_kN, "kN", 1)}</td>
                  <td>{shown(e.reaction_kN, "kN", 1)}</td>
                  <td>{shown(e.lost_kN, "kN", 1)}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <h3>Mesh</h3>
          <Figure name="Nodes" value={results.mesh.nodes.toLocaleString("en")} unit="" />
          <Figure name="Elements" value={results.mesh.elements.toLocaleString("en")} unit="" />
          <Figure name="Least angle" value={shown(results.mesh.least_angle_deg, "", 0)} unit="°" />
          {results.messages.length > 0 && <h3>Messages</h3>}
          {results.messages.map((m) => (
            <p key={m.where + m.sentence} className={m.severity}>
              <b>{m.where}</b> {m.sentence}.
            </p>
          ))}
        </>
      )}
    </>
  );
}
