import { useState } from "react";
import { startOf } from "../kinds";
import { adding, centredOn, columnsOnCrossings, otherWays, outlineOfGrid } from "../kinds/together";
import { type FloorDocument, itemOf, type Labelled, type Ref } from "../model/floor";
import { usePicked } from "../session";
import { read, unitOf, unreadable, useUnits, written } from "../units/quantities";

/** What is made of several selected objects in one gesture: drop panels over columns, mats the other ways. */
export function Together(props: { document: FloorDocument; refs: Ref[] }) {
  const { document, refs } = props;
  const kind = refs[0]?.kind;
  if (kind === "columns") return <OverColumns document={document} refs={refs} />;
  if (kind === "mats" && refs.length === 1) return <OtherWays document={document} refs={refs} />;
  return null;
}

/** Columns on all crossings of chosen grid lines, in one gesture. */
export function OnCrossings(props: { document: FloorDocument; like: Labelled }) {
  const { document } = props;
  const { id: _id, ...like } = props.like;
  const { edit } = usePicked("edit");
  const [named, setNamed] = useState("");
  const all = (document.grid ?? []).map((g) => g.id);
  if (all.length < 2) return null;
  const wanted = named.split(/[\s,;]+/).filter(Boolean);
  const strange = wanted.filter((w) => !all.includes(w));
  const made = columnsOnCrossings(document, wanted.length ? wanted : all, like);
  const add = adding("columns", made);
  return (
    <section aria-label="Columns on crossings">
      <h3>On crossings of grid lines</h3>
      <div className="fields">
        <div className="number-field">
          <label htmlFor="crossing-lines">Lines</label>
          <input
            id="crossing-lines"
            className="text"
            value={named}
            placeholder={`all: ${all.join(" ")}`}
            aria-invalid={strange.length > 0}
            onChange={(e) => setNamed(e.target.value)}
          />
        </div>
      </div>
      {strange.length > 0 && <p className="error">There is no grid line {strange.join(", ")}.</p>}
      <p className="quiet">Wherever they cross on a slab and no column stands yet; named by the lines.</p>
      <button
        type="button"
        className="small accent"
        disabled={!made.length || strange.length > 0}
        onClick={() =>
          void edit({ line: `${made.length} columns on crossings`, change: add.change, picks: add.picks(document) })
        }
      >
        {made.length ? `Add ${made.length} columns` : "No crossing is free"}
      </button>
    </section>
  );
}

/** A slab over all of the grid, its edges as far out as is typed. */
export function OverGrid(props: { document: FloorDocument; like: Labelled }) {
  const { document } = props;
  const { id: _id, ...like } = props.like;
  const { edit, say } = usePicked("edit", "say");
  const system = useUnits((u) => u.system);
  const [out, setOut] = useState(written(0.2, "length", system));
  const beyond = read(out, "length", system);
  if (document.slabs.length || !outlineOfGrid(document, 0)) return null;
  const add = () => {
    const outline = beyond === null ? null : outlineOfGrid(document, beyond);
    if (!outline) {
      say(unreadable(out, "length", system), true);
      return;
    }
    const made = adding("slabs", [{ ...like, outline }]);
    void edit({ line: "Slab over the grid", change: made.change, picks: made.picks(document) });
  };
  return (
    <section aria-label="Slab over the grid">
      <h3>Over all of the grid</h3>
      <div className="fields">
        <div className="number-field">
          <label htmlFor="beyond-grid">Beyond it by</label>
          <input
            id="beyond-grid"
            value={out}
            inputMode="decimal"
            onFocus={(e) => e.target.select()}
            onChange={(e) => setOut(e.target.value)}
            onKeyDown={(e) => e.key === "Enter" && add()}
          />
          <span className="unit">{unitOf("length", system).unit}</span>
        </div>
      </div>
      <button type="button" className="small accent" onClick={add}>
        Add the slab
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
          <div className="number-field" key={name}>
            <label htmlFor={`drop-${k}`}>{name}</label>
            <input
              id={`drop-${k}`}
              key={shown[k]}
              defaultValue={shown[k]}
              inputMode="decimal"
              onFocus={(e) => e.target.select()}
              onBlur={(e) => {
                const value = read(e.target.value, "length", system);
                if (value && value > 0) setSides(sides.map((s, i) => (i === k ? String(value) : s)));
                else e.target.value = shown[k] ?? "";
              }}
              onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
            />
            <span className="unit">{unitOf("length", system).unit}</span>
          </div>
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
