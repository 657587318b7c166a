import type { Results } from "../model/results";
import { useReadings } from "../readings/readings";
import { type StationOf, useSection } from "../readings/section";
import { usePicked, useStale } from "../session";
import { markOf, SIGN, use } from "../units/format";
import { useUnits } from "../units/quantities";
import { resultOf } from "../units/results";
import { SectionSketch } from "./SectionSketch";
import { TraceView } from "./TraceView";

const WAITING = "The section is looked up. For a floor that was not run lately that takes as long as a run.";

/** A station of a strip, picked along its diagram: its section with the bars in place, and the trace of all provisions. */
export function StationView(props: { results: Results | null; of: StationOf }) {
  const { results, of } = props;
  const { select } = usePicked("select");
  const system = useUnits((u) => u.system);
  const stale = useStale();
  const run = useReadings((r) => r.run);
  const { data, error } = useSection(run, { strip: of.strip, s: of.s, face: of.face });
  const strip = results?.strips.find((s) => s.id === of.strip);
  if (!strip) return <p className="empty">This strip is not in the newest results.</p>;
  const section = typeof data === "object" ? data : undefined;
  const mark = markOf(section?.row.utilisation ?? null);
  return (
    <>
      <h2 className="with-use">
        <span>
          Station of {strip.label}
          <span className="quiet">
            {" "}
            at {resultOf(of.s, "m", system, 2)}, bars along {strip.direction}
          </span>
        </span>
        {section && (
          <span className={`mono ${mark}`}>
            {use(section.row.utilisation)} {SIGN[mark]}
          </span>
        )}
      </h2>
      <div className="tabs" role="tablist" aria-label="Faces">
        {(["top", "bottom"] as const).map((face) => (
          <button
            type="button"
            role="tab"
            key={face}
            aria-selected={face === of.face}
            onClick={() => select({ type: "station", strip: of.strip, s: of.s, face })}
          >
            {face}
          </button>
        ))}
      </div>
      {section ? (
        <>
          <SectionSketch row={section.row} face={of.face} section={section} />
          <TraceView row={section.row} stale={stale} />
        </>
      ) : (
        <p className="empty">{typeof data === "string" ? data : (error?.message ?? WAITING)}</p>
      )}
    </>
  );
}
