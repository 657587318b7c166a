import { type PointerEvent, useEffect, useMemo, useState } from "react";
import { FirstMet } from "../display/FirstMet";
import { heightOf, useRoom } from "../display/room";
import { SHARED, tablesAt } from "../kinds";
import { itemsOf, type Kind } from "../model/floor";
import { STEPS, type StepName } from "../model/step";
import { MET_IN } from "../model/words";
import { useReactions } from "../plan/reactionLabels";
import { useGesture } from "../plan/tools/gesture";
import { useBeside } from "../readings/beside";
import { useChosen } from "../readings/chosen";
import { useDiagrams } from "../readings/diagrams";
import { usePlaces } from "../readings/places";
import { useReadings } from "../readings/readings";
import { useRuns } from "../readings/runs";
import { ChangesView } from "../review/ChangesView";
import { CommentsView } from "../review/CommentsView";
import { SigningView } from "../review/SigningView";
import { usePicked, useSession } from "../session";
import { openOnes, useReview } from "../session/review";
import { SectionView } from "../space/SectionView";
import { useUnits } from "../units/quantities";
import { CarriedView } from "./CarriedView";
import { CombinationSheet } from "./CombinationSheet";
import { copyTable, downloadTable, useExported } from "./exported";
import { FloorSheet } from "./FloorSheet";
import { HistoryView } from "./HistoryView";
import { ParameterSheet } from "./ParameterSheet";
import { type ProjectList, ProjectSheet } from "./ProjectSheet";
import { ReadTable } from "./ReadTable";
import { StripDiagram } from "./StripDiagram";
import { TendonElevation } from "./TendonElevation";
import { TABLES } from "./tables";

type Tab = [string, string];

/** Tables of each step besides those of its objects: before them and after them, by key and name. */
const READ: Partial<Record<StepName, { before?: Tab[]; after?: Tab[] }>> = {
  setout: {
    before: [
      ["levels", "Levels"],
      ["grid_sets", "Grid"],
    ],
  },
  load: { after: [["sums", "Sums"]] },
  combine: { after: [["parameters", "Values"]] },
  arrange: {
    before: [
      ["arrangements", "Arrangements"],
      ["derived", "Panels"],
    ],
  },
  analyse: {
    after: [
      ["reactions", "Reactions"],
      ["carried", "Carried down"],
      ["slices", "Slices"],
      ["read_probes", "Probes"],
      ["runs", "Runs"],
    ],
  },
  strips: { before: [["strips", "Strips"]] },
  steel: {
    after: [
      ["diagram", "Diagram"],
      ["steel", "Strips"],
      ["bars", "Bars"],
      ["shear", "Shear"],
      ["beam_spans", "Beams"],
      ["mats", "Mats"],
      ["designed_bars", "Kept bars"],
      ["steel_uncovered", "Not covered"],
    ],
  },
  punching: {
    after: [
      ["zones", "Zones"],
      ["rails", "Rails"],
      ["punching_uncovered", "Not covered"],
    ],
  },
  tendons: {
    before: [["elevation", "Elevation"]],
    after: [
      ["stressing", "Stressing"],
      ["stresses", "Stresses"],
    ],
  },
  deflection: {
    before: [["life", "Over time"]],
    after: [
      ["sags", "Deflections"],
      ["life_stages", "Stages"],
    ],
  },
  review: {
    before: [
      ["signing", "Checks"],
      ["comments", "Comments"],
      ["changes", "What changed"],
    ],
  },
};
const TABS = Object.fromEntries(
  STEPS.map(({ key }) => [key, [...(READ[key]?.before ?? []), ...tablesAt(key), ...(READ[key]?.after ?? [])]]),
) as Record<StepName, Tab[]>;

/** Tabs that are no tables of objects. */
const VIEWS = [
  "combinations",
  "parameters",
  "diagram",
  "life",
  "carried",
  "elevation",
  "signing",
  "comments",
  "changes",
];
const PROJECT: string[] = ["levels", "grid_sets", ...SHARED];
/** Which table of each step is open. */
const FIRST = Object.fromEntries(Object.entries(TABS).map(([step, tabs]) => [step, tabs[0]?.[0] ?? ""])) as Record<
  StepName,
  string
>;

/** Where a step has more tables than there is room for, the open one's tab is in sight. */
const inSight = (tab: HTMLElement | null) => {
  tab?.scrollIntoView({ block: "nearest", inline: "nearest" });
};

/** The table under the plan; its selection is the plan's. */
export function Ledger() {
  const { document, results, step, selection } = usePicked("document", "results", "step", "selection");
  const {
    ledger: { height, folded },
    tables: keep,
  } = useRoom();
  const [open, setOpen] = useState({ ...FIRST, build: "columns" });
  const tab = open[step];
  const section = useGesture((g) => g.kept?.tool === "section");
  const system = useUnits((u) => u.system);
  const catalogue = useReadings((r) => r.catalogue);
  const { beside: named, results: theirs } = useBeside();
  const beside = useMemo(() => (named && theirs ? { name: named.name, results: theirs } : null), [named, theirs]);
  const said = useReview((r) => openOnes(r.comments).length);
  const pickedComment = useReview((r) => r.picked);
  useEffect(() => {
    if (pickedComment !== null) setOpen((o) => ({ ...o, review: "comments" }));
  }, [pickedComment]);
  const chosen = useChosen();
  const reactions = useReactions(chosen, tab === "reactions");
  const slices = useMemo(() => (tab === "slices" ? (document?.slices ?? []) : []), [tab, document?.slices]);
  const diagrams = useDiagrams(slices, chosen?.of ?? null);
  const runs = useRuns(tab === "runs");
  const probes = useMemo(() => (tab === "read_probes" ? (document?.probes ?? []) : []), [tab, document?.probes]);
  const places = usePlaces(probes, chosen?.of ?? null);

  useEffect(() => {
    const kind = selection?.type === "object" ? selection.kind : null;
    if (!kind) return;
    const wanted = step === "analyse" && kind === "probes" ? "read_probes" : kind;
    // Elevation and results of tendons follow what is picked by themselves.
    const stays = (o: typeof FIRST) => kind === "tendons" && o.tendons !== "strands";
    if (TABS[step].some(([k]) => k === wanted)) setOpen((o) => (stays(o) ? o : { ...o, [step]: wanted }));
  }, [selection, step]);

  const reads = tab in TABLES && !section;
  const table = useMemo(
    () =>
      document && reads
        ? (TABLES[tab]?.({ document, results, system, chosen, reactions, diagrams, places, runs, catalogue, beside }) ??
          null)
        : null,
    [document, reads, tab, results, system, chosen, reactions, diagrams, places, runs, catalogue, beside],
  );

  const drag = (event: PointerEvent<HTMLButtonElement>) => {
    const start = { y: event.clientY, height };
    const target = event.currentTarget;
    target.setPointerCapture(event.pointerId);
    const move = (e: globalThis.PointerEvent) => keep({ height: heightOf(start.height + start.y - e.clientY) });
    target.addEventListener("pointermove", move);
    target.addEventListener("pointerup", () => target.removeEventListener("pointermove", move), { once: true });
  };

  const failing = table?.lines.filter((l) => l.cells.some((c) => c.mark === "fail")).length ?? 0;
  const tabs = TABS[step];
  return (
    <section
      id="tables"
      className="ledger"
      style={{ height: folded ? 36 : `max(80px, min(${height}px, 100vh - 360px))` }}
      aria-label="Ledger"
    >
      <button
        type="button"
        className="handle"
        aria-label="Height of the ledger; arrow keys change it"
        onPointerDown={drag}
        onKeyDown={(e) => {
          if (e.key === "ArrowUp") keep({ height: heightOf(height + 24) });
          if (e.key === "ArrowDown") keep({ height: heightOf(height - 24) });
        }}
      />
      <header>
        {tabs.length === 1 && <h2>{table?.title ?? tabs[0]?.[1]}</h2>}
        {tabs.length > 1 && (
          <div className="tabs" role="tablist">
            {tabs.map(([key, name]) => (
              <button
                type="button"
                role="tab"
                key={key}
                aria-selected={key === tab}
                ref={key === tab ? inSight : undefined}
                onClick={() => setOpen((o) => ({ ...o, [step]: key }))}
              >
                {name} {key === "comments" && said > 0 && <span className="quiet">{said}</span>}
                {document && key in document && !PROJECT.includes(key) && (
                  <span className="quiet">{itemsOf(document, key as Kind).length || ""}</span>
                )}
              </button>
            ))}
          </div>
        )}
        {table && <span className="chip">{table.lines.filter((l) => !l.fixed).length}</span>}
        {failing > 0 && (
          <span className="chip fail">
            {failing} {table?.failing ?? "over 1"}
          </span>
        )}
        {table && tabs.length > 1 && table.told && (
          <span className="quiet told-of" title={table.told}>
            {table.told}
          </span>
        )}
        <span className="space" />
        <TakeAway />
        <button type="button" className="small" onClick={() => keep({ folded: !folded })} aria-expanded={!folded}>
          {folded ? "Unfold" : "Fold"}
        </button>
      </header>
      {!folded && !section && <FirstMet words={MET_IN[tab] ?? []} />}
      {section && !folded && <SectionView />}
      {document && !section && !folded && (
        <>
          {table && <ReadTable key={tab} table={table} name={tab} />}
          {tab === "diagram" && <StripDiagram document={document} results={results} />}
          {tab === "life" && <HistoryView document={document} results={results} />}
          {tab === "elevation" && <TendonElevation document={document} results={results} />}
          {tab === "combinations" && <CombinationSheet document={document} />}
          {tab === "carried" && <CarriedView />}
          {tab === "parameters" && <ParameterSheet document={document} />}
          {PROJECT.includes(tab) && <ProjectSheet list={tab as ProjectList} document={document} />}
          {tab === "signing" && <SigningView />}
          {tab === "comments" && <CommentsView />}
          {tab === "changes" && <ChangesView document={document} />}
          {!table && !PROJECT.includes(tab) && !VIEWS.includes(tab) && (
            <FloorSheet document={document} kind={tab as Kind} />
          )}
        </>
      )}
    </section>
  );
}

/** Copies the table that stands in the ledger, or downloads it. */
function TakeAway() {
  const table = useExported((e) => e.table);
  const say = useSession((s) => s.say);
  const step = useSession((s) => s.step);
  const floor = useSession((s) => s.floor?.id);
  if (!table) return null;
  const fetchIt = async (kind: "csv" | "xlsx") => {
    // Combinations go out in the form in which they come back in.
    if (step === "combine" && table.title === "Combinations") {
      window.location.assign(`/api/floors/${floor}/combinations.${kind}`);
      return;
    }
    const problem = await downloadTable(table, kind);
    if (problem) say(problem, true);
  };
  return (
    <span className="take-away" role="group" aria-label="Take the table away">
      <button
        type="button"
        className="small"
        title="Copy the table for a spreadsheet"
        onClick={() =>
          void copyTable(table).then(
            () => say(`${table.title}: copied, to be pasted into a spreadsheet`),
            () => say("The browser does not let the table be copied; download it instead.", true),
          )
        }
      >
        Copy
      </button>
      <button type="button" className="small" onClick={() => void fetchIt("csv")}>
        CSV
      </button>
      <button type="button" className="small" onClick={() => void fetchIt("xlsx")}>
        XLSX
      </button>
    </span>
  );
}
