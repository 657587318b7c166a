import { shown } from "../units/format";
import type { Scale } from "./ramps";

/** The bands of the shown field, with their limits. */
export function Legend(props: { title: string; unit: string; scale: Scale; stale: boolean }) {
  const { title, unit, scale, stale } = props;
  const digits = scale.step >= 1 ? 0 : Math.min(3, Math.ceil(-Math.log10(scale.step) + 0.0001));
  const wide = shown(scale.from + scale.colours.length * scale.step, "", digits).length > 3;
  const every = scale.colours.length > 6 || (wide && scale.colours.length > 4) ? 2 : 1;
  return (
    <figure className="legend" aria-label={`Legend: ${title}, ${unit}`}>
      <figcaption>
        {title}, {unit} {stale && <em>of an older revision</em>}
      </figcaption>
      <div className="swatches">
        {scale.colours.map((colour) => (
          <span key={colour} style={{ background: colour }} />
        ))}
      </div>
      <div className="ticks">
        {Array.from({ length: scale.colours.length + 1 }, (_, k) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: ticks have no other identity
          <span key={k}>{k % every === 0 ? shown(scale.from + k * scale.step, "", digits) : ""}</span>
        ))}
      </div>
    </figure>
  );
}
