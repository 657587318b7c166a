import { useRef, useState } from "react";
import { api, problemsOf } from "../api/client";
import { fetchOwn } from "../api/entry";
import type { components } from "../api/generated";
import { usePicked } from "../session";
import { useDialogs } from "../session/dialogs";
import { unitOf, useUnits } from "../units/quantities";

type Read = components["schemas"]["LateralRead"];
type Case = Read["cases"][number];

/** What a table's case becomes, by what is chosen for it: a case of the floors, a new one of its own name, or nothing. */
export function takesOf(choice: string, name: string): string {
  return choice === "new" ? name : choice.startsWith("case ") ? choice.slice(5) : "";
}

/** Forces that are taken over, by what their cases become. */
export function meant(read: Read, cases: readonly Case[]): Read["forces"] {
  const taken = new Set(cases.filter((c) => c.takes).map((c) => c.name));
  return read.forces.filter((f) => taken.has(f.case));
}

/** Forces of a frame analysis at columns and walls of all floors, out of one table: its cases are told and can be changed before they are taken over. */
export function Lateral() {
  const { project, say, reload } = usePicked("project", "say", "reload");
  const close = useDialogs((d) => d.close);
  const system = useUnits((u) => u.system);
  const [read, setRead] = useState<Read | null>(null);
  const [cases, setCases] = useState<Case[]>([]);
  const [name, setName] = useState("");
  const [problem, setProblem] = useState("");
  const file = useRef<HTMLInputElement>(null);
  if (!project) return null;
  const [kN, kNm] = [unitOf("force", system).unit, unitOf("moment", system).unit];
  const look = async (given: File) => {
    const answer = await fetchOwn(
      `/api/projects/${project.id}/lateral/read?${new URLSearchParams({ name: given.name })}`,
      { method: "POST", body: given },
    );
    const found = await answer.json().catch(() => null);
    setProblem(answer.ok ? "" : (problemsOf(found)[0]?.sentence ?? "The table could not be read."));
    setRead(answer.ok ? found : null);
    setCases(answer.ok ? found.cases : []);
    setName(given.name);
  };
  const change = (of: Case, more: Partial<Case>) =>
    setCases(cases.map((c) => (c.name === of.name ? { ...c, ...more } : c)));
  const forces = read ? meant(read, cases) : [];
  const floors = new Set(forces.map((f) => f.floor)).size;
  const take = async () => {
    const { data, error } = await api.POST("/api/projects/{project_id}/lateral", {
      params: { path: { project_id: project.id } },
      body: {
        name,
        forces,
        cases: cases.map(({ rows, known, there, ...c }) => c),
      },
    });
    if (!data) {
      setProblem(problemsOf(error)[0]?.sentence ?? "They could not be taken over.");
      return;
    }
    say(
      `${forces.length} ${forces.length === 1 ? "force" : "forces"} taken over to ${data.map((f) => f.name).join(", ")}`,
    );
    await reload();
    close();
  };
  return (
    <>
      <p className="quiet">
        A table with the columns Level, Case, Support, F {kN}, Mx {kNm}, My {kNm}, as CSV or XLSX; F presses down,
        moments turn about the plan's axes. Level names a level or a floor, Support a column or wall.
      </p>
      <label>
        Table{" "}
        <input
          ref={file}
          type="file"
          accept=".csv,.xlsx"
          aria-label="Table of forces at columns and walls of all floors"
          onChange={(e) => {
            const given = e.target.files?.[0];
            if (given) void look(given);
            e.target.value = "";
          }}
        />
      </label>
      {read && (
        <>
          <h3>Cases of {name}</h3>
          <table className="lateral">
            <thead>
              <tr>
                <th>In the table</th>
                <th className="figure">Forces</th>
                <th>Becomes</th>
                <th>Nature</th>
                <th>Direction</th>
                <th>Either sign</th>
              </tr>
            </thead>
            <tbody>
              {cases.map((c) => {
                const labels = [...new Set([...read.labels, ...(c.takes && c.known ? [c.takes] : [])])];
                const fresh = c.takes !== "" && !labels.includes(c.takes);
                return (
                  <tr key={c.name}>
                    <td>{c.name}</td>
                    <td className="figure">{c.rows}</td>
                    <td>
                      <select
                        aria-label={`What ${c.name} becomes`}
                        value={c.takes === "" ? "none" : fresh ? "new" : `case ${c.takes}`}
                        onChange={(e) => change(c, { takes: takesOf(e.target.value, c.name) })}
                      >
                        {labels.map((l) => (
                          <option key={l} value={`case ${l}`}>
                            {l}
                          </option>
                        ))}
                        {!labels.includes(c.name) && <option value="new">new case {c.name}</option>}
                        <option value="none">left out</option>
                      </select>
                    </td>
                    <td>
                      {fresh && (
                        <select
                          aria-label={`Nature of ${c.name}`}
                          value={c.nature}
                          onChange={(e) => change(c, { nature: e.target.value as Case["nature"] })}
                        >
                          <option value="wind">wind</option>
                          <option value="seismic">seismic</option>
                        </select>
                      )}
                    </td>
                    <td>
                      {fresh && (
                        <select
                          aria-label={`Direction of ${c.name}`}
                          value={c.direction ?? ""}
                          onChange={(e) => change(c, { direction: (e.target.value || null) as Case["direction"] })}
                        >
                          <option value="">none</option>
                          <option value="x">x</option>
                          <option value="y">y</option>
                        </select>
                      )}
                    </td>
                    <td>
                      {fresh && (
                        <input
                          type="checkbox"
                          aria-label={`${c.name} comes with either sign`}
                          checked={c.reversible}
                          onChange={(e) => change(c, { reversible: e.target.checked })}
                        />
                      )}
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
          {cases.some((c) => c.takes && !read.labels.includes(c.takes)) && (
            <p className="quiet">
              A new case is checked only where a combination has it: generate or write some that do.
            </p>
          )}
          {cases.some((c) => c.takes && c.there > 0) && (
            <p className="quiet">Forces at joints that these cases have on the floors now make way.</p>
          )}
          <p className="quiet">
            {read.floors.map((f) => `${f.name}: ${f.rows}`).join(", ") || "No row is of a floor of this building."}
          </p>
          {read.problems.length > 0 && (
            <>
              <h3>
                {read.problems.length} {read.problems.length === 1 ? "cell" : "cells"} left out with their rows
              </h3>
              <ul className="not-read">
                {read.problems.slice(0, 12).map((p) => (
                  <li key={`${p.cell}-${p.sentence}`}>
                    <b>{p.cell}</b> {p.sentence}
                  </li>
                ))}
                {read.problems.length > 12 && <li>and {read.problems.length - 12} more</li>}
              </ul>
            </>
          )}
        </>
      )}
      {problem && (
        <p className="error" role="alert">
          {problem}
        </p>
      )}
      <div className="buttons">
        <button type="button" onClick={close}>
          Cancel
        </button>
        <button type="button" className="accent" disabled={!forces.length} onClick={() => void take()}>
          Take over {forces.length} {forces.length === 1 ? "force" : "forces"} to {floors}{" "}
          {floors === 1 ? "floor" : "floors"}
        </button>
      </div>
    </>
  );
}
