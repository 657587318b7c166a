import { reaches, useEntry } from "../api/entry";
import { checkOf } from "../checks";
import type { Row } from "../model/results";
import { usePicked, useRole, useStale } from "../session";
import { useDialogs } from "../session/dialogs";
import { usePlace } from "../session/place";
import { OPEN } from "../session/runs";
import { rowMark, SIGN, use } from "../units/format";
import { reasonOf, useUnits } from "../units/quantities";

const inVerdict = (rows: Row[], row: Row) => rows.some((r) => r.check === row.check);

/** Rows in the order of those that were shown before, new ones behind. */
function inOrder(rows: Row[], before: Row[]): Row[] {
  const place = (r: Row) => (inVerdict(before, r) ? before.findIndex((b) => b.check === r.check) : before.length);
  return [...rows].sort((a, b) => place(a) - place(b));
}

/** Who is signed in, and what he is here if that is not a designer. */
function PersonButton() {
  const me = useEntry((e) => e.me);
  const role = useRole();
  const openDialog = useDialogs((d) => d.open);
  if (!me?.person) return null;
  const { name } = me.person;
  const initials = name
    .split(/\s+/)
    .map((word) => word[0])
    .filter((_, k, all) => k === 0 || k === all.length - 1)
    .join("");
  return (
    <>
      <button
        type="button"
        className="person"
        aria-label={`${initials}, you: ${name}`}
        title={`${name}${me.demo ? ", signed in as the demo’s designer on this machine" : ""}`}
        onClick={() => openDialog("you")}
      >
        {initials}
      </button>
      {role && !reaches(role, "designer") && (
        <button
          type="button"
          className="person-role link"
          title={`You are ${role} here and change nothing; owners of the project can make you a designer`}
          onClick={() => openDialog("people")}
        >
          {role}
        </button>
      )}
    </>
  );
}

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
  const { building, go } = usePlace();
  const system = useUnits((u) => u.system);
  const behind = useStale();
  const running = run !== null && OPEN.includes(run.state);
  // The newest revision's verdict may be known before the rest of its results is here.
  // One of strength alone stands only while its run goes on: what came of it is in the results.
  const known = early && early.revision === floor?.revision && (early.whole || running) ? early : null;
  const told = known?.verdict ?? null;
  // Checks of what lasts come later: their place is kept, without a figure.
  const awaited = known && !known.whole ? (results?.verdict ?? []).filter((r) => !inVerdict(known.verdict, r)) : [];
  const verdict = told ?? results?.verdict ?? [];
  const meters = inOrder([...verdict, ...awaited], results?.verdict ?? []);
  const stale = behind && !told;
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
      <button
        type="button"
        className="small"
        aria-pressed={building !== null}
        title="All floors of the building (Ctrl B)"
        disabled={!floor}
        onClick={() => go(building ? null : "floors")}
      >
        Building
      </button>
      <span className="place">
        <b className="project-name">{floor?.project ?? "Piastra"}</b>
        <select
          aria-label="Floor"
          value={floor?.id ?? ""}
          onChange={(e) => {
            const { value } = e.target;
            if (value === "project" || value === "floor") openDialog(value);
            else {
              go(null);
              void open(Number(value));
            }
          }}
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
          {floor && <option value="floor">New floor…</option>}
          <option value="project">New project…</option>
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
      <button type="button" className="small" onClick={() => openDialog("report")} disabled={!floor}>
        Report
      </button>
      <PersonButton />
      <button type="button" className="small" aria-label="Keys" title="Keys (?)" onClick={() => openDialog("keys")}>
        ?
      </button>
      <button type="button" className="find" aria-label="Find or do Ctrl K" onClick={props.openPalette}>
        <span className="words">Find or do</span> <kbd>Ctrl K</kbd>
      </button>
      <div
        className={`meters ${verdict.length > 4 ? "many" : ""} ${stale || (running && !told && !living) ? "stale" : ""}`}
        role="group"
        aria-label="Verdict"
        data-verdict-of={told ? early?.revision : stale ? "" : floor?.revision}
        data-whole={known ? known.whole : !stale}
      >
        {verdict.length > 0 && (
          <span
            className={`overall ${stale ? "none" : failing ? "fail" : unchecked || (known && !known.whole) ? "none" : bare ? "bare" : "pass"}`}
            data-testid="overall"
          >
            {stale
              ? "out of date"
              : failing
                ? "✕ does not work"
                : known && !known.whole
                  ? "… so far"
                  : unchecked
                    ? "– not all checked"
                    : bare
                      ? "○ not all covered"
                      : "✓ works"}
          </span>
        )}
        {meters.map((row) => {
          const late = awaited.includes(row);
          const mark = late ? "none" : rowMark(row);
          return (
            <button
              type="button"
              key={row.check}
              className={`meter ${mark} ${late ? "late" : ""}`}
              data-testid={`meter-${row.check}`}
              title={
                late
                  ? "being computed"
                  : [row.where && `${row.where}, ${row.combination}: fly there`, reasonOf(row, system)]
                      .filter(Boolean)
                      .join("; ")
              }
              onClick={() => {
                go(null);
                openRow(row);
              }}
            >
              <span className="name">
                {checkOf(row.check).title} {SIGN[mark]}
              </span>
              <span className="figure">{late ? "…" : use(row.utilisation)}</span>
              <span className="track">
                <span className="fill" style={{ width: late ? 0 : `${Math.min(100, (row.utilisation ?? 0) * 80)}%` }} />
                <span className="one" />
              </span>
            </button>
          );
        })}
      </div>
    </header>
  );
}
