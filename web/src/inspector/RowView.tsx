import { checkOf } from "../checks";
import { KINDS, kindOf } from "../kinds";
import type { FloorDocument, Kind } from "../model/floor";
import { itemOf } from "../model/floor";
import { type Results, rowOf } from "../model/results";
import { useReadings } from "../readings/readings";
import { stationOf, useSection } from "../readings/section";
import { usePicked, useStale } from "../session";
import { markOf, SIGN, use } from "../units/format";
import { reasonOf, useUnits } from "../units/quantities";
import { Remedies } from "./Remedies";
import { SagPanel } from "./SagPanel";
import { SectionSketch } from "./SectionSketch";
import { TraceView } from "./TraceView";
import { ZonePanel } from "./ZonePanel";

/** The part of an object that a row is about: a perimeter, or an end or corner of a wall. */
export const partName = (part: string) =>
  part === "column"
    ? "around the column"
    : part === "integrity"
      ? "bars through it"
      : part === "jack"
        ? "at the jack"
        : part.replace(/^([a-z]+)(\d+)$/, "$1 $2");

/** What the rows of one object are, of a check that has several. */
const SIBLINGS: Record<string, string> = { deflection: "Limits", punching: "Perimeters" };

/** One row of a check: what it is about, the other perimeters or pieces of the same thing, and its trace. */
export function RowView(props: { document: FloorDocument; results: Results | null; id: string }) {
  const system = useUnits((u) => u.system);
  const { results, id, document } = props;
  const { select, openRow } = usePicked("select", "openRow");
  const stale = useStale();
  const row = rowOf(results, id);
  const run = useReadings((r) => r.run);
  const station = row ? stationOf(row, results) : null;
  const { data: section } = useSection(run, station);
  if (!row) return <p className="empty">This place has no such check in the newest results.</p>;
  const mark = markOf(row.utilisation);
  const { of } = row.id;
  const known = of.kind in KINDS && itemOf(document, { kind: of.kind as Kind, id: of.id });
  const zone = row.check === "punching" ? results?.zones.find((z) => z.row === row.id.key) : undefined;
  const sag = row.check === "deflection" ? results?.sags.find((x) => x.row === row.id.key) : undefined;
  const siblings = (results?.rows ?? []).filter(
    (r) => r.check === row.check && r.id.of.kind === of.kind && r.id.of.id === of.id,
  );
  return (
    <>
      <h2 className="with-use">
        <span>
          {checkOf(row.check).word} {row.where}
          {row.id.part && row.check !== "deflection" && <span className="quiet">, {partName(row.id.part)}</span>}
        </span>
        <span className={`mono ${mark}`}>
          {use(row.utilisation)} {SIGN[mark]}
        </span>
      </h2>
      {known && (
        <button
          type="button"
          className="small"
          onClick={() => select({ type: "object", kind: of.kind as Kind, id: of.id })}
        >
          {kindOf(of.kind as Kind).singular} {of.id}
        </button>
      )}
      {siblings.length > 1 && (
        <div className="tabs" role="tablist" aria-label={SIBLINGS[row.check] ?? "Places"}>
          {siblings.map((r) => (
            <button
              type="button"
              role="tab"
              key={r.id.key}
              aria-selected={r.id.key === row.id.key}
              onClick={() => openRow({ ...r, at: null })}
            >
              {r.id.part ? partName(r.id.part) : r.id.face} {use(r.utilisation)}
            </button>
          ))}
        </div>
      )}
      {row.status === "uncovered" && row.reason && <p className="warning">{reasonOf(row, system)}.</p>}
      {zone && <ZonePanel document={document} zone={zone} opinions={results?.second_opinion ?? []} />}
      {sag?.parts_mm && <SagPanel sag={sag} />}
      <Remedies
        document={document}
        of={row.where ?? of.id}
        remedies={results?.mends?.find((m) => m.row === row.id.key)?.remedies ?? []}
      />
      <SectionSketch
        row={row}
        face={station?.face ?? (row.id.face === "top" ? "top" : "bottom")}
        section={typeof section === "object" ? section : undefined}
      />
      <TraceView row={row} stale={stale} />
    </>
  );
}
