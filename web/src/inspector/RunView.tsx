import { chosenReading, useDisplay } from "../display/display";
import { useReadings } from "../readings/readings";
import { useRuns } from "../readings/runs";
import { usePicked } from "../session";
import { spoken, useUnits } from "../units/quantities";

const STAGES: Record<string, string> = {
  mesh: "plan and mesh",
  assemble: "stiffness and loads",
  factorise: "factorising",
  solve: "solving",
  recover: "forces",
  check: "strips and checks",
};

/** A run: what changed before it, how long it took, what it said, and how the floor differs from it. */
export function RunView(props: { id: number }) {
  const { runs } = useRuns(true);
  const { flyTo, shownRun, setStep } = usePicked("flyTo", "shownRun", "setStep");
  const show = useDisplay((d) => d.show);
  const system = useUnits((u) => u.system);
  const run = runs.find((r) => r.id === props.id);
  if (!run) return <p className="empty">This run is no longer in the list.</p>;
  return (
    <>
      <h2>Run {run.id}</h2>
      <p className="quiet">
        Revision {run.revision}: {run.line}. {run.state}
        {run.told && `: ${run.told}`}.
      </p>
      {Object.keys(run.stages).length > 0 && (
        <table className="small-table">
          <tbody>
            {Object.entries(run.stages)
              .filter(([k]) => k !== "total")
              .map(([k, s]) => (
                <tr key={k}>
                  <th>{STAGES[k] ?? k}</th>
                  <td>{s > 0.0005 ? `${s.toFixed(2)} s` : "kept"}</td>
                </tr>
              ))}
          </tbody>
        </table>
      )}
      <div className="button-row">
        <button
          type="button"
          disabled={!run.readable || run.id === shownRun}
          onClick={() => {
            const { catalogue } = useReadings.getState();
            const display = useDisplay.getState();
            const quantity = ["none", "steel"].includes(display.quantity) ? "w" : display.quantity;
            const chosen = chosenReading(catalogue, { ...display, quantity, kind: "all" });
            if (!chosen) return;
            setStep("analyse");
            show({
              quantity,
              of: chosen.of,
              kind: "all",
              minus: { run: run.id, revision: run.revision },
            });
          }}
        >
          Difference from this run
        </button>
      </div>
      {!run.readable && <p className="quiet">Only its probes and messages are kept; its fields are too old.</p>}
      {run.messages.length > 0 && <h3>Messages</h3>}
      {run.messages.map((m) => {
        const at = m.at as [number, number] | null;
        return (
          <p key={`${m.where}${m.sentence}`} className={m.severity as string}>
            <b>{m.where as string}</b> {spoken((m.said ?? m.sentence) as string, system)}.{" "}
            {at && (
              <button type="button" className="small" onClick={() => flyTo(at)}>
                Go there
              </button>
            )}
          </p>
        );
      })}
    </>
  );
}
