import type { FieldHead } from "../api/fields";
import { type Display, fieldLabel, QUANTITIES, useDisplay } from "./display";

/** Chooses what of the results lies on the plan. */
export function Toolbar(props: { heads: FieldHead[]; shown: FieldHead | null; fit: () => void }) {
  const display = useDisplay();
  const mine = props.heads.filter((h) => h.quantity === display.quantity);
  return (
    <div className="toolbar" role="toolbar" aria-label="What the plan shows">
      <label>
        <span className="quiet">Field</span>
        <select
          value={display.quantity}
          aria-label="Field"
          onChange={(e) => display.show({ quantity: e.target.value as Display["quantity"], of: null, kind: null })}
        >
          {QUANTITIES.map(([key, name]) => (
            <option key={key} value={key}>
              {name}
            </option>
          ))}
        </select>
      </label>
      {mine.length > 0 && props.shown && (
        <select
          aria-label="Case, combination or face"
          value={`${props.shown.of}|${props.shown.kind}`}
          onChange={(e) => {
            const [of = "", kind = ""] = e.target.value.split("|");
            display.show({ of, kind });
          }}
        >
          {mine.map((h) => (
            <option key={`${h.of}|${h.kind}`} value={`${h.of}|${h.kind}`}>
              {fieldLabel(h)}
            </option>
          ))}
        </select>
      )}
      <span className="rule" />
      {(["x", "y"] as const).map((direction) => (
        <button
          type="button"
          key={direction}
          aria-pressed={display.strips === direction}
          onClick={() => display.show({ strips: display.strips === direction ? "off" : direction })}
        >
          Strips {direction}
        </button>
      ))}
      <button type="button" aria-pressed={display.zones} onClick={() => display.show({ zones: !display.zones })}>
        Zones
      </button>
      <button type="button" aria-pressed={display.labels} onClick={() => display.show({ labels: !display.labels })}>
        Labels
      </button>
      <button type="button" title="Fit the floor (F)" onClick={props.fit}>
        Fit
      </button>
    </div>
  );
}
