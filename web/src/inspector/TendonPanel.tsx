import { useState } from "react";
import { added } from "../kinds/edits";
import { floorProperty } from "../kinds/properties";
import type { FloorDocument } from "../model/floor";
import type { Results } from "../model/results";
import { balanced, fromStrips, type Laying, STRAND, withStrand } from "../model/tendons";
import { usePicked } from "../session";
import { measured, type Quantity, read, useUnits } from "../units/quantities";
import { resultOf } from "../units/results";
import { FloorFields } from "./FloorFields";
import { SpreadPanel } from "./SpreadPanel";

const FIELDS = [
  floorProperty("prestress.transfer_days", "Stressed at, days"),
  floorProperty("prestress.humidity_pct", "Humidity, %"),
  floorProperty("prestress.elastic", "Elastic shortening"),
];

/** Laying tendons by the strips of the run, how losses are found, and what all tendons come to. */
export function TendonPanel(props: { document: FloorDocument; results: Results | null }) {
  const { document, results } = props;
  const { edit, say, shownRun } = usePicked("edit", "say", "shownRun");
  const system = useUnits((u) => u.system);
  const strands = document.strands?.length ? document.strands : [STRAND];
  const [how, setHow] = useState<Laying>({
    bands: "x",
    strand: strands[0]?.id ?? STRAND.id,
    tendons: 4,
    strands: 4,
    spacing: 1.2,
    across: 1,
    jack: 1395,
  });
  const lay = () => {
    if (!results) return;
    const items = fromStrips(document, results, how);
    if (!items.length) {
      say("The run has no column strips to lay tendons by; draw them instead.", true);
      return;
    }
    void edit({
      line: `${items.length} tendons laid by the strips`,
      change: (d) => {
        const ready = withStrand(d);
        return added({ ...ready, tendons: [] }, "tendons", items).document;
      },
    });
  };
  const given = document.prestress?.long_term_loss;
  const lump = typeof given === "object" ? given.MPa : null;
  const found = results?.tendons ?? [];
  const mass = found.reduce((t, f) => t + f.mass_kg, 0);
  const number = (name: string, key: keyof Laying, quantity: Quantity, whole = false) => (
    <div className="number-field" key={key}>
      <label htmlFor={`lay-${key}`}>{name}</label>
      <input
        id={`lay-${key}`}
        key={`${key}${how[key]}${system}`}
        defaultValue={quantity === "none" ? String(how[key]) : measured(how[key] as number, quantity, system)}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
        onBlur={(e) => {
          const value = read(e.target.value, quantity, system);
          if (value !== null && value > 0) setHow({ ...how, [key]: whole ? Math.max(1, Math.round(value)) : value });
          else e.target.value = String(how[key]);
        }}
      />
    </div>
  );
  return (
    <>
      <section aria-label="Lay tendons by the strips">
        <h3>Lay tendons by the strips</h3>
        <p className="quiet">
          Bands along the column lines of one direction, distributed tendons across them, profiles by cover and spans.
          They take the place of all tendons there are; undo brings those back.
        </p>
        <div className="fields">
          <div className="number-field">
            <label htmlFor="lay-bands">Bands along</label>
            <select
              id="lay-bands"
              value={how.bands}
              onChange={(e) => setHow({ ...how, bands: e.target.value as "x" | "y" })}
            >
              <option>x</option>
              <option>y</option>
            </select>
          </div>
          <div className="number-field">
            <label htmlFor="lay-strand">Strand</label>
            <select id="lay-strand" value={how.strand} onChange={(e) => setHow({ ...how, strand: e.target.value })}>
              {strands.map((s) => (
                <option key={s.id}>{s.id}</option>
              ))}
            </select>
          </div>
          {number("Tendons in a band", "tendons", "none", true)}
          {number("Strands in each", "strands", "none", true)}
          {number("Others every", "spacing", "length")}
          {number("Strands in each of these", "across", "none", true)}
          {number("Jacking", "jack", "stress")}
        </div>
        <button type="button" className="small primary" disabled={!results?.strips.length} onClick={lay}>
          Lay them
        </button>
      </section>
      <SpreadPanel document={document} />
      {results && found.length > 0 && <Balance document={document} results={results} />}
      <h3>Losses</h3>
      <div className="fields">
        <FloorFields document={document} properties={FIELDS} />
        <div className="number-field">
          <label htmlFor="long-term">Long-term loss</label>
          <input
            id="long-term"
            key={String(lump)}
            placeholder="computed"
            defaultValue={lump === null ? "" : measured(lump, "stress", system)}
            onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
            onBlur={(e) => {
              const text = e.target.value.trim();
              const value = text ? read(text, "stress", system) : null;
              if (text && value === null) e.target.value = lump === null ? "" : measured(lump, "stress", system);
              else if (value !== lump)
                void edit({
                  line: `Long-term loss: ${text || "computed"}`,
                  change: (d) =>
                    ({
                      ...d,
                      prestress: { ...d.prestress, long_term_loss: value === null ? "computed" : { MPa: value } },
                    }) as FloorDocument,
                });
            }}
          />
        </div>
      </div>
      {found.length > 0 && (
        <>
          <h3>All tendons</h3>
          {shownRun !== null && (
            <p className="button-row">
              <a className="small" href={`/api/runs/${shownRun}/tendons.dxf`}>
                Layout as DXF
              </a>
            </p>
          )}
          <dl className="pairs">
            <div>
              <dt>Tendons</dt>
              <dd className="mono">{found.length}</dd>
            </div>
            <div>
              <dt>Strand, mass</dt>
              <dd className="mono">{resultOf(mass, "kg", system, 0)}</dd>
            </div>
            <div>
              <dt>On each m² of floor</dt>
              <dd className="mono">{resultOf(mass / (results?.area_m2 ?? 1), "kg/m²", system)}</dd>
            </div>
            <div>
              <dt>Floor</dt>
              <dd className="mono">{resultOf(results?.area_m2 ?? 0, "m²", system)}</dd>
            </div>
          </dl>
        </>
      )}
    </>
  );
}

/** As many strands as a share of what lasts asks for, with the drapes that the tendons have. */
function Balance(props: { document: FloorDocument; results: Results }) {
  const { document, results } = props;
  const { edit } = usePicked("edit");
  const [share, setShare] = useState(0.8);
  const { counts, reached } = balanced(document, results, share);
  if (!reached.length) return null;
  return (
    <section aria-label="Balance a share of what lasts">
      <h3>Balance a share of what lasts</h3>
      <div className="fields">
        <div className="number-field">
          <label htmlFor="balance">Share, %</label>
          <input
            id="balance"
            defaultValue={String(100 * share)}
            onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
            onBlur={(e) => {
              const value = Number(e.target.value.replace("%", "").replace(",", "."));
              if (value > 0 && value <= 200) setShare(value / 100);
              else e.target.value = String(100 * share);
            }}
          />
        </div>
      </div>
      {reached.map((r) => (
        <p className="quiet" key={r.direction}>
          Along {r.direction}: {(100 * r.was).toFixed(0)} % now, {(100 * r.now).toFixed(0)} % with whole strands
          {r.capped ? "; more would press the concrete with over 2.5 MPa" : ""}.
        </p>
      ))}
      <button
        type="button"
        className="small"
        onClick={() =>
          void edit({
            line: `Strands for ${(100 * share).toFixed(0)} % of what lasts`,
            change: (d) => ({
              ...d,
              tendons: (d.tendons ?? []).map((t) => ({ ...t, count: counts.get(t.id) ?? t.count })),
            }),
          })
        }
      >
        Set the strands
      </button>
    </section>
  );
}
