import { type FormEvent, useCallback, useEffect, useState } from "react";
import { api, saying } from "../api/client";
import type { components } from "../api/generated";
import { day } from "../units/moments";
import { Copied } from "./Links";

type Token = components["schemas"]["TokenState"];

/** What lets scripts in as their person. */
export function Tokens() {
  const [tokens, setTokens] = useState<Token[]>([]);
  const [name, setName] = useState("");
  const [days, setDays] = useState(90);
  const [readsOnly, setReadsOnly] = useState(true);
  const [secret, setSecret] = useState("");
  const [problem, setProblem] = useState("");
  const look = useCallback(async () => {
    const { data } = await api.GET("/api/tokens");
    if (data) setTokens(data);
  }, []);
  useEffect(() => void look(), [look]);
  const make = async (event: FormEvent) => {
    event.preventDefault();
    const { data, error } = await api.POST("/api/tokens", { body: { name: name.trim(), days, reads_only: readsOnly } });
    setProblem(data ? "" : saying(error));
    setSecret(data?.secret ?? "");
    if (data) setName("");
    await look();
  };
  const drop = async (id: number) => {
    await api.DELETE("/api/tokens/{token_id}", { params: { path: { token_id: id } } });
    await look();
  };
  return (
    <section aria-label="Tokens">
      <h3>Tokens for scripts</h3>
      <p className="quiet">
        A script that sends one as <code>Authorization: Bearer …</code> may do what you may.
      </p>
      {tokens.length > 0 && (
        <table className="people-table">
          <thead>
            <tr>
              <th>Token</th>
              <th>May</th>
              <th>Made</th>
              <th>Good until</th>
              <th>Last used</th>
              <th>
                <span className="hidden-word">What to do with it</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {tokens.map((t) => (
              <tr key={t.id}>
                <td>{t.name}</td>
                <td>{t.reads_only ? "read" : "read and change"}</td>
                <td className="mono">{day(t.made)}</td>
                <td className="mono">{day(t.expires)}</td>
                <td className="mono">{t.used ? day(t.used) : "never"}</td>
                <td className="acts">
                  <button
                    type="button"
                    className="small"
                    onClick={() => void drop(t.id)}
                    aria-label={`Take away ${t.name}`}
                  >
                    Take away
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {secret && <Copied text={secret} told="The new token. It is shown this once:" />}
      <form className="line-form" onSubmit={(e) => void make(e)}>
        <label>
          What it is for
          <input value={name} maxLength={80} onChange={(e) => setName(e.target.value)} />
        </label>
        <label>
          Good for
          <select value={days} onChange={(e) => setDays(Number(e.target.value))}>
            {[7, 30, 90, 365].map((d) => (
              <option key={d} value={d}>
                {d} days
              </option>
            ))}
          </select>
        </label>
        <label>
          May
          <select value={readsOnly ? "read" : "change"} onChange={(e) => setReadsOnly(e.target.value === "read")}>
            <option value="read">read</option>
            <option value="change">read and change</option>
          </select>
        </label>
        <button type="submit" className="small" disabled={!name.trim()}>
          Make a token
        </button>
      </form>
      {problem && (
        <p className="error" role="alert">
          {problem}
        </p>
      )}
    </section>
  );
}
