import { useState } from "react";
import { api, saying } from "../api/client";
import { fetchOwn } from "../api/entry";
import type { components } from "../api/generated";
import { nameOf } from "../kinds";
import { added } from "../kinds/edits";
import type { FloorDocument, Kind, Labelled, Ref, Vertex } from "../model/floor";
import type { GridSet } from "../model/project";
import { columnOutline, path, points, wallOutline } from "../model/shapes";
import { type Drawing, useDrawing } from "../plan/DrawingLayer";
import { storeysHere } from "../plan/tools/gesture";
import { templateOf } from "../plan/tools/templates";
import { usePicked } from "../session";
import { useDialogs } from "../session/dialogs";
import { read, useUnits } from "../units/quantities";

type Found = components["schemas"]["RecognisedState"];
type State = components["schemas"]["DrawingState"];

const KINDS: [string, string][] = [
  ["", "not used"],
  ["slabs", "slabs"],
  ["openings", "openings"],
  ["drop_panels", "drop panels"],
  ["columns", "columns"],
  ["beams", "beams"],
  ["walls", "walls, by their outlines"],
  ["wall_lines", "walls, by centre lines"],
  ["grid", "grid lines"],
];
/** Words in a layer's name that tell what it is likely to hold. */
const HINTS: [RegExp, string][] = [
  [/slab|floor|deck/i, "slabs"],
  [/col/i, "columns"],
  [/beam/i, "beams"],
  [/wall/i, "walls"],
  [/void|open|hole|shaft/i, "openings"],
  [/grid|axis|axes/i, "grid"],
  [/drop/i, "drop_panels"],
];
const MADE: [keyof Found & string, Kind, string][] = [
  ["slabs", "slabs", "slab"],
  ["openings", "openings", "opening"],
  ["drop_panels", "thickenings", "drop"],
  ["columns", "columns", "column"],
  ["beams", "beams", "beam"],
  ["walls", "walls", "wall"],
];

/** Brings a drawing in, lets its layers be chosen, shows what they would become, and makes it. */
export function DrawingDialog() {
  const { floor, document, edit, editProject, say } = usePicked("floor", "document", "edit", "editProject", "say");
  const close = useDialogs((d) => d.close);
  const drawing = useDrawing((d) => d.shown) as (Drawing & State) | null;
  const system = useUnits((u) => u.system);
  const [unit, setUnit] = useState("");
  const [toOrigin, setToOrigin] = useState(false);
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState("");
  const [choice, setChoice] = useState<Record<string, string> | null>(null);
  const [thickness, setThickness] = useState("");
  const [found, setFound] = useState<Found | null>(null);
  if (!floor || !document) return null;

  const bring = async (file: File) => {
    setBusy(true);
    setProblem("");
    setFound(null);
    setChoice(null);
    const query = new URLSearchParams({ name: file.name, to_origin: String(toOrigin), ...(unit ? { unit } : {}) });
    const answer = await fetchOwn(`/api/floors/${floor.id}/drawing?${query}`, { method: "POST", body: file }).catch(
      () => null,
    );
    setBusy(false);
    if (answer?.ok) useDrawing.setState({ shown: await answer.json() });
    else setProblem(saying(answer ? await answer.json() : null));
  };
  const chosen: Record<string, string> =
    choice ??
    Object.fromEntries((drawing?.layers ?? []).map((l) => [l.name, HINTS.find(([w]) => w.test(l.name))?.[1] ?? ""]));
  const used = Object.fromEntries(Object.entries(chosen).filter(([, k]) => k));
  const preview = async () => {
    const width = thickness.trim() ? read(thickness, "size", system) : 0.2;
    if (width === null) {
      setProblem(`“${thickness}” is not a thickness`);
      return;
    }
    setBusy(true);
    setProblem("");
    const { data, error } = await api.POST("/api/floors/{floor_id}/drawing/recognise", {
      params: { path: { floor_id: floor.id } },
      body: { layers: used, wall_thickness_m: width },
    });
    setBusy(false);
    if (data) setFound(data);
    else setProblem(saying(error));
  };
  const make = async () => {
    if (!found) return;
    const refs: Ref[] = [];
    const change = (d: FloorDocument) => {
      let out = d;
      refs.length = 0;
      for (const [list, kind, tool] of MADE) {
        const items = found[list] as Record<string, unknown>[];
        if (!items.length) continue;
        const template = templateOf(tool, kind, out, storeysHere());
        const step = added(
          out,
          kind,
          items.map(({ ...item }) => ({ ...template, ...item, id: "" })),
        );
        out = step.document;
        refs.push(...step.refs);
      }
      return out;
    };
    if (found.grid.length) {
      await editProject({
        line: `${found.grid.length} grid lines from ${drawing?.name}`,
        change: (p) => {
          const sets = p.grid_sets ?? [];
          const taken = new Set(sets.flatMap((s) => (s.kind === "parallel" ? s.labels : [s.id])));
          const made: GridSet[] = [];
          for (const g of found.grid as { label: string; line: Vertex[] }[]) {
            let id = g.label && !taken.has(g.label) ? g.label : "";
            for (let n = 1; !id; n++) if (!taken.has(`G${n}`)) id = `G${n}`;
            taken.add(id);
            made.push({ id, kind: "single", line: g.line });
          }
          return { ...p, grid_sets: [...sets, ...made] };
        },
      });
    }
    change(document);
    const line = refs.length ? `${nameOf(refs)} from ${drawing?.name}` : "";
    if (refs.length) await edit({ line, change, picks: [] });
    say(`${line || "Grid lines"} made.`);
    close();
  };
  return (
    <div className="drawing-dialog">
      <div className="button-row">
        <label className="small file">
          {drawing ? "Another DXF file" : "Choose a DXF file"}
          <input
            type="file"
            accept=".dxf"
            aria-label="DXF file"
            onChange={(e) => e.target.files?.[0] && void bring(e.target.files[0])}
          />
        </label>
        <label>
          Unit
          <select value={unit} onChange={(e) => setUnit(e.target.value)}>
            <option value="">as the file tells</option>
            {["mm", "cm", "m", "in", "ft"].map((u) => (
              <option key={u}>{u}</option>
            ))}
          </select>
        </label>
        <label>
          <input type="checkbox" checked={toOrigin} onChange={(e) => setToOrigin(e.target.checked)} /> lower left corner
          to the origin
        </label>
        {drawing && (
          <button
            type="button"
            className="small"
            onClick={() =>
              void api
                .DELETE("/api/floors/{floor_id}/drawing", { params: { path: { floor_id: floor.id } } })
                .then(() => {
                  useDrawing.setState({ shown: null });
                  setFound(null);
                })
            }
          >
            Take it away
          </button>
        )}
      </div>
      {busy && <p className="quiet">Reading…</p>}
      {problem && (
        <p className="error" role="alert">
          {problem}
        </p>
      )}
      {drawing && (
        <>
          <p className="quiet">
            {drawing.name}, read in {drawing.unit}. {drawing.notes.join(" ")}
          </p>
          <div className="two-columns">
            <table className="small-table layers">
              <thead>
                <tr>
                  <th>Layer</th>
                  <th>Lines</th>
                  <th>Texts</th>
                  <th>becomes</th>
                </tr>
              </thead>
              <tbody>
                {drawing.layers.map((l) => (
                  <tr key={l.name}>
                    <th>{l.name}</th>
                    <td>{l.lines}</td>
                    <td>{l.texts}</td>
                    <td>
                      <select
                        aria-label={`Layer ${l.name} becomes`}
                        value={chosen[l.name]}
                        onChange={(e) => {
                          setChoice({ ...chosen, [l.name]: e.target.value });
                          setFound(null);
                        }}
                      >
                        {KINDS.map(([key, name]) => (
                          <option key={key} value={key}>
                            {name}
                          </option>
                        ))}
                      </select>
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
            <Preview drawing={drawing} found={found} />
          </div>
          {Object.values(used).includes("wall_lines") && (
            <label>
              Thickness of walls drawn as lines{" "}
              <input
                value={thickness}
                placeholder={system === "SI" ? "200 mm" : '8"'}
                onChange={(e) => setThickness(e.target.value)}
              />
            </label>
          )}
          {found && (
            <div className="report" data-testid="report">
              <p>
                <b>Found:</b>{" "}
                {[
                  ...MADE.map(
                    ([list, , word]) =>
                      [(found[list] as unknown[]).length, word === "drop" ? "drop panel" : word] as const,
                  ),
                  [found.grid.length, "grid line"] as const,
                ]
                  .filter(([n]) => n)
                  .map(([n, w]) => `${n} ${w}${n > 1 ? "s" : ""}`)
                  .join(", ") || "nothing"}
              </p>
              {found.unused.length > 0 && (
                <ul>
                  {found.unused.map((u) => (
                    <li key={u.layer + u.what + u.why}>
                      {u.count} {u.what.toLowerCase()}
                      {u.count > 1 ? "s" : ""} on {u.layer}: {u.why}
                    </li>
                  ))}
                </ul>
              )}
            </div>
          )}
        </>
      )}
      <div className="buttons">
        <button type="button" onClick={close}>
          Close
        </button>
        <button type="button" disabled={!drawing || busy || !Object.keys(used).length} onClick={() => void preview()}>
          Show what it becomes
        </button>
        <button type="button" className="accent" disabled={!found || busy} onClick={() => void make()}>
          Make objects
        </button>
      </div>
    </div>
  );
}

/** The drawing, faint, with what was found in it on top. */
function Preview(props: { drawing: Drawing; found: Found | null }) {
  const { drawing, found } = props;
  const all = drawing.lines.flatMap((l) => l.points);
  const [x0, x1] = [Math.min(...all.map((p) => p[0])), Math.max(...all.map((p) => p[0]))];
  const [y0, y1] = [Math.min(...all.map((p) => p[1])), Math.max(...all.map((p) => p[1]))];
  const body = (item: Record<string, unknown>) =>
    item.outline
      ? path(points(item.outline as Vertex[]))
      : item.shape
        ? path(columnOutline(item as never))
        : path(wallOutline(item.line as Vertex[], (item.thickness_m ?? item.width_m) as number));
  return (
    <svg
      className="preview"
      viewBox={`${x0 - 1} ${-y1 - 1} ${x1 - x0 + 2} ${y1 - y0 + 2}`}
      role="img"
      aria-label="Preview of what the layers become"
    >
      <g transform="scale(1 -1)">
        <path d={drawing.lines.map((l) => path(l.points, false)).join("")} className="underlay-line" />
        {found &&
          MADE.map(([list, kind]) =>
            (found[list] as unknown as Labelled[]).map((item, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: what was found has no other name yet
              <path key={`${kind}${i}`} d={body(item)} className={`made ${kind}`} />
            )),
          )}
      </g>
    </svg>
  );
}
