import { useCallback, useEffect, useState } from "react";
import { api, saying } from "../api/client";
import { useEntry } from "../api/entry";
import type { components } from "../api/generated";
import { addressOf, Copied, OpenLinks } from "./Links";

type Somebody = components["schemas"]["Somebody"];
type Link = components["schemas"]["LinkState"];
type Change = components["schemas"]["Change"];

/** Everybody with an account, for who looks after people: links into the practice, new passwords, who is kept out. */
export function Practice() {
  const me = useEntry((e) => e.me?.person);
  const [people, setPeople] = useState<Somebody[]>([]);
  const [links, setLinks] = useState<Link[]>([]);
  const [made, setMade] = useState<{ secret: string; told: string } | null>(null);
  const [problem, setProblem] = useState("");
  const look = useCallback(async () => {
    const [all, open] = await Promise.all([api.GET("/api/people"), api.GET("/api/practice-links")]);
    if (all.data) setPeople(all.data);
    if (open.data) setLinks(open.data);
  }, []);
  useEffect(() => void look(), [look]);
  const change = async (id: number, body: Partial<Change>) => {
    const { error, response } = await api.PUT("/api/people/{user_id}", {
      params: { path: { user_id: id } },
      body: { administrator: null, begins: null, barred: null, ...body },
    });
    setProblem(response.ok ? "" : saying(error));
    await look();
  };
  const link = async (administrator: boolean) => {
    const { data, error } = await api.POST("/api/practice-links", { body: { administrator, note: "" } });
    setProblem(data ? "" : saying(error));
    if (data)
      setMade({
        secret: data.secret,
        told: administrator
          ? "This link lets one person in who looks after people. It is shown this once:"
          : "This link lets one person in who may begin projects. It is shown this once:",
      });
    await look();
  };
  const bare = async (p: Somebody) => {
    const { error, response } = await api.POST("/api/people/{user_id}/second-factor/off", {
      params: { path: { user_id: p.id } },
    });
    setProblem(response.ok ? "" : saying(error));
    await look();
  };
  const password = async (p: Somebody) => {
    const { data, error } = await api.POST("/api/people/{user_id}/password-link", {
      params: { path: { user_id: p.id } },
    });
    setProblem(data ? "" : saying(error));
    if (data)
      setMade({ secret: data.secret, told: `With this link ${p.name} chooses a new password. It is shown this once:` });
    await look();
  };
  return (
    <div className="you">
      <table className="people-table" aria-label="People">
        <thead>
          <tr>
            <th>Name</th>
            <th>E-mail</th>
            <th>Projects</th>
            <th>Begins projects</th>
            <th>Looks after people</th>
            <th>Second factor</th>
            <th>
              <span className="hidden-word">What to do</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {people.map((p) => (
            <tr key={p.id} className={p.barred ? "quiet" : ""}>
              <td>
                {p.name}
                {p.id === me?.id && <span className="quiet"> (you)</span>}
                {p.barred && " · kept out"}
              </td>
              <td>{p.email}</td>
              <td className="mono">{p.projects}</td>
              <td>
                <input
                  type="checkbox"
                  aria-label={`${p.name} may begin projects`}
                  checked={p.begins}
                  onChange={(e) => void change(p.id, { begins: e.target.checked })}
                />
              </td>
              <td>
                <input
                  type="checkbox"
                  aria-label={`${p.name} looks after people`}
                  checked={p.administrator}
                  onChange={(e) => void change(p.id, { administrator: e.target.checked })}
                />
              </td>
              <td>
                {p.factor ? (
                  <button
                    type="button"
                    className="small"
                    title="For somebody whose device and spare codes are lost"
                    aria-label={`Take off the second factor of ${p.name}`}
                    onClick={() => void bare(p)}
                  >
                    Take off
                  </button>
                ) : (
                  "none"
                )}
              </td>
              <td className="acts">
                <button
                  type="button"
                  className="small"
                  onClick={() => void password(p)}
                  aria-label={`New password for ${p.name}`}
                >
                  New password
                </button>
                <button
                  type="button"
                  className="small"
                  disabled={p.id === me?.id}
                  aria-label={`${p.barred ? "Let in" : "Keep out"} ${p.name}`}
                  onClick={() => void change(p.id, { barred: !p.barred })}
                >
                  {p.barred ? "Let in" : "Keep out"}
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {problem && (
        <p className="error" role="alert">
          {problem}
        </p>
      )}
      <div className="button-row">
        <button type="button" className="small accent" onClick={() => void link(false)}>
          Link for a colleague
        </button>
        <button type="button" className="small" onClick={() => void link(true)}>
          Link for somebody who looks after people
        </button>
      </div>
      {made && <Copied text={addressOf(made.secret)} told={made.told} />}
      <OpenLinks
        links={links}
        takeBack={(id) =>
          void api.DELETE("/api/practice-links/{link_id}", { params: { path: { link_id: id } } }).then(() => look())
        }
      />
    </div>
  );
}
