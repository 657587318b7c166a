import { type FormEvent, useCallback, useEffect, useState } from "react";
import { api, saying } from "../api/client";
import { type Role, useEntry } from "../api/entry";
import type { components } from "../api/generated";
import { usePicked } from "../session";
import { addressOf, Copied, OpenLinks } from "./Links";

type Member = components["schemas"]["Member"];
type Link = components["schemas"]["LinkState"];

const ROLES: Role[] = ["owner", "designer", "checker", "reader"];
const MAY: Record<Role, string> = {
  owner: "changes everything, and who works here",
  designer: "changes floors and the project",
  checker: "reads everything, asks for histories",
  reader: "reads everything",
};

/** Who works in the open project; its owners invite others, change roles and take people out. */
export function ProjectPeople() {
  const { floor, projects, reload } = usePicked("floor", "projects", "reload");
  const me = useEntry((e) => e.me?.person);
  const [people, setPeople] = useState<Member[]>([]);
  const [links, setLinks] = useState<Link[]>([]);
  const [role, setRole] = useState<Role>("designer");
  const [note, setNote] = useState("");
  const [secret, setSecret] = useState("");
  const [problem, setProblem] = useState("");
  const id = floor?.project_id;
  const owner = projects.find((p) => p.id === id)?.role === "owner";
  const look = useCallback(async () => {
    if (id === undefined) return;
    const path = { params: { path: { project_id: id } } };
    const { data } = await api.GET("/api/projects/{project_id}/people", path);
    if (data) setPeople(data);
    if (!owner) return;
    const open = await api.GET("/api/projects/{project_id}/links", path);
    if (open.data) setLinks(open.data);
  }, [id, owner]);
  useEffect(() => void look(), [look]);
  if (id === undefined) return <p className="empty">Open a floor of the project first.</p>;

  const doing = async (work: Promise<{ error?: unknown; response: Response }>) => {
    const { error, response } = await work;
    setProblem(response.ok ? "" : saying(error));
    await look();
    await reload();
  };
  const invite = async (event: FormEvent) => {
    event.preventDefault();
    const asked = api.POST("/api/projects/{project_id}/links", {
      params: { path: { project_id: id } },
      body: { role, note: note.trim() },
    });
    const { data } = await asked;
    setSecret(data?.secret ?? "");
    await doing(asked);
    if (data) setNote("");
  };
  const of = (user: number) => ({ params: { path: { project_id: id, user_id: user } } });
  return (
    <div className="you">
      <table className="people-table" aria-label="People of the project">
        <thead>
          <tr>
            <th>Name</th>
            <th>E-mail</th>
            <th>Role</th>
            <th>May</th>
            <th>
              <span className="hidden-word">What to do</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {people.map((p) => (
            <tr key={p.id}>
              <td>
                {p.name}
                {p.id === me?.id && <span className="quiet"> (you)</span>}
              </td>
              <td>{p.email}</td>
              <td>
                {owner ? (
                  <select
                    aria-label={`Role of ${p.name}`}
                    value={p.role}
                    onChange={(e) =>
                      void doing(
                        api.PUT("/api/projects/{project_id}/people/{user_id}", {
                          ...of(p.id),
                          body: { role: e.target.value as Role },
                        }),
                      )
                    }
                  >
                    {ROLES.map((r) => (
                      <option key={r}>{r}</option>
                    ))}
                  </select>
                ) : (
                  p.role
                )}
              </td>
              <td className="quiet">{MAY[p.role]}</td>
              <td className="acts">
                {owner && p.id !== me?.id && (
                  <button
                    type="button"
                    className="small"
                    aria-label={`Take out ${p.name}`}
                    onClick={() => void doing(api.DELETE("/api/projects/{project_id}/people/{user_id}", of(p.id)))}
                  >
                    Take out
                  </button>
                )}
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
      {owner ? (
        <>
          <h3>Invite</h3>
          <form className="line-form" onSubmit={(e) => void invite(e)}>
            <label>
              As
              <select value={role} onChange={(e) => setRole(e.target.value as Role)}>
                {ROLES.map((r) => (
                  <option key={r}>{r}</option>
                ))}
              </select>
            </label>
            <label>
              For whom
              <input
                value={note}
                maxLength={120}
                placeholder="so that you know"
                onChange={(e) => setNote(e.target.value)}
              />
            </label>
            <button type="submit" className="small accent">
              Make a link
            </button>
          </form>
          {secret && (
            <Copied
              text={addressOf(secret)}
              told="Send this link. It lets one person in, within a week, and is shown this once:"
            />
          )}
          <OpenLinks
            links={links}
            takeBack={(link) =>
              void doing(
                api.DELETE("/api/projects/{project_id}/links/{link_id}", {
                  params: { path: { project_id: id, link_id: link } },
                }),
              )
            }
          />
        </>
      ) : (
        <p className="quiet">Owners of the project invite people and change roles.</p>
      )}
    </div>
  );
}
