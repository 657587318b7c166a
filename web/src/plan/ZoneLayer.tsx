import type { Zone } from "../model/results";
import { markOf } from "../units/format";

/** Punching perimeters, coloured by utilisation. */
export function ZoneLayer(props: {
  zones: Zone[];
  /** The column whose perimeters are chosen, and the one perimeter whose row is open. */
  chosen: string | null;
  row: string | null;
  pick: (row: string) => void;
}) {
  return (
    <g className="zones">
      {props.zones.map((zone) => (
        // biome-ignore lint/a11y/noStaticElementInteractions: zones are reached by keyboard through the ledger
        <path
          key={zone.row}
          d={zone.segments.map(([a, b]) => `M${a.join(" ")}L${b.join(" ")}`).join("")}
          className={`zone ${markOf(zone.utilisation)} ${zone.around} ${(props.row ? props.row === zone.row : props.chosen === zone.column) ? "chosen" : ""}`}
          data-zone={zone.column}
          data-around={zone.around}
          onClick={(event) => {
            event.stopPropagation();
            props.pick(zone.row);
          }}
          onKeyDown={() => undefined}
        />
      ))}
    </g>
  );
}
