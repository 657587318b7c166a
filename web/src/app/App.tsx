import { useEffect, useState } from "react";
import { BuildingView } from "../building/BuildingView";
import { useRoom, useSlim } from "../display/room";
import { Ledger } from "../ledger/Ledger";
import { Plan } from "../plan/Plan";
import { Route } from "../route/Route";
import { usePicked, useSession } from "../session";
import { asked } from "../session/address";
import { useDialogs } from "../session/dialogs";
import { usePlace } from "../session/place";
import { Beside } from "./Beside";
import { Conflict } from "./Conflict";
import { Dialogs } from "./Dialogs";
import { Palette } from "./Palette";
import { TopBar } from "./TopBar";
import { Tour } from "./Tour";

/** The frame: route, plan, inspector, ledger, verdict bar. */
export function App() {
  const { start, undo, redo, note, problems, say } = usePicked("start", "undo", "redo", "note", "problems", "say");
  const [palette, setPalette] = useState(false);
  const inspector = useRoom((r) => r.inspector);
  const slim = useSlim();
  const building = usePlace((p) => p.building);

  useEffect(() => {
    // An address that names no floor begins with all projects.
    if (asked("floor") === null) useDialogs.getState().open("projects");
    void start();
  }, [start]);

  useEffect(() => {
    const key = (event: KeyboardEvent) => {
      const typing = (event.target as HTMLElement).closest("input:not([readonly]), textarea, [contenteditable]");
      if (event.key === "?" && !typing) {
        useDialogs.getState().open("keys");
        event.preventDefault();
      }
      if (!(event.ctrlKey || event.metaKey)) return;
      const letter = event.key.toLowerCase();
      if (letter === "k") {
        setPalette((open) => !open);
        event.preventDefault();
      } else if (letter === "b" && !typing) {
        usePlace.getState().go(usePlace.getState().building ? null : "floors");
        event.preventDefault();
      } else if (usePlace.getState().building) {
        // What is done to floors is taken back by the building's own keys.
        return;
      } else if (letter === "z" && !typing) {
        void (event.shiftKey ? redo() : undo());
        event.preventDefault();
      } else if (letter === "y" && !typing) {
        void redo();
        event.preventDefault();
      }
    };
    window.addEventListener("keydown", key);
    return () => window.removeEventListener("keydown", key);
  }, [undo, redo]);

  useEffect(() => {
    const leaving = (event: BeforeUnloadEvent) => {
      if (useSession.getState().saving) event.preventDefault();
    };
    window.addEventListener("beforeunload", leaving);
    return () => window.removeEventListener("beforeunload", leaving);
  }, []);

  useEffect(() => {
    if (!note) return;
    const timer = setTimeout(() => useSession.setState({ note: null }), note.bad ? 12000 : 5000);
    return () => clearTimeout(timer);
  }, [note]);

  return (
    <div
      className={`frame ${slim ? "slim" : ""}`}
      style={{
        gridTemplateColumns: `${slim ? 46 : 164}px minmax(0, 1fr) ${inspector.folded ? 24 : inspector.width}px`,
      }}
    >
      {!building && (
        <>
          <a className="skip" href="#plan">
            Skip to the plan
          </a>
          <a className="skip" href="#tables">
            Skip to the tables
          </a>
        </>
      )}
      <TopBar openPalette={() => setPalette(true)} />
      {building ? (
        <BuildingView view={building} />
      ) : (
        <>
          <Route />
          <main>
            <Plan />
            <Ledger />
          </main>
          <Beside />
        </>
      )}
      {note && (
        <div className={`note ${note.bad ? "bad" : ""}`} role="status">
          {note.text}
        </div>
      )}
      {problems.length > 0 && (
        <div className="note bad" role="alert">
          <div>
            {problems.slice(0, 4).map((p) => (
              <p key={p.path + p.sentence}>{p.told ?? `${p.path} ${p.sentence}`}</p>
            ))}
            {problems.length > 4 && <p>and {problems.length - 4} more</p>}
          </div>
          <button type="button" onClick={() => useSession.setState({ problems: [] })}>
            Close
          </button>
        </div>
      )}
      <Palette open={palette} close={() => setPalette(false)} say={say} />
      <Tour />
      <Conflict />
      <Dialogs />
    </div>
  );
}
