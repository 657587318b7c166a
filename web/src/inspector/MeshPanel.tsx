import { useState } from "react";
import { useDisplay } from "../display/display";
import type { FloorDocument, Labelled, Vertex } from "../model/floor";
import type { Results } from "../model/results";
import { usePicked, useSession } from "../session";
import { shown } from "../units/format";
import { read, spoken, unitOf, unreadable, useUnits, written } from "../units/quantities";

/** The mesh of the newest run: how large, how good, where not; and its size for the whole floor and by place. */
export function MeshPanel(props: { document: FloorDocument; results: Results }) {
  const { document, results } = props;
  const { edit, flyTo } = usePicked("edit", "flyTo");
  const { mesh, show } = useDisplay();
  const system = useUnits((u) => u.system);
  const [problem, setProblem] = useState("");
  const unit = unitOf("length", system).unit;
  const options = document.mesh ?? {};
  const finer = options.refinements ?? [];
  const put = (next: NonNullable<FloorDocument["mesh"]>, line: string) =>
    edit({ line, change: (d) => ({ ...d, mesh: next }) });
  const size = (text: string) => {
    const value = text.trim() ? read(text, "length", system) : null;
    if (text.trim() && value === null) setProblem(unreadable(text, "length", system));
    else {
      setProblem("");
      void put({ ...options, size_m: value }, `mesh size ${text.trim() ? `${text} ${unit}` : "by the spans"}`);
    }
  };
  const places = results.messages.filter((m) => m.where === "mesh" && m.at);
  return (
    <>
      <h3>Mesh</h3>
      <div className="figure-line">
        <span>Elements, nodes</span>
        <span className="mono">
          {results.mesh.elements.toLocaleString("en")}, {results.mesh.nodes.toLocaleString("en")}
        </span>
      </div>
      <div className="figure-line">
        <span>Least angle</span>
        <span className="mono">{shown(results.mesh.least_angle_deg, "", 0)}°</span>
      </div>
      <div className="number-field">
        <label htmlFor="mesh-size">Greatest size</label>
        <input
          id="mesh-size"
          key={String(options.size_m) + system}
          defaultValue={options.size_m ? written(options.size_m, "length", system) : ""}
          placeholder="by spans"
          onBlur={(e) => e.target.value !== e.target.defaultValue && size(e.target.value)}
          onKeyDown={(e) => e.key === "Enter" && (e.target as HTMLInputElement).blur()}
        />
        <span className="unit">{unit}</span>
        {problem && (
          <p className="error" role="alert">
            {problem}
          </p>
        )}
      </div>
      {finer.map((r, i) => (
        <div className="figure-line" key={`${r.at}${r.size_m}`}>
          <span>
            Finer at {written(r.at[0] ?? 0, "length", system)}, {written(r.at[1] ?? 0, "length", system)}
          </span>
          <span className="mono">
            {written(r.size_m, "length", system)} {unit}{" "}
            <button
              type="button"
              className="small"
              aria-label="Take this finer place out"
              onClick={() =>
                void put(
                  { ...options, refinements: finer.filter((_, k) => k !== i) },
                  "a finer place of the mesh taken out",
                )
              }
            >
              −
            </button>
          </span>
        </div>
      ))}
      <div className="button-row">
        <button type="button" className="small" aria-pressed={mesh} onClick={() => show({ mesh: !mesh })}>
          {mesh ? "Hide mesh" : "Show mesh"}
        </button>
      </div>
      {places.length === 0 && <p className="quiet">The mesh is fine.</p>}
      {places.map((m) => (
        <button type="button" className="row-link" key={m.sentence} onClick={() => flyTo(m.at as [number, number])}>
          <span>{spoken(m.said ?? m.sentence, system)}</span>
        </button>
      ))}
    </>
  );
}

/** A finer mesh around one object: half the size within 1.5 m of its middle. */
export function FinerButton(props: { document: FloorDocument; item: Labelled; name: string }) {
  const { document, item, name } = props;
  const list = (item.at ? [item.at] : item.outline) as Vertex[] | null | undefined;
  if (!list?.length) return null;
  const middle = [0, 1].map((k) => list.reduce((t, v) => t + (v[k] ?? 0), 0) / list.length);
  const size = (document.mesh?.size_m ?? 0.6) / 2;
  return <Finer document={document} at={[middle]} size={size} radius={1.5} name={name} word="Finer mesh here" />;
}

/** A mesh fine enough to tell the shear of pieces that are about twice as long as the thinnest slab is thick. */
export function FinerThere(props: { document: FloorDocument; at: number[][]; name: string }) {
  const { document, at, name } = props;
  const thinnest = Math.min(...document.slabs.map((s) => s.thickness_m));
  const radius = 1.5 * thinnest;
  const apart: number[][] = [];
  const near = (p: number[], q: number[]) =>
    Math.hypot((p[0] ?? 0) - (q[0] ?? 0), (p[1] ?? 0) - (q[1] ?? 0)) < radius / 2;
  // One place does for those close to it.
  for (const p of at) if (!apart.some((q) => near(p, q))) apart.push(p);
  // Single corners ask for more than a whole line that is meshed too coarsely, whose many places would be a mesh of their own.
  const size = thinnest / (apart.length > 12 ? 2 : 8);
  return <Finer document={document} at={apart} size={size} radius={radius} name={name} word="Finer mesh there" />;
}

function Finer(props: {
  document: FloorDocument;
  at: number[][];
  size: number;
  radius: number;
  name: string;
  word: string;
}) {
  const { document, at, size, radius, name, word } = props;
  const edit = useSession((s) => s.edit);
  const options = document.mesh ?? {};
  const places = at.map((p) => ({
    at: p.map((v) => Number(v.toFixed(4))),
    size_m: Number(size.toFixed(3)),
    radius_m: Number(radius.toFixed(3)),
  }));
  return (
    <button
      type="button"
      className="small"
      onClick={() =>
        void edit({
          line: `mesh finer at ${name}`,
          change: (d) => ({ ...d, mesh: { ...options, refinements: [...(options.refinements ?? []), ...places] } }),
        })
      }
    >
      {word}
    </button>
  );
}
