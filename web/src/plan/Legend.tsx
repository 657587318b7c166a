import { useState } from "react";
import { useDisplay } from "../display/display";
import { useSession } from "../session";
import { shown } from "../units/format";
import { measured, useUnits } from "../units/quantities";
import type { Scale } from "./ramps";

/** The bands of the shown field, with limits that can be typed or dragged. */
export function Legend(props: { title: string; unit: string; scale: Scale; spacing: number; stale: boolean }) {
  const { title, unit, scale, spacing, stale } = props;
  const { limits, quantity, sized, show } = useDisplay();
  const system = useUnits((u) => u.system);
  const say = useSession((s) => s.say);
  const digits = scale.step >= 1 ? 0 : Math.min(3, Math.ceil(-Math.log10(scale.step) + 0.0001));
  const count = scale.colours.length;
  const to = scale.from + count * scale.step;
  const wide = shown(to, "", digits).length > 3;
  const bound = (from: number, upper: number, which: string) => {
    if (from < upper) show({ limits: { from, to: upper } });
    else say(`The bands need a lower limit below the upper one; ${which} stays as it was.`, true);
  };
  // Of every other border that is named, nought is one where it lies between the limits.
  const nought = scale.from < 0 && to > 0 ? Math.round(-scale.from / scale.step) : 0;
  const every = count > 6 || (wide && count > 4) ? 2 : 1;
  return (
    <figure className="legend" aria-label={`Legend: ${[title, unit].filter(Boolean).join(", ")}`}>
      <figcaption>
        {title}
        {unit && `, ${unit}`} {stale && <em>of an older revision</em>}
      </figcaption>
      <div className="swatches">
        {scale.colours.map((colour) => (
          <span key={colour} style={{ background: colour }} />
        ))}
      </div>
      {scale.names ? (
        <div className="ticks of-bars">
          {scale.names.map((name) => (
            <span key={name}>{name}</span>
          ))}
        </div>
      ) : (
        <div className="ticks">
          {Array.from({ length: count + 1 }, (_, k) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: ticks have no other identity
            <span key={k}>
              {(k - nought) % every === 0 && k > 0 && k < count ? shown(scale.from + k * scale.step, "", digits) : ""}
            </span>
          ))}
        </div>
      )}
      {quantity === "steel" && (
        <div className="limits">
          <span className="quiet">{scale.names ? `bars at ${measured(spacing / 1e3, "size", system)}` : ""}</span>
          <button type="button" aria-pressed={sized} onClick={() => show({ sized: !sized })}>
            By bar sizes
          </button>
        </div>
      )}
      {!scale.names && (
        <div className="limits">
          <Limit
            name="Lower limit of the bands"
            value={scale.from}
            digits={digits}
            reach={to - scale.from}
            set={(from) => bound(from, to, "the lower limit")}
          />
          <button type="button" disabled={!limits} onClick={() => show({ limits: null })} title="Limits from the field">
            {limits ? "Fit to field" : "fitted"}
          </button>
          <Limit
            name="Upper limit of the bands"
            value={to}
            digits={digits}
            reach={to - scale.from}
            set={(upper) => bound(scale.from, upper, "the upper limit")}
          />
        </div>
      )}
    </figure>
  );
}

/** One limit: typed, stepped by arrow keys, or dragged to either side. */
function Limit(props: { name: string; value: number; digits: number; reach: number; set: (value: number) => void }) {
  const { name, value, digits, reach, set } = props;
  const [text, setText] = useState<string | null>(null);
  const say = useSession((s) => s.say);
  const [drag, setDrag] = useState<{ x: number; value: number } | null>(null);
  const done = () => {
    const typed = Number((text ?? "").replace("−", "-").replace(",", "."));
    if (text?.trim() && Number.isFinite(typed)) set(typed);
    else if (text?.trim()) say(`"${text}" is no number; ${name.toLowerCase()} stays as it was.`, true);
    setText(null);
  };
  return (
    <input
      aria-label={name}
      title={`${name}: type, or drag to the side`}
      value={text ?? shown(value, "", digits)}
      onChange={(e) => setText(e.target.value)}
      onBlur={done}
      onKeyDown={(e) => {
        if (e.key === "Enter") done();
        if (e.key === "Escape") setText(null);
        if (e.key === "ArrowUp" || e.key === "ArrowDown") {
          set(value + (e.key === "ArrowUp" ? 1 : -1) * (reach / 18));
          e.preventDefault();
        }
      }}
      onPointerDown={(e) => {
        setDrag({ x: e.clientX, value });
        e.currentTarget.setPointerCapture(e.pointerId);
      }}
      onPointerMove={(e) =>
        drag && Math.abs(e.clientX - drag.x) > 3 && set(drag.value + ((e.clientX - drag.x) / 150) * reach)
      }
      onPointerUp={() => setDrag(null)}
    />
  );
}
