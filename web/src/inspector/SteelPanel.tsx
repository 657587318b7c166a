import { useId, useState } from "react";
import { floorProperty } from "../kinds/properties";
import type { FloorDocument } from "../model/floor";
import { usePicked } from "../session";
import { type Quantity, read, unitOf, useUnits, written } from "../units/quantities";
import { FloorFields } from "./FloorFields";

const FIELDS = [
  floorProperty("exposure", "Exposure", { empty: true }),
  floorProperty("crack_width_limit_mm", "Greatest crack", { empty: true }),
  floorProperty("stock_length_m", "Longest bar"),
  floorProperty("extra_in_spans_pct", "Extra bars in spans, %"),
  floorProperty("design_links", "Links of slabs are designed"),
];

const FIRE = [
  floorProperty("fire.resistance", "Resistance", { empty: true, when: undefined }),
  floorProperty("fire.aggregate", "Aggregate"),
  floorProperty("fire.sides_ratio", "Spans, longer / shorter", { empty: true }),
  floorProperty("fire.restrained", "Kept from expanding"),
];
/** What only one standard's tables read. */
const READ_BY: Record<string, string> = { "fire.sides_ratio": "EN 1992-1-1", "fire.restrained": "ACI 318-19" };

/** What steel is designed by: exposure, limits of cracks, and the bars that may be chosen. */
export function SteelPanel(props: { document: FloorDocument }) {
  const { document } = props;
  const { edit } = usePicked("edit");
  return (
    <>
      <h3>Bars and cracks</h3>
      <div className="fields">
        <FloorFields document={document} properties={FIELDS} />
        <Choices
          key={`b${document.bar_sizes_mm}`}
          name="Bars"
          quantity="bar"
          values={document.bar_sizes_mm ?? (floorProperty("bar_sizes_mm", "").fallback as number[])}
          save={(values) =>
            edit({
              line: `Bars to choose from: ${values.join(", ")} mm`,
              change: (d) => ({ ...d, bar_sizes_mm: values }),
            })
          }
        />
        <Choices
          key={`s${document.spacings_mm}`}
          name="Spacings"
          quantity="cover"
          values={document.spacings_mm ?? (floorProperty("spacings_mm", "").fallback as number[])}
          save={(values) =>
            edit({
              line: `Spacings to choose from: ${values.join(", ")} mm`,
              change: (d) => ({ ...d, spacings_mm: values }),
            })
          }
        />
      </div>
      <h3>Fire from below</h3>
      <p className="quiet">
        By tables of the standard: thickness of slabs, width of beams, and how deep bars and tendons lie.
      </p>
      <div className="fields">
        <FloorFields
          document={document}
          properties={FIRE.filter(
            (p) =>
              p.path === "fire.resistance" ||
              (document.fire && (READ_BY[p.path] ?? document.standard) === document.standard),
          )}
        />
      </div>
    </>
  );
}

/** A list of numbers in one line; what is no number is left as it was. */
function Choices(props: {
  name: string;
  quantity: Quantity;
  values: number[];
  save: (values: number[]) => Promise<boolean>;
}) {
  const { name, quantity, values, save } = props;
  const id = useId();
  const system = useUnits((u) => u.system);
  const [error, setError] = useState("");
  const shown = values.map((v) => written(v, quantity, system)).join(", ");
  return (
    <div className="number-field">
      <label htmlFor={id}>
        {name}, {unitOf(quantity, system).unit}
      </label>
      <input
        id={id}
        className="text"
        defaultValue={shown}
        aria-invalid={Boolean(error)}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
        onBlur={(e) => {
          const text = e.target.value;
          const given = text
            .split(/[\s,;]+/)
            .filter(Boolean)
            .map((v) => read(v, quantity, system) ?? Number.NaN);
          const fine = given.length > 0 && given.every((v) => Number.isFinite(v) && v > 0);
          setError(fine ? "" : "Sizes above zero with commas between them, such as 10, 12, 16.");
          if (fine && text !== shown) void save(given.sort((a, b) => a - b));
        }}
      />
      {error && <div className="error">{error}</div>}
    </div>
  );
}
