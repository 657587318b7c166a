import { FindingView } from "../audit/FindingView";
import { checkOf } from "../checks";
import { FirstMet } from "../display/FirstMet";
import type { FloorDocument } from "../model/floor";
import type { Results } from "../model/results";
import { usePicked } from "../session";
import { rowMark, SIGN, use } from "../units/format";
import { reasonOf, spoken, useUnits } from "../units/quantities";
import { figureOf, toldUnit } from "../units/results";
import { HistoryPanel } from "./HistoryPanel";
import { MeshPanel } from "./MeshPanel";
import { RemedyFactors } from "./RemedyFactors";
import { SteelPanel } from "./SteelPanel";
import { TendonPanel } from "./TendonPanel";

/** The floor as a whole: the audit, the verdict, the balance of loads and reactions, the mesh and the messages. */
export function FloorView(props: { document: FloorDocument; results: Results | null }) {
  const { document, results } = props;
  const { openRow, floor, run, findings, step } = usePicked("openRow", "floor", "run", "findings", "step");
  const system = useUnits((u) => u.system);
  const kN = toldUnit("kN", system).unit;
  return (
    <>
      <h2>{floor?.name}</h2>
      <p className="quiet">
        {document.standard}. Last change: {floor?.line}.
      </p>
      {step === "deflection" && <HistoryPanel document={document} />}
      {step === "steel" && <SteelPanel document={document} />}
      {step === "punching" && <RemedyFactors document={document} />}
      {step === "tendons" && <TendonPanel document={document} results={results} />}
      {findings.length > 0 && (
        <>
          <h3>Audit</h3>
          <FirstMet words={["audit"]} />
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
          <FirstMet words={["verdict"]} />
          {results.verdict.map((r) => (
            <button type="button" className="row-link" key={r.check} onClick={() => openRow(r)} disabled={!r.trace}>
              <span>
                {checkOf(r.check).title} <span className="quiet">{r.where || reasonOf(r, system)}</span>
              </span>
              <span className={`mono ${rowMark(r)}`}>
                {use(r.utilisation)} {SIGN[rowMark(r)]}
              </span>
            </button>
          ))}
          {results.uncovered.length > 0 && (
            <p className="quiet">
              Not covered by any check: {results.uncovered.length}; the ledger lists them beside steel and zones.
            </p>
          )}
          <h3>Balance</h3>
          <table className="small-table">
            <thead>
              <tr>
                <th>Case</th>
                <th>Load {kN}</th>
                <th>Reaction {kN}</th>
                <th>Not applied {kN}</th>
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
              <b>{m.where}</b> {spoken(m.said ?? m.sentence, system)}.
            </p>
          ))}
        </>
      )}
    </>
  );
}
