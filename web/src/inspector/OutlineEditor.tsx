import { useState } from "react";
import { nameOf } from "../kinds";
import { mapped } from "../kinds/edits";
import type { Ref, Vertex } from "../model/floor";
import { vertex, withCorner, withMovedEdge, withoutCorner } from "../model/outlines";
import { usePicked } from "../session";
import { read, unitOf, unreadable, useUnits, written } from "../units/quantities";

/** The corners of an outline or line as figures: places, the rise of arcs, edges moved by a distance. */
export function OutlineEditor(props: { target: Ref; vertices: Vertex[]; closed: boolean }) {
  const { target, vertices, closed } = props;
  const { edit } = usePicked("edit");
  const system = useUnits((u) => u.system);
  const [edge, setEdge] = useState(0);
  const [distance, setDistance] = useState("");
  const [problem, setProblem] = useState("");
  const key = closed ? "outline" : "line";
  const save = (next: Vertex[], what: string) => {
    setProblem("");
    return edit({
      line: `${nameOf([target])}: ${what}`,
      change: (d) => mapped(d, [target], (i) => ({ ...i, [key]: next })),
      picks: [target],
    });
  };
  const chord = (i: number) => {
    const [a, b] = [vertices[i] as Vertex, vertices[(i + 1) % vertices.length] as Vertex];
    return Math.hypot((b[0] ?? 0) - (a[0] ?? 0), (b[1] ?? 0) - (a[1] ?? 0));
  };
  const put = (i: number, part: 0 | 1 | 2, text: string) => {
    const value = text.trim() === "" && part === 2 ? 0 : read(text, "length", system);
    if (value === null) {
      setProblem(unreadable(text, "length", system));
      return;
    }
    const v = vertices[i] as Vertex;
    // The rise of an arc over its chord is half the chord times the bulge; outwards of an anticlockwise outline is positive.
    const next =
      part === 2
        ? vertex(v[0] ?? 0, v[1] ?? 0, (2 * value) / chord(i))
        : vertex(part === 0 ? value : (v[0] ?? 0), part === 1 ? value : (v[1] ?? 0), v[2] ?? 0);
    void save(
      vertices.map((w, k) => (k === i ? next : w)),
      part === 2 ? `edge ${i + 1} arched` : `corner ${i + 1} placed`,
    );
  };
  const offset = () => {
    const value = read(distance, "length", system);
    if (value === null) {
      setProblem(unreadable(distance, "length", system));
      return;
    }
    const next = withMovedEdge(vertices, edge, value);
    if (typeof next === "string") setProblem(next);
    else void save(next, `edge ${edge + 1} moved by ${distance}`).then((ok) => ok && setDistance(""));
  };
  return (
    <details className="outline-editor" open={vertices.length <= 8}>
      <summary>{closed ? "Corners" : "Points"}</summary>
      <table className="small-table">
        <thead>
          <tr>
            <th />
            <th>x {unitOf("length", system).unit}</th>
            <th>y</th>
            <th title="Rise of the edge to the next corner over its chord, if it is an arc">arc rise</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {vertices.map((v, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: a corner is its place in the outline
            <tr key={i}>
              <th>{i + 1}</th>
              {([0, 1, 2] as const).map((part) => (
                <td key={part}>
                  {part === 2 && !closed && i === vertices.length - 1 ? null : (
                    <PlaceInput
                      label={`${["x", "y", "Arc rise"][part]} of corner ${i + 1}`}
                      text={
                        part === 2
                          ? v[2]
                            ? written((v[2] * chord(i)) / 2, "length", system)
                            : ""
                          : written(v[part] ?? 0, "length", system)
                      }
                      save={(t) => put(i, part, t)}
                    />
                  )}
                </td>
              ))}
              <td className="row-buttons">
                <button
                  type="button"
                  aria-label={`Add a corner after corner ${i + 1}`}
                  title="Add a corner after this one"
                  onClick={() => void save(withCorner(vertices, i), "corner added")}
                  disabled={!closed && i === vertices.length - 1}
                >
                  +
                </button>
                <button
                  type="button"
                  aria-label={`Take corner ${i + 1} out`}
                  title="Take this corner out"
                  disabled={vertices.length <= (closed ? 3 : 2)}
                  onClick={() => void save(withoutCorner(vertices, i), "corner taken out")}
                >
                  −
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {closed && (
        <div className="edge-offset">
          <label>
            Move edge
            <select value={edge} onChange={(e) => setEdge(Number(e.target.value))}>
              {vertices.map((_, i) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: an edge is its place in the outline
                <option key={i} value={i}>
                  {i + 1}–{((i + 1) % vertices.length) + 1}
                </option>
              ))}
            </select>
          </label>
          <label>
            out by
            <input
              value={distance}
              placeholder={unitOf("length", system).unit}
              onChange={(e) => setDistance(e.target.value)}
              onKeyDown={(e) => e.key === "Enter" && offset()}
            />
          </label>
          <button type="button" className="small" onClick={offset} disabled={!distance.trim()}>
            Move
          </button>
        </div>
      )}
      {problem && (
        <p className="error" role="alert">
          {problem}
        </p>
      )}
    </details>
  );
}

function PlaceInput(props: { label: string; text: string; save: (text: string) => void }) {
  const [text, setText] = useState<string | null>(null);
  const done = () => {
    if (text !== null && text !== props.text) props.save(text);
    setText(null);
  };
  return (
    <input
      aria-label={props.label}
      value={text ?? props.text.replace("−", "-")}
      onFocus={(e) => e.target.select()}
      onChange={(e) => setText(e.target.value)}
      onBlur={done}
      onKeyDown={(e) => {
        if (e.key === "Enter") e.currentTarget.blur();
        if (e.key === "Escape") setText(null);
      }}
    />
  );
}
