import { useState } from "react";
import { type BuildUp, type FloorDocument, type Kind, type Labelled, loadsOf } from "../model/floor";
import { movedLayer, weightOf } from "../model/loads";
import { type ProjectDocument, withShared } from "../model/project";
import { usePicked } from "../session";
import { useDialogs } from "../session/dialogs";
import { useReplacing } from "../session/replacing";
import { measured, read, type System, unitOf, unreadable, useUnits, written } from "../units/quantities";

/** Kinds of the project of which one can take the place of another. */
export const REPLACED: Kind[] = ["concretes", "rebars", "load_materials", "build_ups", "partitions", "occupancies"];

/** What a build-up, partition or occupancy comes to; null for others. */
export function sumOf(kind: Kind, item: Labelled, document: FloorDocument, system: System): string | null {
  if (kind === "build_ups")
    return `${measured(weightOf(item as unknown as BuildUp, document), "pressure", system)} in all`;
  if (kind === "occupancies") {
    const total = (item.q_kPa as number) + ((item.partitions_kPa as number | undefined) ?? 0);
    return `${measured(total, "pressure", system)} in all`;
  }
  if (kind === "partitions") {
    const build = document.build_ups?.find((b) => b.id === item.build_up);
    if (!build) return null;
    const each = weightOf(build, document);
    const height = item.height_m as number;
    const parts = `${measured(each, "pressure", system)} × ${measured(height, "length", system)}`;
    return `${parts} = ${measured(each * height, "lineload", system)}`;
  }
  return null;
}

/** What belongs to values of the project beside their fields: layers, the sum, and the way to put another in its place. */
export function ValueView(props: { kind: Kind; item: Labelled; document: FloorDocument }) {
  const { kind, item, document } = props;
  const { open } = useDialogs();
  const system = useUnits((u) => u.system);
  const sum = sumOf(kind, item, document, system);
  const mine = loadsOf(document).filter((l) =>
    [l.build_up, l.occupancy, l.partition].some((label) => label === item.id),
  ).length;
  return (
    <>
      {kind === "build_ups" && <Layers build={item as unknown as BuildUp} document={document} />}
      {sum && <p className="sum mono">{sum}</p>}
      {["build_ups", "occupancies", "partitions"].includes(kind) && (
        <p className="quiet">
          {mine === 1 ? "1 load of this floor takes its" : `${mine} loads of this floor take their`} value from it.
        </p>
      )}
      <div className="button-row">
        <button
          type="button"
          onClick={() => {
            useReplacing.getState().begin(kind, item.id);
            open("replace");
          }}
        >
          Replace by another…
        </button>
      </div>
    </>
  );
}

/** The layers of a build-up, from the top down, each with its weight. */
function Layers(props: { build: BuildUp; document: FloorDocument }) {
  const { build, document } = props;
  const { editProject, say } = usePicked("editProject", "say");
  const system = useUnits((u) => u.system);
  const materials = document.load_materials ?? [];
  const layers = build.layers ?? [];
  const put = (made: typeof layers, told: string) =>
    editProject({
      line: `${build.id}: ${told}`,
      change: (p) =>
        withShared(p, "build_ups", [{ kind: "build_ups", id: build.id }], "layers", made) as ProjectDocument,
    });
  const unit = unitOf("cover", system).unit;
  return (
    <>
      <h3>Layers</h3>
      <table className="small-table build-layers">
        <thead>
          <tr>
            <th scope="col">Material</th>
            <th scope="col">{unit}</th>
            <th scope="col">{unitOf("pressure", system).unit}</th>
            <th aria-label="Order" />
          </tr>
        </thead>
        <tbody>
          {layers.map((layer, k) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: layers have no name of their own
            <tr key={k}>
              <td>
                <select
                  aria-label={`Material of layer ${k + 1}`}
                  value={layer.material}
                  onChange={(e) =>
                    void put(
                      layers.map((l, j) => (j === k ? { ...l, material: e.target.value } : l)),
                      `layer ${k + 1} of ${e.target.value}`,
                    )
                  }
                >
                  {materials.map((m) => (
                    <option key={m.id}>{m.id}</option>
                  ))}
                </select>
              </td>
              <td>
                <Thickness
                  name={`Thickness of layer ${k + 1}`}
                  value={layer.thickness_mm}
                  say={(text) => say(text, true)}
                  save={(mm) =>
                    put(
                      layers.map((l, j) => (j === k ? { ...l, thickness_mm: mm } : l)),
                      `layer ${k + 1} ${measured(mm, "cover", system)}`,
                    )
                  }
                />
              </td>
              <td className="mono">
                {written(weightOf({ id: "", layers: [layer], extra_kPa: 0 }, document), "pressure", system)}
              </td>
              <td className="tight">
                <button
                  type="button"
                  className="link"
                  aria-label={`Layer ${k + 1} up`}
                  disabled={k === 0}
                  onClick={() => void put(movedLayer(layers, k, k - 1), `layer ${k + 1} one up`)}
                >
                  ↑
                </button>
                <button
                  type="button"
                  className="link"
                  aria-label={`Take layer ${k + 1} away`}
                  onClick={() =>
                    void put(
                      layers.filter((_, j) => j !== k),
                      `layer ${k + 1} taken away`,
                    )
                  }
                >
                  ×
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="button-row">
        <button
          type="button"
          className="small"
          disabled={!materials.length}
          onClick={() =>
            void put([...layers, { material: (materials[0] as { id: string }).id, thickness_mm: 50 }], "one layer more")
          }
        >
          Add a layer
        </button>
        {!materials.length && <span className="quiet">Layers are of the project’s materials: add one first.</span>}
      </div>
    </>
  );
}

function Thickness(props: {
  name: string;
  value: number;
  say: (text: string) => void;
  save: (mm: number) => Promise<boolean>;
}) {
  const { name, value, say, save } = props;
  const system = useUnits((u) => u.system);
  const shown = written(value, "cover", system);
  const [text, setText] = useState(shown);
  const [of, setOf] = useState(shown);
  if (of !== shown) {
    setOf(shown);
    setText(shown);
  }
  const commit = () => {
    if (text === shown) return;
    const mm = read(text, "cover", system);
    if (mm === null || mm <= 0) {
      say(unreadable(text, "cover", system));
      setText(shown);
    } else void save(mm);
  };
  return (
    <input
      className="narrow"
      aria-label={name}
      value={text}
      inputMode="decimal"
      onChange={(e) => setText(e.target.value)}
      onBlur={commit}
      onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
    />
  );
}
