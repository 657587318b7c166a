import { useState } from "react";
import { api, problemsOf } from "../api/client";
import { FindingView } from "../audit/FindingView";
import { useDisplay } from "../display/display";
import { BASE, labelsFrom, levelInserted, type ProjectDocument, spacingsOf } from "../model/project";
import { standardNames } from "../model/standards";
import { useDrawing } from "../plan/DrawingLayer";
import { type ProjectEdit, usePicked } from "../session";
import { useDialogs } from "../session/dialogs";
import { read, unreadable, useUnits } from "../units/quantities";

/** Setting out: what the project's floors share, and what lies beneath this one. */
export function ProjectPanel() {
  const { project, editProject, undoProject, floor, findings, reload } = usePicked(
    "project",
    "editProject",
    "undoProject",
    "floor",
    "findings",
    "reload",
  );
  const open = useDialogs((d) => d.open);
  const drawing = useDrawing((d) => d.shown);
  const { drawing: seen, show } = useDisplay();
  if (!project || !floor) return <p className="empty">Opening the project.</p>;
  const shared = project.document as unknown as ProjectDocument;
  const set = (change: Partial<ProjectDocument>, line: string) =>
    editProject({ line, change: (p) => ({ ...p, ...change }) });
  return (
    <>
      <h2>{shared.name}</h2>
      <p className="quiet project-line">
        Shared by all its floors. Last change: {project.line}.{" "}
        <button type="button" className="link" disabled={!project.undo} onClick={() => void undoProject(true)}>
          Undo
        </button>{" "}
        <button type="button" className="link" disabled={!project.redo} onClick={() => void undoProject(false)}>
          Redo
        </button>
      </p>
      <div className="fields">
        <div className="number-field">
          <label htmlFor="project-name">Name</label>
          <input
            id="project-name"
            className="text"
            key={shared.name}
            defaultValue={shared.name}
            onBlur={(e) =>
              e.target.value.trim() &&
              e.target.value !== shared.name &&
              void set({ name: e.target.value.trim() }, `project is called ${e.target.value.trim()}`)
            }
          />
        </div>
        <div className="number-field">
          <label htmlFor="project-units">Units</label>
          <select
            id="project-units"
            value={shared.units ?? "SI"}
            onChange={(e) =>
              void set(
                { units: e.target.value as "SI" | "US" },
                `${e.target.value === "US" ? "US customary" : "SI"} units`,
              )
            }
          >
            <option value="SI">SI: m, mm, kN</option>
            <option value="US">US: ft, in, kip</option>
          </select>
        </div>
        <div className="number-field">
          <label htmlFor="project-standard">Standard</label>
          <select
            id="project-standard"
            value={shared.standard}
            onChange={(e) =>
              void set({ standard: e.target.value as typeof shared.standard }, `design to ${e.target.value}`)
            }
          >
            {standardNames().map((name) => (
              <option key={name}>{name}</option>
            ))}
          </select>
        </div>
      </div>
      <h3>Grid</h3>
      <GridForm shared={shared} editProject={editProject} />
      <h3>Levels</h3>
      <LevelForm shared={shared} editProject={editProject} />
      <h3>Materials</h3>
      <div className="button-row">
        {(["concretes", "rebars"] as const).map((list) => {
          const known = new Set(shared[list].map((m) => m.id));
          const offered = (project.library[list] ?? []).filter((m) => !known.has(m.id as string));
          return (
            <select
              key={list}
              aria-label={list === "concretes" ? "Add a concrete" : "Add a steel"}
              value=""
              onChange={(e) => {
                const made = offered.find((m) => m.id === e.target.value);
                if (made)
                  void set({ [list]: [...shared[list], made] } as Partial<ProjectDocument>, `${e.target.value} added`);
              }}
            >
              <option value="">{list === "concretes" ? "Add concrete" : "Add steel"}</option>
              {offered.map((m) => (
                <option key={String(m.id)}>{String(m.id)}</option>
              ))}
            </select>
          );
        })}
      </div>
      <h3>This floor</h3>
      <div className="number-field">
        <label htmlFor="floor-on">Level</label>
        <select
          id="floor-on"
          value={floor.level ?? ""}
          onChange={(e) =>
            void api
              .PUT("/api/floors/{floor_id}/level", {
                params: { path: { floor_id: floor.id } },
                body: { level: e.target.value || null },
              })
              .then(() => reload())
          }
        >
          <option value="">none</option>
          {project.storeys.map((s) => (
            <option key={s.id}>{s.id}</option>
          ))}
        </select>
      </div>
      <div className="button-row">
        <button type="button" className="small" onClick={() => open("floor")}>
          New floor
        </button>
        <button type="button" className="small" onClick={() => open("copy")}>
          Copy objects to floors
        </button>
        <a className="small" href={`/api/floors/${floor.id}/dxf`}>
          As DXF
        </a>
        <a className="small" href={`/api/floors/${floor.id}/file`}>
          As floor file
        </a>
      </div>
      {floor.follows && (
        <p>
          Twin of {floor.follows.name}: a change to either is a change to both. <CutLoose />
        </p>
      )}
      {!floor.follows && floor.twins.length > 0 && <p>Followed by {floor.twins.map((t) => t.name).join(", ")}.</p>}
      <h3>Drawing beneath</h3>
      {drawing ? (
        <div className="button-row">
          <span>{drawing.name}</span>
          <button type="button" className="small" onClick={() => open("drawing")}>
            Make objects of it
          </button>
          <button type="button" className="small" aria-pressed={seen} onClick={() => show({ drawing: !seen })}>
            {seen ? "Hide" : "Show"}
          </button>
        </div>
      ) : (
        <button type="button" className="small" onClick={() => open("drawing")}>
          Bring in a DXF drawing
        </button>
      )}
      {findings.length > 0 && <h3>Audit</h3>}
      {findings.map((f) => (
        <FindingView key={f.rule + f.list + f.id + f.what} finding={f} named />
      ))}
    </>
  );
}

function CutLoose() {
  const { floor, reload, say } = usePicked("floor", "reload", "say");
  const loose = async () => {
    if (!floor) return;
    const { data, error } = await api.POST("/api/floors/{floor_id}/loose", {
      params: { path: { floor_id: floor.id } },
    });
    say(data ? `${floor.name} ${data.line}` : (problemsOf(error)[0]?.sentence ?? ""), !data);
    await reload();
  };
  return (
    <button type="button" className="small" onClick={() => void loose()}>
      Cut loose
    </button>
  );
}

type Form = { shared: ProjectDocument; editProject: (edit: ProjectEdit) => Promise<boolean> };

function GridForm({ shared, editProject }: Form) {
  const system = useUnits((u) => u.system);
  const [spacings, setSpacings] = useState("");
  const [first, setFirst] = useState("");
  const [way, setWay] = useState<"x" | "y">("x");
  const [problem, setProblem] = useState("");
  const count = (shared.grid_sets ?? []).filter((s) => s.kind === "parallel").length;
  const label = first.trim() || (count === 0 ? "A" : "1");
  const add = async () => {
    const gaps = spacingsOf(spacings, system);
    if (!gaps?.length) {
      setProblem(`“${spacings}” is not a list of spacings; write them like 3@7.2, 6.6`);
      return;
    }
    setProblem("");
    const total = gaps.reduce((a, b) => a + b, 0);
    const across = (shared.grid_sets ?? []).flatMap((s) =>
      s.kind === "parallel" && Math.abs((s.angle_deg ?? 0) - (way === "x" ? 0 : 90)) < 1
        ? [s.spacings_m.reduce((a, b) => a + b, 0)]
        : [],
    );
    const reach = Number((across[0] ?? total).toFixed(6));
    const labels = labelsFrom(label, gaps.length + 1);
    const name = `${labels[0]}–${labels[labels.length - 1]}`;
    // Lines spaced along x run up the sheet; counted leftwards from the last one, as parallel sets are.
    const set =
      way === "x"
        ? {
            angle_deg: 90,
            origin: [Number(total.toFixed(9)), 0],
            spacings_m: [...gaps].reverse(),
            labels: [...labels].reverse(),
          }
        : { angle_deg: 0, origin: [0, 0], spacings_m: gaps, labels };
    // The form is ready for the next set at once; what could not be made comes back into it.
    setSpacings("");
    setFirst("");
    setWay(way === "x" ? "y" : "x");
    const done = await editProject({
      line: `grid ${name}`,
      change: (p) => ({
        ...p,
        grid_sets: [
          // A set that was as long as wide for want of another one now reaches across this one.
          ...(p.grid_sets ?? []).map((s) =>
            s.kind === "parallel" && across.length === 0 && p.grid_sets?.length === 1
              ? { ...s, start_m: -1.5, end_m: Number((total + 1.5).toFixed(6)) }
              : s,
          ),
          { id: name, kind: "parallel" as const, ...set, start_m: -1.5, end_m: Number((reach + 1.5).toFixed(6)) },
        ],
      }),
    });
    if (!done) {
      setSpacings(spacings);
      setFirst(first);
      setWay(way);
    }
  };
  return (
    <div className="inline-form">
      <label>
        Spaced along
        <select value={way} onChange={(e) => setWay(e.target.value as "x" | "y")}>
          <option value="x">x</option>
          <option value="y">y</option>
        </select>
      </label>
      <label>
        Spacings
        <input
          value={spacings}
          placeholder={system === "SI" ? "3@7.2, 6.6" : "3@24', 20'-6\""}
          aria-label="Spacings"
          onChange={(e) => setSpacings(e.target.value)}
          onKeyDown={(e) => e.key === "Enter" && void add()}
        />
      </label>
      <label>
        First label
        <input
          className="narrow"
          value={first}
          placeholder={label}
          aria-label="First label"
          onChange={(e) => setFirst(e.target.value)}
        />
      </label>
      <button type="button" className="small" onClick={() => void add()} disabled={!spacings.trim()}>
        Add lines
      </button>
      {problem && (
        <p className="error" role="alert">
          {problem}
        </p>
      )}
    </div>
  );
}

function LevelForm({ shared, editProject }: Form) {
  const system = useUnits((u) => u.system);
  const [name, setName] = useState("");
  const [height, setHeight] = useState("");
  const [problem, setProblem] = useState("");
  const levels = shared.levels ?? [];
  const [below, setBelow] = useState<string | null>(null);
  // On top, or above a level that is there: those above it move up by its height.
  const under = below === BASE || levels.some((l) => l.id === below) ? below : null;
  const add = async () => {
    const value = read(height, "length", system);
    if (value === null || value <= 0) {
      setProblem(unreadable(height, "length", system));
      return;
    }
    setProblem("");
    const done = await editProject({
      line: `level ${name.trim()}`,
      change: (p) => ({ ...p, levels: levelInserted(p.levels ?? [], { id: name.trim(), height_m: value }, under) }),
    });
    if (done) {
      setName("");
      setHeight("");
    }
  };
  return (
    <div className="inline-form">
      <label>
        Name
        <input
          value={name}
          aria-label="Level name"
          placeholder={`Level ${(shared.levels ?? []).length + 1}`}
          onChange={(e) => setName(e.target.value)}
        />
      </label>
      <label>
        Height
        <input
          className="narrow"
          value={height}
          aria-label="Level height"
          placeholder={system === "SI" ? "3.6 m" : "12'"}
          onChange={(e) => setHeight(e.target.value)}
          onKeyDown={(e) => e.key === "Enter" && void add()}
        />
      </label>
      {levels.length > 0 && (
        <label>
          Above
          <select aria-label="Above which level" value={under ?? ""} onChange={(e) => setBelow(e.target.value || null)}>
            <option value="">all others</option>
            <option value={BASE}>the base</option>
            {levels.slice(0, -1).map((l) => (
              <option key={l.id}>{l.id}</option>
            ))}
          </select>
        </label>
      )}
      <button type="button" className="small" onClick={() => void add()} disabled={!name.trim() || !height.trim()}>
        Add level
      </button>
      {problem && (
        <p className="error" role="alert">
          {problem}
        </p>
      )}
    </div>
  );
}
