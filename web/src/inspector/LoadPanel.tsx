import { useRef, useState } from "react";
import { problemsOf } from "../api/client";
import { fetchOwn } from "../api/entry";
import type { components } from "../api/generated";
import { useDisplay } from "../display/display";
import { stretchesOn } from "../kinds/applying";
import { added } from "../kinds/edits";
import type { FloorDocument, Kind, Labelled, LoadCase, Vertex } from "../model/floor";
import { loadText } from "../model/loads";
import { type Point, points } from "../model/outlines";
import { usePicked } from "../session";
import { useDialogs } from "../session/dialogs";
import { read, unitOf, unreadable, useUnits } from "../units/quantities";
import { resultOf } from "../units/results";
import { RefusedCells } from "./RefusedCells";

type CellProblem = components["schemas"]["CellProblem"];

/** The active case, what acts everywhere, loads along grid lines, joints read from a table, and the project's build-ups. */
export function LoadPanel(props: { document: FloorDocument }) {
  const { document } = props;
  const { choose, edit, results } = usePicked("choose", "edit", "results");
  const { loadsOf, show } = useDisplay();
  const system = useUnits((u) => u.system);
  const cases = document.load_cases ?? [];
  const loads = (document.loads ?? []).filter((l) => !loadsOf || l.case === loadsOf);
  const kinds = [...new Set(loads.map((l) => l.kind))];
  const everywhere = loads.filter((l) => l.kind === "area" && !l.outline && !l.slabs);
  const total = (results?.loads ?? [])
    .filter((s) => !loadsOf || s.case === loadsOf)
    .reduce((t, s) => t + s.on_floor_kN, 0);
  const addCase = () => {
    const fresh: Omit<LoadCase, "id"> = { nature: "live", pattern: true };
    const { refs } = added(document, "load_cases", [fresh]);
    void edit({
      line: `Load case ${refs[0]?.id} added`,
      change: (d) => added(d, "load_cases", [fresh]).document,
      picks: refs,
    });
  };
  const addEverywhere = (from: string) => {
    const [key = "", label = ""] = from.split("|");
    // A use is live load, a build-up is dead; a case that is chosen goes before either.
    const nature = key === "occupancy" ? "live" : "dead";
    const load = {
      kind: "area",
      case: loadsOf ?? cases.find((c) => c.nature === nature)?.id ?? cases[0]?.id,
      ...(label ? { [key]: label } : { q_kPa: 1 }),
    };
    const { refs } = added(document, "loads", [load]);
    void edit({
      line: `Load ${refs[0]?.id} put everywhere`,
      change: (d) => added(d, "loads", [load]).document,
      picks: refs,
    });
  };
  return (
    <>
      <h2>Loads</h2>
      <div className="fields">
        <div className="number-field">
          <label htmlFor="active-case">Active case</label>
          <select
            id="active-case"
            value={loadsOf ?? ""}
            onChange={(e) => show({ loadsOf: e.target.value || null })}
            title="New loads are of this case; the plan shows its loads alone"
          >
            <option value="">all of them</option>
            {cases.map((c) => (
              <option key={c.id} value={c.id}>
                {c.id}, {c.nature.replace("_", " ")}
              </option>
            ))}
          </select>
        </div>
      </div>
      <p className="quiet">
        {results ? `${resultOf(total, "kN", system)} on the floor` : "No sums yet"}
        {loadsOf ? ` in ${loadsOf}` : ", self-weight included"}.
      </p>
      <div className="button-row">
        <button type="button" onClick={addCase}>
          Add a case
        </button>
        <select
          aria-label="Load on all slabs"
          value=""
          disabled={!cases.length}
          onChange={(e) => addEverywhere(e.target.value)}
        >
          <option value="">Load on all slabs…</option>
          <option value="own">a value of its own</option>
          {(
            [
              ["Build-ups", "build_up", document.build_ups ?? []],
              ["Occupancies", "occupancy", document.occupancies ?? []],
            ] as const
          ).map(
            ([name, key, list]) =>
              list.length > 0 && (
                <optgroup key={key} label={name}>
                  {list.map((i) => (
                    <option key={i.id} value={`${key}|${i.id}`}>
                      {i.id}
                    </option>
                  ))}
                </optgroup>
              ),
          )}
        </select>
      </div>
      {everywhere.length > 0 && <h3>On all slabs</h3>}
      {everywhere.map((l) => (
        <button type="button" className="row-link" key={l.id} onClick={() => choose([{ kind: "loads", id: l.id }])}>
          <span>
            {l.id} <span className="quiet">{l.case}</span>
          </span>
          <span className="mono">{loadText(l, document, system)}</span>
        </button>
      ))}
      {kinds.length > 0 && <h3>Select together</h3>}
      {kinds.map((k) => (
        <button
          type="button"
          className="row-link"
          key={k}
          onClick={() => choose(loads.filter((l) => l.kind === k).map((l) => ({ kind: "loads", id: l.id })))}
        >
          <span>
            {k} loads {loadsOf && <span className="quiet">of {loadsOf}</span>}
          </span>
          <span className="mono">{loads.filter((l) => l.kind === k).length}</span>
        </button>
      ))}
      <p className="quiet">Shift and drag selects the loads of a region. Delete takes what is selected away.</p>
      <AlongGrid document={document} />
      <FromTable />
      <NewOfProject />
    </>
  );
}

/** A line load along a grid line, as far as it runs over slabs. */
function AlongGrid(props: { document: FloorDocument }) {
  const { document } = props;
  const { edit, say } = usePicked("edit", "say");
  const system = useUnits((u) => u.system);
  const active = useDisplay((d) => d.loadsOf);
  const [grid, setGrid] = useState("");
  const [value, setValue] = useState("");
  const line = (document.grid ?? []).find((g) => g.id === grid);
  const put = () => {
    const q = read(value, "lineload", system);
    const known = (document.partitions ?? []).find((p) => p.id === value.trim());
    if (!line || (q === null && !known)) {
      say(line ? unreadable(value, "lineload", system) : "Choose a grid line.", true);
      return;
    }
    const polygons = document.slabs.map((s) => points(s.outline));
    const stretches = stretchesOn(line.line.map((v: Vertex) => [v[0] ?? 0, v[1] ?? 0]) as [Point, Point], polygons);
    if (!stretches.length) {
      say(`Grid line ${grid} runs over no slab.`, true);
      return;
    }
    const caseId = active ?? document.load_cases?.find((c) => c.nature === "dead")?.id;
    const worth = known ? { partition: known.id } : { q_kN_m: [q, q] };
    const items = stretches.map((s) => ({ kind: "line", case: caseId, line: s, ...worth }));
    void edit({
      line: `Line load of ${caseId} along grid line ${grid}`,
      change: (d) => added(d, "loads", items).document,
      picks: added(document, "loads", items).refs,
    });
  };
  if (!document.grid?.length || !document.load_cases?.length) return null;
  return (
    <>
      <h3>Along a grid line</h3>
      <div className="keep-set">
        <select aria-label="Grid line" value={grid} onChange={(e) => setGrid(e.target.value)}>
          <option value="">line</option>
          {document.grid.map((g) => (
            <option key={g.id}>{g.id}</option>
          ))}
        </select>
        <input
          className="text"
          aria-label="Line load or partition"
          placeholder={system === "SI" ? "kN/m or partition" : "plf or partition"}
          list="partitions"
          value={value}
          onChange={(e) => setValue(e.target.value)}
          onKeyDown={(e) => e.key === "Enter" && put()}
        />
        <datalist id="partitions">
          {(document.partitions ?? []).map((p) => (
            <option key={p.id} value={p.id} />
          ))}
        </datalist>
        <button type="button" onClick={put}>
          Put
        </button>
      </div>
    </>
  );
}

/** Forces and moments at columns and walls, from a frame analysis. */
function FromTable() {
  const { floor, edit, say } = usePicked("floor", "edit", "say");
  const system = useUnits((u) => u.system);
  const [kN, kNm] = [unitOf("force", system).unit, unitOf("moment", system).unit];
  const openDialog = useDialogs((d) => d.open);
  const [wrong, setWrong] = useState<CellProblem[]>([]);
  const file = useRef<HTMLInputElement>(null);
  const take = async (given: File) => {
    const answer = await fetchOwn(`/api/floors/${floor?.id}/joint-loads/read?name=${encodeURIComponent(given.name)}`, {
      method: "POST",
      body: given,
    });
    const data = await answer.json().catch(() => null);
    if (!answer.ok) {
      say(problemsOf(data)[0]?.sentence ?? "", true);
      return;
    }
    setWrong(data.problems);
    if (!data.problems.length)
      await edit({
        line: `${data.loads.length} loads at joints read from ${given.name}`,
        change: (d) => ({ ...d, loads: [...(d.loads ?? []), ...data.loads] }),
      });
  };
  return (
    <>
      <h3>Forces at columns and walls</h3>
      <p className="quiet">
        A table with the columns Case, Support, F {kN}, Mx {kNm}, My {kNm}, as CSV or XLSX.{" "}
        <button type="button" className="link" onClick={() => openDialog("lateral")}>
          For all floors at once
        </button>
      </p>
      <input
        ref={file}
        type="file"
        accept=".csv,.xlsx"
        aria-label="Table of forces at columns and walls"
        onChange={(e) => {
          const given = e.target.files?.[0];
          if (given) void take(given);
          e.target.value = "";
        }}
      />
      <RefusedCells cells={wrong} close={() => setWrong([])} />
    </>
  );
}

const FRESH: [Kind, string, (d: FloorDocument) => Omit<Labelled, "id"> | string][] = [
  ["load_materials", "Material of layers", () => ({ unit_weight_kN_m3: 20 })],
  ["build_ups", "Build-up", () => ({ layers: [], extra_kPa: 1 })],
  [
    "partitions",
    "Partition",
    (d) =>
      d.build_ups?.[0]
        ? { build_up: d.build_ups[0].id, height_m: 3 }
        : "A partition is a build-up of a height: add a build-up first.",
  ],
  ["occupancies", "Occupancy", () => ({ q_kPa: 2 })],
];

/** New materials of layers, build-ups, partitions and occupancies; they belong to the project. */
function NewOfProject() {
  const { document, editProject, choose, say } = usePicked("document", "editProject", "choose", "say");
  if (!document) return null;
  return (
    <>
      <h3>New in the project</h3>
      <div className="button-row">
        {FRESH.map(([kind, name, make]) => (
          <button
            type="button"
            key={kind}
            onClick={async () => {
              const item = make(document);
              if (typeof item === "string") {
                say(item, true);
                return;
              }
              const { refs } = added(document, kind, [item]);
              const made = { ...item, id: refs[0]?.id ?? "" };
              const done = await editProject({
                line: `${name} ${made.id} added`,
                change: (p) => ({
                  ...p,
                  [kind]: [...((p[kind as keyof typeof p] as unknown as Labelled[] | undefined) ?? []), made],
                }),
              });
              if (done) choose(refs);
            }}
          >
            {name}
          </button>
        ))}
      </div>
      <p className="quiet">They are edited in the ledger’s tables, and are there for every floor of the project.</p>
    </>
  );
}
