import type { Zone } from "../model/results";
import { markOf } from "../units/format";

/** Punching perimeters, coloured by utilisation. */
export function ZoneLayer(props: { zones: Zone[]; chosen: string | null; pick: (column: string) => void }) {
  return (
    <g className="zones">
      {props.zones.map((zone) => (
        // biome-ignore lint/a11y/noStaticElementInteractions: zones are reached by keyboard through the ledger
        <path
          key={zone.column + zone.around}
          d={zone.segments.map(([a, b]) => `M${a.join(" ")}L${b.join(" ")}`).join("")}
          className={`zone ${markOf(zone.utilisation)} ${zone.around} ${props.chosen === zone.column ? "chosen" : ""}`}
          data-zone={zone.column}
          onClick={(event) => {
            event.stopPropagation();
            props.pick(zone.column);
          }}
          onKeyDown={() => undefined}
        />
      ))}
    </g>
  );
}
