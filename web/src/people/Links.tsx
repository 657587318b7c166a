import { useState } from "react";
import type { components } from "../api/generated";

type Link = components["schemas"]["LinkState"];

/** Takes a text along. */
export function CopyButton({ text }: { text: string }) {
  const [done, setDone] = useState(false);
  const copy = () => {
    void navigator.clipboard?.writeText(text).then(() => setDone(true));
  };
  return (
    <button type="button" className="small accent" onClick={copy}>
      {done ? "Copied" : "Copy"}
    </button>
  );
}

/** What is told once and has to be taken along: a link, a token. */
export function Copied(props: { text: string; told: string }) {
  return (
    <div className="copied">
      <p>{props.told}</p>
      <div className="row-of">
        <input readOnly aria-label={props.told} value={props.text} onFocus={(e) => e.target.select()} />
        <CopyButton text={props.text} />
      </div>
    </div>
  );
}

/** The address of a link's page. */
export const addressOf = (secret: string): string => `${location.origin}/join#${secret}`;

/** Links that still let somebody in. */
export function OpenLinks(props: { links: Link[]; takeBack: (id: number) => void }) {
  if (props.links.length === 0) return null;
  return (
    <table className="people-table" aria-label="Open links">
      <thead>
        <tr>
          <th>Open link</th>
          <th>For</th>
          <th>By</th>
          <th>Good until</th>
          <th>
            <span className="hidden-word">What to do with it</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {props.links.map((l) => (
          <tr key={l.id}>
            <td>
              {l.role ??
                { practice: "practice", administrator: "administrator", password: "new password", project: "" }[l.kind]}
            </td>
            <td>{l.note || "–"}</td>
            <td>{l.by ?? "–"}</td>
            <td className="mono">{l.expires.slice(0, 10)}</td>
            <td className="acts">
              <button type="button" className="small" onClick={() => props.takeBack(l.id)}>
                Take back
              </button>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
