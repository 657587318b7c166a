import { type ChangeEvent, useState } from "react";
import { api, saying } from "../api/client";
import { usePicked } from "../session";
import type { System } from "../units/quantities";
import { type Compared, keyOf, pieceTold, sendModel } from "./model";

/** A newer building model beside the one that the project was made from: what changed, taken over piece by piece. */
export function ModelView(props: { project: number; system: System; may: boolean; changed: () => void }) {
  const { project, system, may, changed } = props;
  const { document, say } = usePicked("document", "say");
  const [found, setFound] = useState<Compared | null>(null);
  const [ticked, setTicked] = useState<Set<string>>(new Set());
  const [problem, setProblem] = useState("");
  const [reading, setReading] = useState("");
  const read = async (event: ChangeEvent<HTMLInputElement>) => {
    const [file] = event.target.files ?? [];
    event.target.value = "";
    if (!file) return;
    setReading(file.name);
    const { data, problem: wrong } = await sendModel<Compared>(`/api/projects/${project}/model`, file);
    setReading("");
    setProblem(wrong);
    setFound(data ?? null);
    setTicked(new Set(data?.pieces.map(keyOf)));
  };
  const take = async () => {
    const pieces = (found?.pieces ?? []).filter((p) => ticked.has(keyOf(p)));
    const { data, error } = await api.POST("/api/projects/{project_id}/model/take", {
      params: { path: { project_id: project } },
      body: { pieces: pieces.map(({ level, list, id }) => ({ level, list, id })) },
    });
    if (!data) {
      setProblem("problems" in (error ?? {}) ? saying(error) : "A floor was changed meanwhile; read the model again.");
      return;
    }
    const clashes = data.clashes.length ? `; both had changed: ${data.clashes.join(", ")}` : "";
    say(`Taken over into ${data.floors.join(", ")}${clashes}`, data.clashes.length > 0);
    setFound((f) => f && { ...f, pieces: f.pieces.filter((p) => !ticked.has(keyOf(p))) });
    setTicked(new Set());
    changed();
  };
  const toggle = (key: string) =>
    setTicked((all) => {
      const next = new Set(all);
      if (!next.delete(key)) next.add(key);
      return next;
    });
  return (
    <section className="model-view" aria-label="Building model">
      <p className="row-of">
        <span>
          The building as it stands, the first floor on each level, with the bars and tendons that were computed:
        </span>
        <a className="small" href={`/api/projects/${project}/model.ifc`}>
          Building model (IFC4)
        </a>
      </p>
      <p>
        A newer model of this building (IFC4) is compared with what was taken over from the one before. What you have
        changed in the floors yourself stays.
      </p>
      {may ? (
        <label className="small">
          {reading ? `Reading ${reading}` : "Read a building model (.ifc)"}
          <input
            type="file"
            accept=".ifc"
            className="unseen"
            disabled={reading !== ""}
            onChange={(e) => void read(e)}
          />
        </label>
      ) : (
        <p className="quiet">Designers of the project read models in.</p>
      )}
      {problem && (
        <p className="error" role="alert">
          {problem}
        </p>
      )}
      {found && document && (
        <>
          <h3>
            {found.name}: {found.pieces.length ? `${found.pieces.length} pieces differ` : "nothing differs"}
          </h3>
          {found.levels.length > 0 && (
            <p className="quiet">Storeys without a floor here: {found.levels.join(", ")}. Add floors on them first.</p>
          )}
          {found.pieces.length > 0 && (
            <>
              <table className="small-table pieces">
                <thead>
                  <tr>
                    <th>
                      <input
                        type="checkbox"
                        aria-label="All pieces"
                        checked={ticked.size === found.pieces.length}
                        onChange={() =>
                          setTicked(ticked.size === found.pieces.length ? new Set() : new Set(found.pieces.map(keyOf)))
                        }
                      />
                    </th>
                    <th>Level</th>
                    <th>What</th>
                  </tr>
                </thead>
                <tbody>
                  {found.pieces.map((p) => (
                    <tr key={keyOf(p)}>
                      <td>
                        <input
                          type="checkbox"
                          aria-label={`${p.id} on ${p.level}`}
                          checked={ticked.has(keyOf(p))}
                          onChange={() => toggle(keyOf(p))}
                        />
                      </td>
                      <td>{p.level}</td>
                      <td>{pieceTold(p, document, system)}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
              <button type="button" className="small accent" disabled={!ticked.size} onClick={() => void take()}>
                Take {ticked.size || ""} over
              </button>
            </>
          )}
          <NotRead told={found.told} />
        </>
      )}
    </section>
  );
}

/** What of a model could not be read, or was read as something else. */
export function NotRead(props: { told: Compared["told"] }) {
  if (!props.told.length) return null;
  return (
    <>
      <h4>Not read as it is</h4>
      <ul className="not-read">
        {props.told.map((t) => (
          <li key={t.what + t.why}>
            {t.count} {t.what}: {t.why}
          </li>
        ))}
      </ul>
    </>
  );
}
