import type { FloorDocument } from "../model/floor";
import { STRAND, spacingOf } from "../model/tendons";
import { useGesture } from "../plan/tools/gesture";
import { useSpreading } from "../plan/tools/spreading";
import { measured, type Quantity, read, unitOf, useUnits, written } from "../units/quantities";

/** Tendons side by side over a region that is drawn next. */
export function SpreadPanel(props: { document: FloorDocument }) {
  const how = useSpreading();
  const system = useUnits((u) => u.system);
  const { begin, tool } = useGesture();
  const strand = (props.document.strands ?? [])[0] ?? STRAND;
  const number = (name: string, key: "angle" | "strands" | "spacing" | "force" | "jack", quantity: Quantity) => {
    // Feet and inches carry their units; other figures have theirs beside them.
    const whole = quantity === "length" && system === "US";
    const told =
      quantity === "none"
        ? String(how[key])
        : whole
          ? measured(how[key], quantity, system)
          : written(how[key], quantity, system);
    const unit = key === "angle" ? "°" : quantity === "none" || whole ? "" : unitOf(quantity, system).unit;
    return (
      <div className="number-field" key={key}>
        <label htmlFor={`spread-${key}`}>{name}</label>
        <input
          id={`spread-${key}`}
          key={told}
          defaultValue={told}
          onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
          onBlur={(e) => {
            const value = read(e.target.value, quantity, system);
            const fine = value !== null && (key === "angle" ? Math.abs(value) <= 360 : value > 0);
            if (fine) useSpreading.setState({ [key]: key === "strands" ? Math.max(1, Math.round(value)) : value });
            else e.target.value = told;
          }}
        />
        <span className="quiet">{unit}</span>
      </div>
    );
  };
  return (
    <section aria-label="Spread tendons over a region">
      <h3>Spread tendons over a region</h3>
      <p className="quiet">
        Draw the region; what lies of it on the floor gets tendons side by side, over the columns.
      </p>
      <div className="fields">
        {number("Direction", "angle", "none")}
        {number("Strands of each", "strands", "none")}
        {number("Jacking", "jack", "stress")}
        <div className="number-field">
          <label htmlFor="spread-by">By</label>
          <select
            id="spread-by"
            value={how.by}
            onChange={(e) => useSpreading.setState({ by: e.target.value as "spacing" | "force" })}
          >
            <option value="spacing">spacing</option>
            <option value="force">force by the metre</option>
          </select>
        </div>
        {how.by === "spacing"
          ? number("At most every", "spacing", "length")
          : number("At the jack", "force", "force_per_m")}
      </div>
      {how.by === "force" && (
        <p className="quiet">One at most every {measured(spacingOf(how, strand), "length", system)}.</p>
      )}
      {tool !== "spread" && (
        <button type="button" className="small" onClick={() => begin("spread")}>
          Draw the region <kbd>;</kbd>
        </button>
      )}
    </section>
  );
}
