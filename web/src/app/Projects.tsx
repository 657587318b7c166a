import { type ChangeEvent, useCallback, useEffect, useState } from "react";
import { api, saying } from "../api/client";
import { fetchOwn, reaches, useEntry } from "../api/entry";
import type { components } from "../api/generated";
import { keepFloor, nameFloor, orderFloors, shifted } from "../building/actions";
import { NotRead } from "../building/ModelView";
import { countsTold, type ModelRead, sendModel } from "../building/model";
import { checkOf } from "../checks";
import { usePicked, useSession } from "../session";
import { useDialogs } from "../session/dialogs";
import { usePlace } from "../session/place";
import { useTour } from "../session/tour";
import { SIGN, use } from "../units/format";

type Project = components["schemas"]["ProjectSummary"];
type Floor = components["schemas"]["FloorSummary"];
type Away = components["schemas"]["PutAway"];
type Answer = { error?: unknown; response: Response };

const RANK = ["fail", "unchecked", "uncovered", "pass"];
const MARKS: Record<string, "fail" | "none" | "bare" | "pass"> = {
  fail: "fail",
  unchecked: "none",
  uncovered: "bare",
  pass: "pass",
};
const WORDS: Record<string, string> = {
  fail: "does not work",
  unchecked: "not all checked",
  uncovered: "not all covered",
  pass: "works",
};

/** Every project with its floors: opened, named, put in order, put away and brought back, taken out and in as files. */
export function Projects() {
  const { projects, floor, open, say, reload } = usePicked("projects", "floor", "open", "say", "reload");
  const begins = useEntry((e) => e.me?.person?.begins);
  const { close, open: openDialog } = useDialogs();
  const [away, setAway] = useState<Away[]>([]);
  const [problem, setProblem] = useState("");
  const [model, setModel] = useState<{ name: string; read: ModelRead | null } | null>(null);

  const look = useCallback(async () => {
    await reload();
    const { data } = await api.GET("/api/put-away");
    if (data) setAway(data);
  }, [reload]);
  useEffect(() => {
    void look();
  }, [look]);

  /** Do something, tell how it went, and look again. */
  const doing = async (work: () => Promise<Answer | string>, told: string) => {
    const answer = await work();
    const wrong = typeof answer === "string" ? answer : answer.response.ok ? "" : saying(answer.error);
    if (!wrong) say(told);
    setProblem(wrong);
    await look();
    return !wrong;
  };

  // The first floor that does not work shows best what the verdict is for.
  const failing = projects.flatMap((p) => p.floors).find((f) => f.verdict.some((c) => c.status === "fail"));
  const lead = async (f: Floor) => {
    await goTo(f.id);
    useTour.getState().begin({ floor: f.id, revision: f.revision, fresh: f.revision, failing: false, undone: false });
  };
  const goTo = async (id: number) => {
    close();
    usePlace.getState().go(null);
    await open(id);
  };

  const keepOf = async (p: Project, f: Floor, off: boolean) => {
    const done = await doing(
      () => keepFloor(f.id, off),
      off ? `${f.name} is put away; it can be brought back below` : `${f.name} is back`,
    );
    const next = p.floors.find((o) => o.id !== f.id);
    if (done && off && floor?.id === f.id && next) await open(next.id);
  };

  const keepProject = async (id: number, name: string, off: boolean) => {
    const done = await doing(
      () => api.PUT("/api/projects/{project_id}/away", { params: { path: { project_id: id } }, body: { away: off } }),
      off ? `${name} is put away; it can be brought back below` : `${name} is back`,
    );
    const next = useSession.getState().projects.flatMap((p) => p.floors)[0];
    if (done && off && floor?.project_id === id && next) await open(next.id);
  };

  const shift = (p: Project, at: number, by: number) => {
    const ids = p.floors.map((f) => f.id);
    const moved = p.floors[at];
    if (!moved) return;
    void doing(() => orderFloors(p.id, shifted(ids, moved.id, by)), `${moved.name} moved ${by < 0 ? "up" : "down"}`);
  };

  const rename = (f: Floor, name: string) => doing(() => nameFloor(f.id, name), `${f.name} is called ${name} now`);

  const duplicate = async (p: Project) => {
    const file = await fetchOwn(`/api/projects/${p.id}/file`).then((r) => r.json());
    await doing(() => api.POST("/api/projects/file", { body: { file, name: null } }), `${p.name} is there twice`);
  };

  const takeIn = async (event: ChangeEvent<HTMLInputElement>, into: Project | null) => {
    const [chosen] = event.target.files ?? [];
    event.target.value = "";
    if (!chosen) return;
    let file: Record<string, unknown> & { format?: string; name?: string };
    try {
      file = JSON.parse(await chosen.text());
    } catch {
      setProblem(`${chosen.name} is not JSON; choose a project file or a floor file that Piastra wrote.`);
      return;
    }
    if (file.format === "piastra-project") {
      await doing(
        () => api.POST("/api/projects/file", { body: { file: file as never, name: null } }),
        `${chosen.name} is a project of its own now`,
      );
      return;
    }
    if (!into) {
      setProblem(`${chosen.name} is one floor; take it into a project with the button beside that.`);
      return;
    }
    await doing(
      () =>
        api.POST("/api/projects/{project_id}/floors", {
          params: { path: { project_id: into.id } },
          body: { document: file as never, name: null, level: null, copy_of: null, twin_of: null },
        }),
      `${file.name ?? chosen.name} is a floor of ${into.name} now`,
    );
  };

  const takeModel = async (event: ChangeEvent<HTMLInputElement>) => {
    const [file] = event.target.files ?? [];
    event.target.value = "";
    if (!file) return;
    setModel({ name: file.name, read: null });
    const { data, problem: wrong } = await sendModel<ModelRead>("/api/projects/model", file);
    setProblem(wrong);
    setModel(data ? { name: file.name, read: data } : null);
    await look();
  };

  return (
    <div className="projects">
      {problem && (
        <p className="error" role="alert">
          {problem}
        </p>
      )}
      {model && (
        <div className="model-read" role="status">
          {model.read ? (
            <>
              <p className="row-of">
                <span>
                  {model.name} is a project of {model.read.storeys.length} floors now
                </span>
                <button
                  type="button"
                  className="small accent"
                  onClick={() => {
                    const made = model.read?.made.floor ?? 0;
                    close();
                    usePlace.getState().go("floors");
                    void open(made);
                  }}
                >
                  Look at it
                </button>
              </p>
              <ul className="not-read">
                {model.read.storeys.map((s) => (
                  <li key={s.level}>
                    {s.level}: {countsTold(s.counts)}
                  </li>
                ))}
              </ul>
              <NotRead told={model.read.told} />
            </>
          ) : (
            `Reading ${model.name}`
          )}
        </div>
      )}
      {failing && (
        <p className="row-of">
          <span>New here? {failing.name} does not work. Six short steps lead from its verdict to its mend.</span>
          <button type="button" className="small accent" onClick={() => void lead(failing)}>
            First steps
          </button>
        </p>
      )}
      {projects.map((p) => (
        <section key={p.id} aria-label={p.name}>
          <header>
            <h3>{p.name}</h3>
            <span className="quiet">
              {p.units}, you are {p.role}
            </span>
            <span className="space" />
            <a className="small" href={`/api/projects/${p.id}/file`}>
              Project file
            </a>
            {reaches(p.role, "designer") && (
              <label className="small">
                Take a floor file in
                <input type="file" accept=".json" className="unseen" onChange={(e) => void takeIn(e, p)} />
              </label>
            )}
            {begins && (
              <button type="button" className="small" onClick={() => void duplicate(p)}>
                Duplicate
              </button>
            )}
            {reaches(p.role, "owner") && (
              <button type="button" className="small" onClick={() => void keepProject(p.id, p.name, true)}>
                Put away
              </button>
            )}
          </header>
          <table className="small-table">
            <thead>
              <tr>
                <th>Floor</th>
                <th>Level</th>
                <th>Verdict</th>
                <th>Worst</th>
                <th>
                  <span className="hidden-word">What to do with it</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {p.floors.map((f, k) => (
                <tr key={f.id} className={f.id === floor?.id ? "current" : ""}>
                  <td>
                    {reaches(p.role, "designer") ? <Name floor={f} rename={(name) => rename(f, name)} /> : f.name}
                  </td>
                  <td className="quiet">{f.level ?? "–"}</td>
                  <Verdict floor={f} />
                  <td className="acts">
                    <button type="button" className="small" onClick={() => void goTo(f.id)}>
                      Open
                    </button>
                    {reaches(p.role, "designer") && (
                      <>
                        <button
                          type="button"
                          className="small"
                          disabled={k === 0}
                          aria-label={`${f.name} up`}
                          onClick={() => shift(p, k, -1)}
                        >
                          ↑
                        </button>
                        <button
                          type="button"
                          className="small"
                          disabled={k === p.floors.length - 1}
                          aria-label={`${f.name} down`}
                          onClick={() => shift(p, k, 1)}
                        >
                          ↓
                        </button>
                      </>
                    )}
                    <a className="small" href={`/api/floors/${f.id}/file`}>
                      File
                    </a>
                    {reaches(p.role, "designer") && (
                      <button
                        type="button"
                        className="small"
                        disabled={p.floors.length === 1}
                        aria-label={`Put away ${f.name}`}
                        onClick={() => void keepOf(p, f, true)}
                      >
                        Put away
                      </button>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      ))}
      {away.length > 0 && (
        <section aria-label="Put away">
          <h3>Put away</h3>
          {away.map((a) => (
            <p key={`${a.project}-${a.floor}`} className="row-of">
              <span>
                {a.floor === null ? a.name : `${a.name}, of ${a.project_name}`}{" "}
                <span className="quiet">{a.floor === null ? "project" : "floor"}</span>
              </span>
              <button
                type="button"
                className="small"
                onClick={() =>
                  void (a.floor === null
                    ? keepProject(a.project, a.name, false)
                    : keepOf({ floors: [] } as unknown as Project, { id: a.floor, name: a.name } as Floor, false))
                }
              >
                Bring back
              </button>
            </p>
          ))}
        </section>
      )}
      {projects.length === 0 && !begins && (
        <p className="quiet">Nobody has taken you into a project yet; an owner of one sends you a link.</p>
      )}
      {begins && (
        <div className="buttons">
          <label className="small">
            Take a project file in
            <input type="file" accept=".json" className="unseen" onChange={(e) => void takeIn(e, null)} />
          </label>
          <label className="small">
            From a building model (IFC)
            <input type="file" accept=".ifc" className="unseen" onChange={(e) => void takeModel(e)} />
          </label>
          <button type="button" className="accent" onClick={() => openDialog("project")}>
            New project
          </button>
        </div>
      )}
    </div>
  );
}

function Name(props: { floor: Floor; rename: (name: string) => Promise<boolean> }) {
  const { floor, rename } = props;
  return (
    <input
      key={floor.name}
      className="text"
      aria-label={`Name of ${floor.name}`}
      defaultValue={floor.name}
      onKeyDown={(e) => {
        if (e.key === "Enter") e.currentTarget.blur();
        if (e.key === "Escape") {
          e.currentTarget.value = floor.name;
          e.stopPropagation();
        }
      }}
      onBlur={(e) => {
        const field = e.target;
        const name = field.value.trim();
        const back = () => {
          field.value = floor.name;
        };
        if (name && name !== floor.name) void rename(name).then((done) => done || back());
        else back();
      }}
    />
  );
}

function Verdict({ floor }: { floor: Floor }) {
  const worst = [...floor.verdict].sort(
    (a, b) => RANK.indexOf(a.status) - RANK.indexOf(b.status) || (b.utilisation ?? 0) - (a.utilisation ?? 0),
  )[0];
  if (!worst)
    return (
      <>
        <td className="quiet">{floor.run ? floor.run.state : "empty"}</td>
        <td />
      </>
    );
  const mark = MARKS[worst.status] ?? "none";
  const top = [...floor.verdict].sort((a, b) => (b.utilisation ?? 0) - (a.utilisation ?? 0))[0] ?? worst;
  // What is known may be of an earlier revision.
  if (floor.run?.state !== "fresh")
    return (
      <>
        <td className="quiet">out of date{floor.run ? `, ${floor.run.state}` : ""}</td>
        <td className="quiet">
          {checkOf(top.check).title} <span className="mono">{use(top.utilisation)}</span>
        </td>
      </>
    );
  return (
    <>
      <td className={mark}>
        <span aria-hidden="true">{SIGN[mark]}</span> {WORDS[worst.status] ?? worst.status}
      </td>
      <td>
        {checkOf(top.check).title} <span className="mono">{use(top.utilisation)}</span>
      </td>
    </>
  );
}
