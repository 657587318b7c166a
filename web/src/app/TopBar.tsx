import { checkOf } from "../checks";
import { usePicked, useStale } from "../session";
import { useDialogs } from "../session/dialogs";
import { OPEN } from "../session/runs";
import { rowMark, SIGN, use } from "../units/format";

/** Project, floor, search, and the verdict as meters that fly to the worst place. */
export function TopBar(props: { openPalette: () => void }) {
  const { projects, floor, results, open, openRow, run, cancel, early, away, saving } = usePicked(
    "projects",
    "floor",
    "results",
    "open",
    "openRow",
    "run",
    "cancel",
    "early",
    "away",
    "saving",
  );
  const openDialog = useDialogs((d) => d.open);
  const behind = useStale();
  // The newest revision's verdict may be known before the rest of its results is here.
  const told = early && early.revision === floor?.revision ? early.verdict : null;
  const verdict = told ?? results?.verdict ?? [];
  const stale = behind && !told;
  const running = run !== null && OPEN.includes(run.state);
  const empty = floor?.document && (floor.document as { slabs: unknown[] }).slabs.length === 0 && !results;
  // The life of the floor is computed after the rest: what there is of it stands meanwhile.
  const living = running && !behind && results !== null;
  const state = living
    ? `history ${run?.share ? `${Math.round(100 * run.share)} %` : ""}`
    : running
      ? `${run.stage || run.state} ${run.share ? `${Math.round(100 * run.share)} %` : ""}`
      : behind
        ? "out of date"
        : floor?.fresh
          ? "up to date"
          : empty
            ? "empty"
            : (floor?.run?.state ?? "");
  const failing = verdict.some((r) => r.status === "fail");
  const unchecked = verdict.some((r) => r.status === "unchecked");
  const bare = verdict.some((r) => r.status === "uncovered");
  return (
    <header className="topbar">
      <h1 className="unseen">{floor ? `Piastra: ${floor.name}` : "Piastra"}</h1>
      <button
        type="button"
        className="home"
        aria-label="Projects"
        title="Projects and floors"
        onClick={() => openDialog("projects")}
      >
        <span className="mark" aria-hidden="true" />
      </button>
      <span className="place">
        <b className="project-name">{floor?.project ?? "Piastra"}</b>
        <select
          aria-label="Floor"
          value={floor?.id ?? ""}
          onChange={(e) => (e.target.value === "new" ? openDialog("project") : void open(Number(e.target.value)))}
        >
          {projects.map((p) => (
            <optgroup key={p.id} label={p.name}>
              {p.floors.map((f) => (
                <option key={f.id} value={f.id}>
                  {f.name}
                  {f.follows ? " (twin)" : ""}
                </option>
              ))}
            </optgroup>
          ))}
          <option value="new">New project…</option>
        </select>
      </span>
      <span className="quiet mono state" data-testid="state" title={floor?.line}>
        rev {floor?.revision ?? "–"} · {state}
      </span>
      {away && (
        <span className="gone" role="status">
          server not reached{saving ? "; what you change is kept and sent when it answers" : ""}
        </span>
      )}
      {running && !away && (
        <button type="button" className="small" onClick={() => void cancel()}>
          Cancel
        </button>
      )}
      <button type="button" className="small" onClick={() => openDialog("space")} disabled={!floor}>
        3D
      </button>
      <button type="button" className="small" aria-label="Keys" title="Keys (?)" onClick={() => openDialog("keys")}>
        ?
      </button>
      <button type="button" className="find" aria-label="Find or do Ctrl K" onClick={props.openPalette}>
        <span className="words">Find or do</span> <kbd>Ctrl K</kbd>
      </button>
      <div
        className={`meters ${verdict.length > 5 ? "many" : ""} ${stale || (running && !told && !living) ? "stale" : ""}`}
        role="group"
        aria-label="Verdict"
        data-verdict-of={told ? early?.revision : stale ? "" : floor?.revision}
      >
        {verdict.length > 0 && (
          <span
            className={`overall ${failing ? "fail" : unchecked ? "none" : bare ? "bare" : "pass"}`}
            data-testid="overall"
          >
            {stale
              ? "out of date"
              : failing
                ? "✕ does not work"
                : unchecked
                  ? "– not all checked"
                  : bare
                    ? "○ not all covered"
                    : "✓ works"}
          </span>
        )}
        {verdict.map((row) => {
          const mark = rowMark(row);
          return (
            <button
              type="button"
              key={row.check}
              className={`meter ${mark}`}
              data-testid={`meter-${row.check}`}
              title={[row.where && `${row.where}, ${row.combination}: fly there`, row.reason]
                .filter(Boolean)
                .join("; ")}
              onClick={() => openRow(row)}
            >
              <span className="name">
                {checkOf(row.check).title} {SIGN[mark]}
              </span>
              <span className="figure">{use(row.utilisation)}</span>
              <span className="track">
                <span className="fill" style={{ width: `${Math.min(100, (row.utilisation ?? 0) * 80)}%` }} />
                <span className="one" />
              </span>
            </button>
          );
        })}
      </div>
    </header>
  );
}
