import { FindingView } from "../audit/FindingView";
import { checkOf } from "../checks";
import { nameOf, plural, SHARED, singular } from "../kinds";
import { alike, mapped, relabelled } from "../kinds/edits";
import type { Tool } from "../kinds/kind";
import { propertiesOf } from "../kinds/properties";
import { type FloorDocument, itemOf, itemsOf, type Kind, type Ref, type Slice, type Vertex } from "../model/floor";
import { withShared } from "../model/project";
import { withValue } from "../model/property";
import type { Results } from "../model/results";
import { templateFor, useGesture } from "../plan/tools/gesture";
import { useTemplates } from "../plan/tools/templates";
import { toolOf } from "../plan/tools/tools";
import { BUILDING } from "../plan/usePlanKeys";
import { usePicked, useSession } from "../session";
import { markOf, SIGN, use } from "../units/format";
import { reasonOf, useUnits } from "../units/quantities";
import { figureOf, toldUnit } from "../units/results";
import { ApplyLoad, waysFor } from "./ApplyLoad";
import { ArrangePanel } from "./ArrangePanel";
import { BarView } from "./BarView";
import { CombinePanel } from "./CombinePanel";
import { FloorView } from "./FloorView";
import { LoadPanel } from "./LoadPanel";
import { FinerButton, FinerThere } from "./MeshPanel";
import { OutlineEditor } from "./OutlineEditor";
import { ProbeHistory } from "./ProbeHistory";
import { ProjectPanel } from "./ProjectPanel";
import { PropertyField } from "./PropertyField";
import { ArrangementView, PlaceView, ReactionReading } from "./ReadingView";
import { partName, RowView } from "./RowView";
import { RunView } from "./RunView";
import { SliceView } from "./SliceView";
import { SpreadPanel } from "./SpreadPanel";
import { Springs } from "./Springs";
import { StationView } from "./StationView";
import { TendonView } from "./TendonView";
import { OnCrossings, OverGrid, Together } from "./Together";
import { REPLACED, ValueView } from "./ValueView";

/** What is selected: its properties, its results, its trace. */
export function Inspector() {
  const { document, results, selection, chosen, step } = usePicked(
    "document",
    "results",
    "selection",
    "chosen",
    "step",
  );
  const tool = toolOf(useGesture((g) => g.tool) ?? "");
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what is longer than the screen is scrolled by keys
    <aside className="inspector" aria-label="Inspector" tabIndex={0}>
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
      ) : selection?.type === "bars" ? (
        <BarView document={document} results={results} mark={selection.mark} />
      ) : selection?.type === "station" ? (
        <StationView results={results} of={selection} />
      ) : selection?.type === "run" ? (
        <RunView id={selection.id} />
      ) : selection?.type === "row" ? (
        <RowView results={results} id={selection.key} document={document} />
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

/** Properties of several objects of one kind at once, or of one. */
function Properties(props: { document: FloorDocument; refs: Ref[] }) {
  const { document, refs } = props;
  const { edit, editProject } = usePicked("edit", "editProject");
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
  if (tool.key === "spread") return <SpreadPanel document={document} />;
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
      {tool.key === "slab" && <OverGrid document={document} like={template} />}
      {tool.key === "column" && <OnCrossings document={document} like={template} />}
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
              <span>{plural(k)}</span>
              <span className="mono">{chosen.filter((r) => r.kind === k).length}</span>
            </button>
          ))}
        </>
      ) : (
        <>
          <p className="quiet">What is typed here is set for all of them.</p>
          <Properties document={document} refs={chosen} />
          <Together key={chosen.map((r) => r.id).join()} document={document} refs={chosen} />
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
  const { openRow, choose, findings, step } = usePicked("openRow", "choose", "findings", "step");
  const system = useUnits((u) => u.system);
  const item = itemsOf(document, kind).find((i) => i.id === id);
  if (!item) return <p className="empty">{`${singular(kind)} ${id} is not on this floor any more.`}</p>;
  const reaction = results?.reactions.find((r) => r.support === id);
  const editing = BUILDING.includes(step);
  const rowsOf = (name?: string) => (results?.rows ?? []).filter((r) => r.id.of.kind === kind && r.id.of.id === name);
  const own = rowsOf(id);
  // Of a beam that is drawn in pieces some checks are of all of it, under the name of one of them.
  const whole = kind === "beams" ? results?.beams.find((b) => b.pieces?.includes(id))?.id : undefined;
  const rows = [...own, ...rowsOf(whole).filter((r) => !own.some((o) => o.check === r.check))];
  const bare = (results?.uncovered ?? []).filter((u) => u.kind === kind && u.id === id);
  // Places where only finer elements tell, the worst first.
  const coarse = bare.filter((u) => u.at && u.row.includes("/mesh "));
  const covered = kind === "slabs" ? (document.thickenings ?? []).length : 0;
  const same = alike(document, { kind, id });
  const mine = findings.filter((f) => f.list === kind && f.id === id);
  const vertices = (item.outline ?? (kind === "grid" ? null : item.line)) as Vertex[] | null | undefined;
  return (
    <>
      <h2>
        {singular(kind)} {id}
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
      {kind === "tendons" && <TendonView results={results} id={id} />}
      <Properties document={document} refs={[{ kind, id }]} />
      {(editing || kind === "mats") && <Together key={id} document={document} refs={[{ kind, id }]} />}
      {REPLACED.includes(kind) && <ValueView key={id} kind={kind} item={item} document={document} />}
      {step === "load" && waysFor([{ kind, id }]).length > 0 && (
        <ApplyLoad key={id} document={document} refs={[{ kind, id }]} />
      )}
      {vertices && <OutlineEditor target={{ kind, id }} vertices={vertices} closed={Boolean(item.outline)} />}
      {(kind === "columns" || kind === "walls") && editing && <Springs kind={kind} id={id} />}
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
            <button type="button" className="row-link" key={r.id.key} onClick={() => openRow(r)}>
              <span>
                {checkOf(r.check).title} {r.id.part && <span className="quiet">{partName(r.id.part)}</span>}
              </span>
              <span className={`mono ${markOf(r.utilisation)}`}>
                {use(r.utilisation)} {SIGN[markOf(r.utilisation)]}
              </span>
            </button>
          ))}
        </>
      )}
      {bare
        .filter((u) => !coarse.includes(u))
        .map((u) => (
          <p key={u.row} className="warning">
            {checkOf(u.check).title}: not covered; {reasonOf(u, system)}.
          </p>
        ))}
      {coarse[0] && (
        <p className="warning">
          {checkOf(coarse[0].check).title}: not covered; {reasonOf(coarse[0], system)}
          {coarse.length > 1 && `; ${coarse.length - 1} more places like it`}.{" "}
          <FinerThere document={document} at={coarse.map((u) => u.at as number[])} name={id} />
        </p>
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
