import { type FormEvent, useEffect, useState } from "react";
import { api } from "../api/client";
import { reaches } from "../api/entry";
import { checkOf } from "../checks";
import type { Row } from "../model/results";
import { usePicked, useRole, useStale } from "../session";
import { type Signature, useReview } from "../session/review";
import { rowMark, SIGN, use } from "../units/format";
import { clock } from "../units/moments";
import { reviewed } from "./ask";

/** The checks of the floor, and who answers for each. */
export function SigningView() {
  const { results, openRow, shownRun, floor } = usePicked("results", "openRow", "shownRun", "floor");
  const { signatures, look } = useReview();
  const [id, revision] = [floor?.id, floor?.revision];
  // A change lets signatures fall at once, before its run has ended.
  // biome-ignore lint/correctness/useExhaustiveDependencies: each revision is looked at anew
  useEffect(() => {
    if (id) void look(id);
  }, [id, revision, look]);
  const may = reaches(useRole() ?? undefined, "checker");
  const stale = useStale();
  if (!results) return <p className="empty">There are no results yet that could be signed.</p>;
  return (
    <div className="rows review" role="region" aria-label="Checks and who signed them">
      <table>
        <thead>
          <tr>
            <th>Check</th>
            <th>Utilisation</th>
            <th>Where</th>
            <th>Signed by</th>
            <th>
              <span className="hidden-word">Sign</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {results.verdict.map((row) => (
            <Check
              key={row.check}
              row={row}
              run={shownRun ?? 0}
              signed={signatures.filter((s) => s.check === row.check)}
              may={may && !stale}
              open={() => openRow(row)}
            />
          ))}
        </tbody>
      </table>
      {!may && <p className="quiet">Checkers, designers and owners of this project sign.</p>}
      {may && stale && (
        <p className="quiet">The floor was changed since its last results: signing waits for the run.</p>
      )}
    </div>
  );
}

function Check(props: { row: Row; run: number; signed: Signature[]; may: boolean; open: () => void }) {
  const { row, run, signed, may, open } = props;
  const [note, setNote] = useState("");
  const passed = row.status === "pass";
  const mine = signed.find((s) => s.mine && s.holds);
  const title = checkOf(row.check).title;
  const sign = async (event: FormEvent) => {
    event.preventDefault();
    const done = await reviewed((floor_id) =>
      api.POST("/api/floors/{floor_id}/signatures", {
        params: { path: { floor_id } },
        body: { run, check: row.check, note },
      }),
    );
    if (done) setNote("");
  };
  const back = (id: number) =>
    void reviewed((floor_id) =>
      api.DELETE("/api/floors/{floor_id}/signatures/{signature_id}", {
        params: { path: { floor_id, signature_id: id } },
      }),
    );
  return (
    <tr>
      <td>
        <button type="button" className="link" onClick={open}>
          {title}
        </button>
      </td>
      <td className={`mono ${row.status === "fail" ? "fail" : ""}`}>
        {use(row.utilisation)} {SIGN[rowMark(row)]}
      </td>
      <td>{row.where}</td>
      <td>
        {signed.map((s) => (
          <div key={s.id} className={s.holds ? "" : "fallen"}>
            {s.author} <span className="quiet">{clock(s.made)}</span>
            {s.note && <div>{s.note}</div>}
            {!s.holds && <div className="warning">Fell: {s.why}.</div>}
          </div>
        ))}
        {signed.length === 0 && <span className="quiet">nobody</span>}
      </td>
      <td className="acts">
        {mine ? (
          <button type="button" className="small" aria-label={`Take back: ${title}`} onClick={() => back(mine.id)}>
            Take back
          </button>
        ) : (
          <form className="sign-form" onSubmit={(e) => void sign(e)}>
            <input
              aria-label={`Note on ${title}`}
              placeholder={passed ? "note" : "why it is right all the same"}
              maxLength={400}
              value={note}
              disabled={!may}
              onChange={(e) => setNote(e.target.value)}
            />
            <button
              type="submit"
              className="small"
              disabled={!may || (!passed && !note.trim())}
              aria-label={`Sign ${title}`}
            >
              Sign
            </button>
          </form>
        )}
      </td>
    </tr>
  );
}
