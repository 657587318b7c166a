import { useEffect } from "react";
import { usePicked } from "../session";
import { type Seen, STOPS, useTour } from "../session/tour";
import { markOf } from "../units/format";

/** What a session shows of what the tour goes by. */
function useSeen(): Seen {
  const { floor, freshRevision, selection, results } = usePicked("floor", "freshRevision", "selection", "results");
  const row = selection?.type === "row" ? results?.rows.find((r) => r.id.key === selection.key) : undefined;
  return {
    floor: floor?.id ?? null,
    revision: floor?.revision ?? 0,
    fresh: freshRevision,
    failing: markOf(row?.utilisation ?? null) === "fail",
    undone: Boolean(floor?.line?.startsWith("undid")),
  };
}

/** A card that leads through a failing floor to its mend; it goes on by itself where something is to be done. */
export function Tour() {
  const { at, see, next, end } = useTour();
  const seen = useSeen();
  useEffect(() => see(seen));
  const stop = at === null ? undefined : STOPS[at];
  if (!stop || at === null) return null;
  return (
    <section className="tour" aria-label="First steps" aria-live="polite">
      <p className="quiet">
        {at + 1} of {STOPS.length}
      </p>
      <h3>{stop.title}</h3>
      <p>{stop.text}</p>
      <div className="button-row">
        <button type="button" className={`small ${stop.done ? "" : "accent"}`} onClick={() => next(seen)}>
          {at + 1 === STOPS.length ? "Done" : stop.done ? "Skip this" : "Next"}
        </button>
        {at + 1 < STOPS.length && (
          <button type="button" className="small" onClick={end}>
            End
          </button>
        )}
      </div>
    </section>
  );
}
