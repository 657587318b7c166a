import { useState } from "react";
import { startOf } from "../kinds";
import { adding, centredOn, columnsOnCrossings, otherWays } from "../kinds/together";
import { type FloorDocument, itemOf, type Labelled, type Ref } from "../model/floor";
import { templateFor } from "../plan/tools/gesture";
import { toolOf } from "../plan/tools/tools";
import { usePicked } from "../session";
import { read, unitOf, useUnits, written } from "../units/quantities";

/** What is made of several selected objects in one gesture: columns of grid lines, drop panels over columns, mats the other ways. */
export function Together(props: { document: FloorDocument; refs: Ref[] }) {
  const { document, refs } = props;
  const kind = refs[0]?.kind;
  if (kind === "grid" && refs.length > 1) return <OnCrossings document={document} refs={refs} />;
  if (kind === "columns") return <OverColumns document={document} refs={refs} />;
  if (kind === "mats" && refs.length === 1) return <OtherWays document={document} refs={refs} />;
  return null;
}

function OnCrossings(props: { document: FloorDocument; refs: Ref[] }) {
  const { document, refs } = props;
  const { edit } = usePicked("edit");
  const tool = toolOf("column");
  const { id: _id, ...like } = (tool && templateFor(tool)) ?? { id: "" };
  const made = columnsOnCrossings(
    document,
    refs.map((r) => r.id),
    like,
  );
  const add = adding("columns", made);
  return (
    <section aria-label="Columns on crossings">
      <h3>Columns on their crossings</h3>
      <p className="quiet">
        Where lines cross on a slab and no column stands yet, like the next column, named by its lines.
      </p>
      <button
        type="button"
        className="small accent"
        disabled={!made.length}
        onClick={() =>
          void edit({ line: `${made.length} columns on crossings`, change: add.change, picks: add.picks(document) })
        }
      >
        {made.length ? `Add ${made.length} columns` : "No crossing is free"}
      </button>
    </section>
  );
}

function OverColumns(props: { document: FloorDocument; refs: Ref[] }) {
  const { document, refs } = props;
  const { edit } = usePicked("edit");
  const system = useUnits((u) => u.system);
  const [sides, setSides] = useState(["2.4", "2.4", "0.4"]);
  const shown = sides.map((s) => written(Number(s), "length", system));
  const columns = refs.map((r) => itemOf(document, r)).filter((c): c is Labelled => c !== undefined);
  const [b, d, h] = sides.map(Number) as [number, number, number];
  const fine = [b, d, h].every((v) => v > 0 && v < 100);
  return (
    <section aria-label="Drop panels over columns">
      <h3>
        Drop panel{columns.length > 1 ? "s" : ""} centred on {columns.length > 1 ? "them" : "it"}
      </h3>
      <div className="fields">
        {["Along the column", "Across it", "Thickness"].map((name, k) => (
          <label className="number-field" key={name}>
            <span>
              {name}, {unitOf("length", system).unit}
            </span>
            <input
              className="text"
              key={shown[k]}
              defaultValue={shown[k]}
              aria-label={`Drop panel: ${name.toLowerCase()}`}
              onBlur={(e) => {
                const value = read(e.target.value, "length", system);
                if (value && value > 0) setSides(sides.map((s, i) => (i === k ? String(value) : s)));
                else e.target.value = shown[k] ?? "";
              }}
              onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
            />
          </label>
        ))}
      </div>
      <button
        type="button"
        className="small"
        disabled={!fine}
        onClick={() => {
          const like = {
            ...startOf("thickenings", {
              tool: "drop",
              document,
              storeys: { below: 3, above: null, level: false },
              activeCase: null,
            }),
            thickness_m: h,
          };
          const { id: _id, ...rest } = like as Labelled;
          const add = adding("thickenings", centredOn(columns, b, d, rest));
          void edit({ line: `${columns.length} drop panels`, change: add.change, picks: add.picks(document) });
        }}
      >
        {columns.length > 1 ? `Add ${columns.length} drop panels` : "Add the drop panel"}
      </button>
    </section>
  );
}

function OtherWays(props: { document: FloorDocument; refs: Ref[] }) {
  const { document, refs } = props;
  const { edit } = usePicked("edit");
  const mat = itemOf(document, refs[0] as Ref);
  if (!mat) return null;
  const made = otherWays(document, mat);
  const add = adding("mats", made);
  const names = made.map((m) => `${m.face} ${m.direction}`).join(", ");
  return made.length ? (
    <div className="button-row">
      <button
        type="button"
        className="small"
        title={`Adds ${names} over the same ground, with the same bars`}
        onClick={() =>
          void edit({ line: `Mat ${mat.id} copied: ${names}`, change: add.change, picks: add.picks(document) })
        }
      >
        Copy to {made.length === 3 ? "all four ways" : names}
      </button>
    </div>
  ) : null;
}
