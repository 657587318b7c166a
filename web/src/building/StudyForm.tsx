import { type ChangeEvent, useEffect, useState } from "react";
import { api, saying } from "../api/client";
import { fetchOwn } from "../api/entry";
import type { FloorDocument, Kind } from "../model/floor";
import { itemsOf } from "../model/floor";
import { usePicked } from "../session";
import { type System, unitOf, written } from "../units/quantities";
import type { Overview } from "./overview";
import { countOf, fieldOf, type How, MOST, numbersOf, type Varied, valuesOf, varying } from "./study";

type Row = { id: number; path: string; typed: string };

const HOW: [How, string, string][] = [
  ["grid", "Every with every", "Every value with every other"],
  ["one_at_a_time", "One at a time", "Each field for itself while the others stay; the floor as it is comes first"],
  ["list", "In step", "The first values of all, the second of all, and so on"],
];

/** What a new study varies: on which floors, which of their numbers, and how. */
export function StudyForm(props: {
  project: number;
  overview: Overview;
  system: System;
  first: number;
  begun: (id: number) => void;
  cancel: () => void;
}) {
  const { project, overview, system, first, begun, cancel } = props;
  const { document: open } = usePicked("document");
  const candidates = overview.floors.filter((f) => f.picture.slabs.length);
  const [floors, setFloors] = useState<number[]>(candidates.some((f) => f.id === first) ? [first] : []);
  const [sample, setSample] = useState<FloorDocument | null>(null);
  const [name, setName] = useState("");
  const [how, setHow] = useState<How>("grid");
  const [history, setHistory] = useState(false);
  const [rows, setRows] = useState<Row[]>([{ id: 1, path: "slabs[*].thickness_m", typed: "" }]);
  const [problem, setProblem] = useState("");
  const [lead] = floors;
  // Objects to choose from are those of the first floor that is ticked.
  useEffect(() => {
    let current = true;
    if (lead === undefined) return;
    void api.GET("/api/floors/{floor_id}", { params: { path: { floor_id: lead } } }).then(({ data }) => {
      if (current && data) setSample(data.document);
    });
    return () => {
      current = false;
    };
  }, [lead]);
  const document = sample ?? open;
  if (!document) return null;
  const read = rows.map((r) => valuesOf(r.typed, fieldOf(r.path).quantity, system));
  const count = countOf(
    read.map((r) => r.values.length),
    how,
    floors.length,
  );
  const change = (id: number, part: Partial<Row>) =>
    setRows((all) => all.map((r) => (r.id === id ? { ...r, ...part } : r)));
  const begin = async () => {
    const { data, error } = await api.POST("/api/projects/{project_id}/studies", {
      params: { path: { project_id: project } },
      body: {
        name: name.trim() || "Study",
        floors,
        vary: rows.map((r, k) => ({ path: r.path, values: read[k]?.values ?? [] })) as Varied[],
        how,
        history,
      },
    });
    if (data) begun(data.id);
    else setProblem(saying(error));
  };
  const takeIn = async (event: ChangeEvent<HTMLInputElement>) => {
    const [file] = event.target.files ?? [];
    event.target.value = "";
    if (!file) return;
    const answer = await fetchOwn(`/api/projects/${project}/studies/read?${new URLSearchParams({ name: file.name })}`, {
      method: "POST",
      body: file,
    });
    const data = (await answer.json()) as { vary?: Varied[] };
    if (!answer.ok || !data.vary) {
      setProblem(saying(data));
      return;
    }
    const odd = data.vary.find((v) => v.values.some((value) => typeof value !== "number"));
    if (odd) {
      setProblem(`${odd.path} has values that are no numbers; such studies run from the command line.`);
      return;
    }
    setProblem("");
    setHow("list");
    setRows(
      data.vary.map((v, k) => ({
        id: k + 1,
        path: v.path,
        typed: v.values.map((value) => written(value as number, fieldOf(v.path).quantity, system)).join(", "),
      })),
    );
  };
  return (
    <form
      className="study-form"
      onSubmit={(e) => {
        e.preventDefault();
        void begin();
      }}
    >
      <h3>New study</h3>
      <div className="number-field">
        <label htmlFor="study-name">Name</label>
        <input
          id="study-name"
          className="text"
          value={name}
          placeholder="Thickness of the slabs"
          onChange={(e) => setName(e.target.value)}
        />
      </div>
      <fieldset>
        <legend>Floors</legend>
        {candidates.map((f) => (
          <label key={f.id}>
            <input
              type="checkbox"
              checked={floors.includes(f.id)}
              onChange={() => setFloors((all) => (all.includes(f.id) ? all.filter((k) => k !== f.id) : [...all, f.id]))}
            />{" "}
            {f.name}
          </label>
        ))}
      </fieldset>
      <fieldset>
        <legend>What varies</legend>
        {rows.map((row, k) => (
          <FieldRow
            key={row.id}
            row={row}
            document={document}
            system={system}
            told={read[k]?.problem || countTold(read[k]?.values.length ?? 0)}
            bad={Boolean(read[k]?.problem)}
            change={(part) => change(row.id, part)}
            remove={rows.length > 1 ? () => setRows((all) => all.filter((r) => r.id !== row.id)) : null}
          />
        ))}
        <div className="button-row">
          <button
            type="button"
            className="small"
            disabled={rows.length >= 12}
            onClick={() =>
              setRows((all) => [
                ...all,
                { id: Math.max(...all.map((r) => r.id)) + 1, path: "columns[*].shape.b_m", typed: "" },
              ])
            }
          >
            Add a field
          </button>
          <label className="small">
            Values from a table (CSV, XLSX)
            <input type="file" accept=".csv,.xlsx" className="unseen" onChange={(e) => void takeIn(e)} />
          </label>
          <span className="quiet">Paths in its first row, in metres and the floor file’s other units.</span>
        </div>
      </fieldset>
      <div className="button-row">
        <div className="segments" role="radiogroup" aria-label="How values are combined">
          {HOW.map(([key, text, told]) => (
            <button
              type="button"
              key={key}
              role="radio"
              aria-checked={how === key}
              title={told}
              onClick={() => setHow(key)}
            >
              {text}
            </button>
          ))}
        </div>
        <label title="Deflections by the life of each floor; without it they are the quick estimate">
          <input type="checkbox" checked={history} onChange={() => setHistory(!history)} /> with the life of the floors
        </label>
      </div>
      {problem && (
        <p className="error" role="alert">
          {problem}
        </p>
      )}
      <div className="button-row">
        <button type="submit" className="accent" disabled={count === 0 || count > MOST}>
          Compute {count || ""} {count === 1 ? "variant" : "variants"}
        </button>
        <button type="button" className="small" onClick={cancel}>
          Cancel
        </button>
        {count > MOST && <span className="fail">A study has {MOST} variants at most.</span>}
        {how === "list" && count === 0 && <span className="quiet">In step, all fields need as many values.</span>}
      </div>
    </form>
  );
}

const countTold = (n: number) => (n ? `${n} ${n === 1 ? "value" : "values"}` : "200 to 300 by 20, or 200, 240, 280");

/** One field that varies: of which objects, which number, and the values; or a path, whatever it leads to. */
function FieldRow(props: {
  row: Row;
  document: FloorDocument;
  system: System;
  told: string;
  bad: boolean;
  change: (part: Partial<Row>) => void;
  remove: (() => void) | null;
}) {
  const { row, document, system, told, bad, change, remove } = props;
  const kinds = varying(document);
  const [, list, which = "*", own = ""] = /^([a-z_]+)\[([^[\]]+)\]\.(.+)$/.exec(row.path) ?? [];
  const kind = (list ?? "floor") as Kind | "floor";
  const named = kinds.some((k) => k.kind === kind) && numbersOf(kind).some((n) => n.path === (list ? own : row.path));
  const [free, setFree] = useState(!named);
  const field = fieldOf(row.path);
  const { unit } = unitOf(field.quantity, system);
  const compose = (k: Kind | "floor", w: string, p: string) => (k === "floor" ? p : `${k}[${w}].${p}`);
  const turn = (k: string) => {
    if (k === "path") {
      setFree(true);
      return;
    }
    setFree(false);
    change({ path: compose(k as Kind | "floor", "*", numbersOf(k as Kind | "floor")[0]?.path ?? "") });
  };
  return (
    <div className="study-field">
      <select aria-label="Of what" value={free ? "path" : kind} onChange={(e) => turn(e.target.value)}>
        {kinds.map((k) => (
          <option key={k.kind} value={k.kind}>
            {k.name}
          </option>
        ))}
        <option value="path">By path…</option>
      </select>
      {free ? (
        <input
          className="text path"
          aria-label="Path"
          title="As the floor file has it: slabs[S1].thickness_m, or slabs[*].thickness_m for all"
          value={row.path}
          onChange={(e) => change({ path: e.target.value.trim() })}
        />
      ) : (
        <>
          {kind !== "floor" && (
            <select
              aria-label="Which"
              value={which}
              onChange={(e) => change({ path: compose(kind, e.target.value, own) })}
            >
              <option value="*">all</option>
              {itemsOf(document, kind).map((i) => (
                <option key={i.id} value={i.id}>
                  {i.id}
                </option>
              ))}
            </select>
          )}
          <select
            aria-label="Which number"
            value={list ? own : row.path}
            onChange={(e) => change({ path: compose(kind, which, e.target.value) })}
          >
            {numbersOf(kind).map((n) => (
              <option key={n.path} value={n.path}>
                {n.name}
              </option>
            ))}
          </select>
        </>
      )}
      <input
        className="text values"
        aria-label={`Values of ${field.name}`}
        value={row.typed}
        onChange={(e) => change({ typed: e.target.value })}
      />
      <span className="quiet unit">{unit}</span>
      {remove && (
        <button type="button" className="small" aria-label={`Without ${field.name}`} onClick={remove}>
          ✕
        </button>
      )}
      <span className={bad ? "fail told" : "quiet told"}>{told}</span>
    </div>
  );
}
