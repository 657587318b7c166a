import * as Dialog from "@radix-ui/react-dialog";
import { Fragment, lazy, type ReactNode, Suspense, useEffect, useRef, useState } from "react";
import { api, type HistoryEntry, saying } from "../api/client";
import { Lateral } from "../building/Lateral";
import { FirstMet } from "../display/FirstMet";
import { COPIED, plural } from "../kinds";
import { itemsOf, type Kind } from "../model/floor";
import { Practice } from "../people/Practice";
import { ProjectPeople } from "../people/ProjectPeople";
import { You } from "../people/You";
import { usePicked, useSession } from "../session";
import { useDialogs } from "../session/dialogs";
import { DrawingDialog } from "./DrawingDialog";
import { Keys } from "./Keys";
import { Projects } from "./Projects";
import { Replace } from "./Replace";
import { Report } from "./Report";

// The 3D view brings a good part of three.js along, which the plan does not need.
const MovingView = lazy(() => import("../space/MovingView").then((m) => ({ default: m.MovingView })));
const SpaceView = lazy(() => import("../space/SpaceView").then((m) => ({ default: m.SpaceView })));

/** Every dialog of the application. */
export function Dialogs() {
  const { shown, close } = useDialogs();
  return (
    <>
      <Frame
        name="project"
        title="New project"
        told="A building: its floors share units, standard, materials, levels and grid."
      >
        <NewProject />
      </Frame>
      <Frame
        name="floor"
        title="New floor"
        told="Empty, a copy that goes its own way, or a twin that follows this floor."
      >
        <NewFloor />
      </Frame>
      <Frame
        name="copy"
        title="Copy objects to other floors"
        told="What is there already stays; what has the same label gets a new one."
      >
        <CopyObjects />
      </Frame>
      <Frame
        name="drawing"
        title="Drawing beneath the floor"
        told="Its lines can be snapped to, and its layers made into objects."
        wide
      >
        <DrawingDialog />
      </Frame>
      <Frame
        name="history"
        title="What happened to this floor"
        told="Every revision is kept. Undo and redo go along this line."
        wide
      >
        <History />
      </Frame>
      <Frame
        name="replace"
        title="Put another in its place"
        told="On the floors that are ticked, in one step; each floor’s change can be undone there."
      >
        <Replace />
      </Frame>
      <Frame
        name="lateral"
        title="Forces of a frame for all floors"
        told="Wind and earthquakes at columns and walls, out of one table; each floor’s change can be undone there."
        wide
      >
        <Lateral />
      </Frame>
      <Frame
        name="projects"
        title="Projects"
        told="Every building with its floors and what is known of them. What is put away keeps all its revisions."
        wide
      >
        <Projects />
      </Frame>
      <Frame name="keys" title="Keys" told="Everything is done by keys as well; Ctrl K finds whatever has none." wide>
        <Keys />
      </Frame>
      <Frame
        name="report"
        title="Calculation report"
        told="Of the newest results. A chapter tells its figures in short, with what governs, or everything with every trace."
        wide
      >
        <Report />
      </Frame>
      <Frame name="you" title="You" told="Who is signed in here, and what lets scripts in." wide>
        <You />
      </Frame>
      <Frame
        name="people"
        title="People of this project"
        told="What each may do here. Whoever is not among them does not see that the project exists."
        wide
      >
        <ProjectPeople />
      </Frame>
      <Frame
        name="practice"
        title="People of the practice"
        told="Everybody with an account. Who is kept out is signed out at once; what he made stays."
        wide
      >
        <Practice />
      </Frame>
      {shown === "moving" && (
        <Suspense fallback={null}>
          <MovingView close={close} />
        </Suspense>
      )}
      {shown === "space" && (
        <Suspense fallback={null}>
          <SpaceView close={close} />
        </Suspense>
      )}
    </>
  );
}

function Frame(props: { name: string; title: string; told: string; wide?: boolean; children: ReactNode }) {
  const { shown, close } = useDialogs();
  return (
    <Dialog.Root open={shown === props.name} onOpenChange={(o) => !o && close()}>
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content className={`dialog ${props.wide ? "wide" : ""}`}>
          <Dialog.Title>{props.title}</Dialog.Title>
          <Dialog.Description>{props.told}</Dialog.Description>
          {props.children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

/** The end of a dialog: what is wrong, and the two ways out. Without `act` the second one sends the form. */
function Ending(props: { problem: string; ready: boolean; does: string; act?: () => void }) {
  const close = useDialogs((d) => d.close);
  return (
    <>
      {props.problem && (
        <p className="error" role="alert">
          {props.problem}
        </p>
      )}
      <div className="buttons">
        <button type="button" onClick={close}>
          Cancel
        </button>
        <button type={props.act ? "button" : "submit"} className="accent" disabled={!props.ready} onClick={props.act}>
          {props.does}
        </button>
      </div>
    </>
  );
}

function NewProject() {
  const { open } = usePicked("open");
  const close = useDialogs((d) => d.close);
  const [name, setName] = useState("");
  const [units, setUnits] = useState<"SI" | "US">("SI");
  const [standard, setStandard] = useState("EN 1992-1-1");
  const [problem, setProblem] = useState("");
  const make = async () => {
    const { data, error } = await api.POST("/api/projects", {
      body: { name: name.trim(), units, standard },
    });
    if (!data) {
      setProblem(saying(error));
      return;
    }
    close();
    await useSession.getState().reload();
    await open(data.floor);
    useSession.getState().setStep("setout");
  };
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        void make();
      }}
    >
      <div className="fields">
        <div className="number-field">
          <label htmlFor="new-name">Name</label>
          <input id="new-name" className="text" value={name} onChange={(e) => setName(e.target.value)} />
        </div>
        <div className="number-field">
          <label htmlFor="new-units">Units</label>
          <select id="new-units" value={units} onChange={(e) => setUnits(e.target.value as typeof units)}>
            <option value="SI">SI: m, mm, kN</option>
            <option value="US">US: ft, in, kip</option>
          </select>
        </div>
        <div className="number-field">
          <label htmlFor="new-standard">Standard</label>
          <select id="new-standard" value={standard} onChange={(e) => setStandard(e.target.value)}>
            <option>EN 1992-1-1</option>
            <option>ACI 318-19</option>
          </select>
        </div>
      </div>
      <Ending problem={problem} ready={name.trim() !== ""} does="Begin" />
    </form>
  );
}

function NewFloor() {
  const { open, floor, project } = usePicked("open", "floor", "project");
  const close = useDialogs((d) => d.close);
  const [how, setHow] = useState<"empty" | "copy" | "twin">("twin");
  // The dialog asks for a name first, whichever way the floor begins.
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => field.current?.focus(), []);
  const [name, setName] = useState("");
  const [level, setLevel] = useState("");
  const [problem, setProblem] = useState("");
  if (!floor || !project) return null;
  const make = async () => {
    const { data, error } = await api.POST("/api/projects/{project_id}/floors", {
      params: { path: { project_id: project.id } },
      body: {
        name: name.trim(),
        level: level || null,
        copy_of: how === "copy" ? floor.id : null,
        twin_of: how === "twin" ? floor.id : null,
      },
    });
    if (!data) {
      setProblem(saying(error));
      return;
    }
    close();
    await useSession.getState().reload();
    await open(data.floor);
  };
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        void make();
      }}
    >
      <FirstMet words={["twin"]} />
      <div className="segments" role="radiogroup" aria-label="How it begins">
        {(
          [
            ["twin", `Twin of ${floor.name}`],
            ["copy", `Copy of ${floor.name}`],
            ["empty", "Empty"],
          ] as const
        ).map(([key, text]) => (
          <button
            type="button"
            key={key}
            role="radio"
            aria-checked={how === key}
            onClick={() => {
              setHow(key);
              field.current?.focus();
            }}
          >
            {text}
          </button>
        ))}
      </div>
      <div className="fields">
        <div className="number-field">
          <label htmlFor="floor-name">Name</label>
          <input id="floor-name" ref={field} className="text" value={name} onChange={(e) => setName(e.target.value)} />
        </div>
        <div className="number-field">
          <label htmlFor="floor-level">Level</label>
          <select id="floor-level" value={level} onChange={(e) => setLevel(e.target.value)}>
            <option value="">none</option>
            {project.storeys.map((s) => (
              <option key={s.id}>{s.id}</option>
            ))}
          </select>
        </div>
      </div>
      <Ending problem={problem} ready={name.trim() !== ""} does="Add floor" />
    </form>
  );
}

function CopyObjects() {
  const { floor, project, projects, document, say } = usePicked("floor", "project", "projects", "document", "say");
  const close = useDialogs((d) => d.close);
  const [kinds, setKinds] = useState<Set<Kind>>(new Set());
  const [to, setTo] = useState<Set<number>>(new Set());
  const [cases, setCases] = useState<Set<string>>(new Set());
  const [problem, setProblem] = useState("");
  if (!floor || !project || !document) return null;
  const own = new Set([floor.id, ...floor.twins.map((t) => t.id)]);
  const others = (projects.find((p) => p.id === project.id)?.floors ?? []).filter((f) => !own.has(f.id));
  const toggle = <T,>(from: Set<T>, item: T, put: (s: Set<T>) => void) => {
    const next = new Set(from);
    if (!next.delete(item)) next.add(item);
    put(next);
  };
  const make = async () => {
    const { data, error } = await api.POST("/api/floors/{floor_id}/copy", {
      params: { path: { floor_id: floor.id } },
      body: { floors: [...to], kinds: [...kinds], cases: [...cases] },
    });
    if (!data) {
      setProblem(saying(error));
      return;
    }
    close();
    say(
      Object.entries(data.floors)
        .map(([name, n]) => `${name}: ${n} object${n === 1 ? "" : "s"} copied`)
        .join(", "),
    );
    await useSession.getState().reload();
  };
  return (
    <>
      {others.length === 0 && (
        <p className="empty">This project has no other floor that could take them. Add one first.</p>
      )}
      <div className="two-columns">
        <fieldset>
          <legend>Kinds</legend>
          {COPIED.filter((k) => itemsOf(document, k).length).map((k) => (
            <Fragment key={k}>
              <label>
                <input type="checkbox" checked={kinds.has(k)} onChange={() => toggle(kinds, k, setKinds)} /> {plural(k)}{" "}
                ({itemsOf(document, k).length})
              </label>
              {k === "loads" &&
                kinds.has("loads") &&
                (document.load_cases ?? []).map((c) => (
                  <label key={c.id} className="sub">
                    <input type="checkbox" checked={cases.has(c.id)} onChange={() => toggle(cases, c.id, setCases)} />{" "}
                    only case {c.id}
                  </label>
                ))}
            </Fragment>
          ))}
        </fieldset>
        <fieldset>
          <legend>To floors</legend>
          {others.map((f) => (
            <label key={f.id}>
              <input type="checkbox" checked={to.has(f.id)} onChange={() => toggle(to, f.id, setTo)} /> {f.name}
            </label>
          ))}
        </fieldset>
      </div>
      <Ending problem={problem} ready={kinds.size > 0 && to.size > 0} does="Copy" act={() => void make()} />
    </>
  );
}

function History() {
  const floor = useSession((s) => s.floor);
  const [entries, setEntries] = useState<HistoryEntry[]>([]);
  useEffect(() => {
    if (floor)
      void api
        .GET("/api/floors/{floor_id}/history", { params: { path: { floor_id: floor.id } } })
        .then(({ data }) => data && setEntries(data));
  }, [floor]);
  return (
    <div className="history">
      <table className="small-table">
        <tbody>
          {entries.map((e) => (
            <tr key={e.number}>
              <td className="mono">{e.number}</td>
              <td>{e.line}</td>
              <td className="quiet">{e.author}</td>
              <td className="quiet mono">
                {new Date(`${e.made}Z`).toLocaleString("en-GB", { dateStyle: "short", timeStyle: "short" })}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
