import { useSession, useStale } from "../app/session";
import { FindingView } from "../audit/FindingView";
import { alike, mapped, relabelled } from "../model/edits";
import {
  type FloorDocument,
  itemOf,
  itemsOf,
  type Kind,
  nameOf,
  PLURAL,
  type Ref,
  SINGULAR,
  type Slice,
  type Vertex,
} from "../model/floor";
import { withShared } from "../model/project";
import type { Results, Row } from "../model/results";
import { propertiesOf, withValue } from "../model/schema";
import { templateFor, useGesture } from "../plan/tools/gesture";
import { useTemplates } from "../plan/tools/templates";
import { type Tool, toolOf } from "../plan/tools/tools";
import { BUILDING } from "../plan/usePlanKeys";
import { markOf, SIGN, use } from "../units/format";
import { useUnits } from "../units/quantities";
import { figureOf, toldUnit } from "../units/results";
import { ApplyLoad, waysFor } from "./ApplyLoad";
import { ArrangePanel } from "./ArrangePanel";
import { CombinePanel } from "./CombinePanel";
import { LoadPanel } from "./LoadPanel";
import { FinerButton, MeshPanel } from "./MeshPanel";
import { OutlineEditor } from "./OutlineEditor";
import { ProbeHistory } from "./ProbeHistory";
import { ProjectPanel } from "./ProjectPanel";
import { PropertyField } from "./PropertyField";
import { ArrangementView, PlaceView, ReactionReading } from "./ReadingView";
import { RunView } from "./RunView";
import { SliceView } from "./SliceView";
import { TraceView } from "./TraceView";

const CHECKS: Record<string, string> = { flexure: "Steel", punching: "Zone", deflection: "Sag" };

/** What is selected: its properties, its results, its trace. */
export function Inspector() {
  const { document, results, selection, chosen, step } = useSession();
  const tool = toolOf(useGesture((g) => g.tool) ?? "");
  return (
    <aside className="inspector" aria-label="Inspector">
      {!document ? (
        <p className="empty">Opening the floor.</p>
      ) : tool?.kind && tool.kind !== "grid" ? (
        <TemplateView document={document} tool={tool} />
      ) : chosen.length > 1 ? (
        <ManyView document={document} chosen={chosen} />
      ) : selection?.type === "object" ? (
        <ObjectView document={document} results={results} kind={selection.kind} id={selection.id} />
      ) : selection?.type === "place" ? (
        <PlaceView at={selection.at} />
      ) : selection?.type === "arrangement" ? (
        <ArrangementView name={selection.name} />
      ) : selection?.type === "run" ? (
        <RunView id={selection.id} />
      ) : selection?.type === "row" ? (
        <RowView results={results} check={selection.check} where={selection.where} document={document} />
      ) : step === "setout" ? (
        <ProjectPanel />
      ) : step === "load" ? (
        <LoadPanel document={document} />
      ) : step === "combine" ? (
        <CombinePanel document={document} />
      ) : step === "arrange" ? (
        <ArrangePanel document={document} />
      ) : (
        <FloorView document={document} results={results} />
      )}
    </aside>
  );
}

/** The kinds whose values belong to the project. */
const SHARED: Kind[] = ["concretes", "rebars", "grid", "load_materials", "build_ups", "partitions", "occupancies"];

/** Properties of several objects of one kind at once, or of one. */
function Properties(props: { document: FloorDocument; refs: Ref[] }) {
  const { document, refs } = props;
  const { edit, editProject } = useSession();
  const kind = (refs[0] as Ref).kind;
  const items = refs.map((r) => itemOf(document, r)).filter((i) => i !== undefined);
  if (!items.length) return null;
  const common = items
    .map((i) => propertiesOf(kind, i, document))
    .reduce((a, b) => a.filter((p) => b.some((q) => q.path === p.path)))
    .filter((p) => items.length === 1 || (p.path !== "id" && p.type !== "points"));
  return (
    <div className="fields">
      {common.map((property) => (
        <PropertyField
          key={kind + property.path + refs.map((r) => r.id).join()}
          property={property}
          items={items}
          document={document}
          save={(value, told) => {
            const line = `${nameOf(refs)}: ${property.name.toLowerCase()} ${told}`;
            const [only] = refs;
            if (SHARED.includes(kind))
              return editProject({ line, change: (p) => withShared(p, kind, refs, property.path, value) });
            if (property.path === "id" && only)
              return edit({
                line: `${nameOf([only])} is called ${value}`,
                change: (d) => relabelled(d, only, String(value)),
                picks: [{ kind, id: String(value) }],
              });
            return edit({
              line,
              change: (d) => mapped(d, refs, (i) => withValue(i, property.path, value)),
              picks: refs,
            });
          }}
        />
      ))}
    </div>
  );
}

/** The template of a drawing tool: what the next object will be like. */
function TemplateView(props: { document: FloorDocument; tool: Tool }) {
  const { document, tool } = props;
  const kept = useTemplates((t) => t.items[tool.key]);
  const template = kept ?? templateFor(tool);
  if (!template || !tool.kind) return null;
  const known = propertiesOf(tool.kind, template, document).filter(
    (p) => p.path !== "id" && p.type !== "points" && !p.path.startsWith("at."),
  );
  return (
    <>
      <h2>Next {tool.name.toLowerCase()}</h2>
      <p className="quiet">It is drawn like this. Change it before or between drawing.</p>
      <div className="fields">
        {known.map((property) => (
          <PropertyField
            key={tool.key + property.path}
            property={property}
            items={[template]}
            document={document}
            save={async (value) => {
              useTemplates.getState().set(tool.key, withValue(template, property.path, value));
              return true;
            }}
          />
        ))}
      </div>
    </>
  );
}

function ManyView(props: { document: FloorDocument; chosen: Ref[] }) {
  const { document, chosen } = props;
  const choose = useSession((s) => s.choose);
  const step = useSession((s) => s.step);
  const kinds = [...new Set(chosen.map((r) => r.kind))];
  return (
    <>
      <h2>{nameOf(chosen)}</h2>
      {kinds.length > 1 ? (
        <>
          <p className="quiet">Several kinds are selected. Keep one kind to set its values together:</p>
          {kinds.map((k) => (
            <button
              type="button"
              className="row-link"
              key={k}
              onClick={() => choose(chosen.filter((r) => r.kind === k))}
            >
              <span>{PLURAL[k]}</span>
              <span className="mono">{chosen.filter((r) => r.kind === k).length}</span>
            </button>
          ))}
        </>
      ) : (
        <>
          <p className="quiet">What is typed here is set for all of them.</p>
          <Properties document={document} refs={chosen} />
          {step === "load" && waysFor(chosen).length > 0 && (
            <ApplyLoad key={chosen.map((r) => r.id).join()} document={document} refs={chosen} />
          )}
        </>
      )}
    </>
  );
}

function ObjectView(props: { document: FloorDocument; results: Results | null; kind: Kind; id: string }) {
  const { document, results, kind, id } = props;
  const { openRow, choose, findings, step } = useSession();
  const system = useUnits((u) => u.system);
  const item = itemsOf(document, kind).find((i) => i.id === id);
  if (!item) return <p className="empty">{`${SINGULAR[kind]} ${id} is not on this floor any more.`}</p>;
  const reaction = results?.reactions.find((r) => r.support === id);
  const editing = BUILDING.includes(step);
  const rows = results?.rows.filter((r) => r.check === "punching" && r.where === id && kind === "columns") ?? [];
  const covered = kind === "slabs" ? (document.thickenings ?? []).length : 0;
  const same = alike(document, { kind, id });
  const mine = findings.filter((f) => f.list === kind && f.id === id);
  const vertices = (item.outline ?? (kind === "grid" ? null : item.line)) as Vertex[] | null | undefined;
  return (
    <>
      <h2>
        {SINGULAR[kind]} {id}
      </h2>
      <p className="quiet">
        {[item.nature, item.limit_state, item.case && `case ${item.case}`]
          .filter(Boolean)
          .join(", ")
          .replaceAll("_", " ")}
      </p>
      {mine.map((f) => (
        <FindingView key={f.rule + f.what} finding={f} />
      ))}
      {kind === "combinations" && (
        <p className="rule-of">
          {item.rule
            ? `${item.edited ? "Edited by hand; made by " : "By "}${item.rule as string}.`
            : "A row of your own."}
        </p>
      )}
      {kind === "slices" && <SliceView slice={item as Slice} />}
      {kind === "probes" && !editing && <ProbeHistory id={id} />}
      <Properties document={document} refs={[{ kind, id }]} />
      {step === "load" && waysFor([{ kind, id }]).length > 0 && (
        <ApplyLoad key={id} document={document} refs={[{ kind, id }]} />
      )}
      {vertices && <OutlineEditor target={{ kind, id }} vertices={vertices} closed={Boolean(item.outline)} />}
      <div className="button-row">
        <FinerButton document={document} item={item} name={nameOf([{ kind, id }])} />
      </div>
      {same.length > 1 && (
        <button type="button" className="row-link" onClick={() => choose(same)}>
          <span>Select all that are alike</span>
          <span className="mono">{same.length}</span>
        </button>
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
      {reaction && !editing && <ReactionReading support={id} />}
      {reaction && (
        <details open={editing}>
          <summary>Reaction in every case and combination</summary>
          <table className="small-table">
            <thead>
              <tr>
                <th />
                <th>F {toldUnit("kN", system).unit}</th>
                <th>
                  M<sub>x</sub> {toldUnit("kNm", system).unit}
                </th>
                <th>
                  M<sub>y</sub> {toldUnit("kNm", system).unit}
                </th>
              </tr>
            </thead>
            <tbody>
              {Object.entries(reaction.values).map(([label, v]) => (
                <tr key={label}>
                  <th>{label}</th>
                  <td>{figureOf(v.F_kN, "kN", system)}</td>
                  <td>{figureOf(v.Mx_kNm, "kNm", system)}</td>
                  <td>{figureOf(v.My_kNm, "kNm", system)}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <p className="quiet">F is positive where the support pushes up; combinations with all live load.</p>
        </details>
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
  const { openRow, floor, run, findings } = useSession();
  const system = useUnits((u) => u.system);
  const kN = toldUnit("kN", system).unit;
  return (
    <>
      <h2>{floor?.name}</h2>
      <p className="quiet">
        {document.standard}. Last change: {floor?.line}.
      </p>
      {findings.length > 0 && (
        <>
          <h3>Audit</h3>
          {findings.map((f) => (
            <FindingView key={f.rule + f.list + f.id + f.what} finding={f} named />
          ))}
        </>
      )}
      {!results && document.slabs.length > 0 && (
        <p className="empty">
          {(run?.state ?? floor?.run?.state) === "refused"
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
                <th>Load {kN}</th>
                <th>Reaction {kN}</th>
                <th>Lost {kN}</th>
              </tr>
            </thead>
            <tbody>
              {results.equilibrium.map((e) => (
                <tr key={e.case}>
                  <th>{e.case}</th>
                  <td>{figureOf(e.applied_kN, "kN", system)}</td>
                  <td>{figureOf(e.reaction_kN, "kN", system)}</td>
                  <td>{figureOf(e.lost_kN, "kN", system)}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <MeshPanel document={document} results={results} />
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
