import { DISPLAY_OF, useDisplay } from "../display/display";
import { useRoom, useSlim } from "../display/room";
import { STEPS } from "../model/step";
import { useGesture } from "../plan/tools/gesture";
import { usePicked, useSession, useStale } from "../session";
import { useReview } from "../session/review";
import { stepView } from "./steps";

const MARK = { empty: "", attention: "!", running: "…", fresh: "✓", failing: "✕" } as const;

/** The ordered steps of the work, each with its state. */
export function Route() {
  const { document, results, run, step, setStep, findings } = usePicked(
    "document",
    "results",
    "run",
    "step",
    "setStep",
    "findings",
  );
  const show = useDisplay((d) => d.show);
  const stale = useStale();
  const review = useReview();
  const give = useRoom((r) => r.give);
  const slim = useSlim();
  return (
    <nav className="route" aria-label="Route">
      <ol>
        {STEPS.map((s, i) => {
          const view = document
            ? stepView(s.key, document, results, run, stale, findings.length, review)
            : { state: "empty" as const, told: "" };
          return (
            <li key={s.key} className={`${s.key === step ? "current" : ""} ${view.state}`}>
              <button
                type="button"
                aria-current={s.key === step ? "step" : undefined}
                title={slim ? [s.name, view.told].filter(Boolean).join(": ") : undefined}
                onClick={() => {
                  useGesture.getState().set({ tool: null, points: [] });
                  // These steps are about the floor as a whole: their panel comes first.
                  if (["load", "combine", "arrange"].includes(s.key)) useSession.getState().select(null);
                  setStep(s.key);
                  show({ ...DISPLAY_OF[s.key], of: null, kind: null });
                }}
              >
                <span className="number">{i + 1}</span>
                <span className="name">{s.name}</span>
                <span className="sign">
                  <span aria-hidden="true">{MARK[view.state]}</span>
                  <span className="hidden-word">{view.state}</span>
                </span>
                <span className="told">{view.told}</span>
              </button>
            </li>
          );
        })}
      </ol>
      <button
        type="button"
        className="rail"
        aria-expanded={!slim}
        aria-label={slim ? "Show the names of the steps" : "Make the route a slim rail"}
        title={slim ? "Show the names of the steps" : "Make the route a slim rail"}
        onClick={() => give({ slim: !slim })}
      >
        <span aria-hidden="true">{slim ? "›" : "‹"}</span>
      </button>
    </nav>
  );
}
