import { useCallback, useEffect, useState } from "react";
import { api } from "../api/client";
import type { components } from "../api/generated";
import { clock } from "../units/moments";

/** Where one is signed in; each can be signed out from here. */
export function Browsers() {
  const [found, setFound] = useState<components["schemas"]["BrowserState"][]>([]);
  const look = useCallback(async () => setFound((await api.GET("/api/me/sign-ins")).data ?? []), []);
  useEffect(() => void look(), [look]);
  const end = async (id: number) => {
    await api.DELETE("/api/me/sign-ins/{sign_in_id}", { params: { path: { sign_in_id: id } } });
    await look();
  };
  return (
    <section aria-label="Browsers">
      <table className="people-table" aria-label="Where you are signed in">
        <thead>
          <tr>
            <th>Browser</th>
            <th>Signed in</th>
            <th>Last seen</th>
            <th>
              <span className="hidden-word">What to do with it</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {found.map((b) => (
            <tr key={b.id}>
              <td>
                {b.browser || "a browser"}
                {b.here && <span className="quiet"> (this one)</span>}
              </td>
              <td className="mono">{clock(b.made)}</td>
              <td className="mono">{clock(b.seen)}</td>
              <td className="acts">
                {!b.here && (
                  <button
                    type="button"
                    className="small"
                    aria-label={`Sign out ${b.browser} of ${clock(b.made)}`}
                    onClick={() => void end(b.id)}
                  >
                    Sign out
                  </button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="quiet">
        A browser that asks nothing for 30 minutes is signed out by itself, and any after 12 hours.
      </p>
    </section>
  );
}

/** What happened to the account: what one did not do oneself is worth a new password. */
export function Happened() {
  const [found, setFound] = useState<components["schemas"]["NoticeState"][]>([]);
  useEffect(() => void api.GET("/api/me/notices").then(({ data }) => setFound(data ?? [])), []);
  return (
    <section aria-label="What happened">
      <p className="quiet">
        What you did not do yourself is worth a new password, and a word with who looks after people.
      </p>
      <table className="people-table scrolled" aria-label="What happened to your account">
        <tbody>
          {found.map((n, k) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: nothing is put between them
            <tr key={k}>
              <td className="mono">{clock(n.at)}</td>
              <td>{n.what}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
