import type { Zone } from "../model/results";
import { ribbonOf, studsOf } from "../model/zones";
import { markOf } from "../units/format";
import type { System } from "../units/quantities";
import { resultOf } from "../units/results";
import type { Wanted } from "./labels";

type Pair = [number, number] | number[];
const lines = (pairs: (readonly [Pair, Pair] | number[][])[]) =>
  pairs.map(([a, b]) => `M${(a as Pair).join(" ")}L${(b as Pair).join(" ")}`).join("");

/** Punching perimeters, coloured by utilisation; of the chosen ones the stress along them, the rails and the outer perimeter. */
export function ZoneLayer(props: {
  zones: Zone[];
  /** What presses whose perimeters are chosen, and the one perimeter whose row is open. */
  chosen: string | null;
  row: string | null;
  pick: (row: string) => void;
}) {
  return (
    <g className="zones">
      {props.zones.map((zone) => {
        const chosen = props.row ? props.row === zone.row : props.chosen === zone.id;
        const mark = markOf(zone.utilisation);
        return (
          // biome-ignore lint/a11y/noStaticElementInteractions: zones are reached by keyboard through the ledger
          <g
            key={zone.row}
            onClick={(event) => {
              event.stopPropagation();
              props.pick(zone.row);
            }}
            onKeyDown={() => undefined}
          >
            {chosen && <Ribbon zone={zone} />}
            {chosen && zone.dead.length > 0 && <path d={lines(zone.dead)} className="dead" data-dead={zone.id} />}
            {zone.rails && (
              <>
                <path d={lines(zone.rails.lines)} className="rails" data-rails={zone.id} />
                {chosen && <path d={lines(zone.rails.outer)} className="outer" />}
                {chosen &&
                  studsOf(zone).map(([x, y]) => (
                    <circle
                      key={`${x} ${y}`}
                      cx={x}
                      cy={y}
                      r={Math.max((zone.rails?.bar_mm ?? 0) / 2000, 0.012)}
                      className="stud"
                    />
                  ))}
              </>
            )}
            <path
              d={lines(zone.segments)}
              className={`zone ${mark} ${zone.around} ${chosen ? "chosen" : ""}`}
              data-zone={zone.id}
              data-around={zone.around}
            />
          </g>
        );
      })}
    </g>
  );
}

/** The stress along a perimeter: its height over the dashed line of the resistance. */
function Ribbon(props: { zone: Zone }) {
  const { bands, limit, strong, worst } = ribbonOf(props.zone);
  const mark = markOf(props.zone.v_Ed_kPa / props.zone.v_Rd_c_kPa);
  return (
    <g className="ribbon" data-testid="ribbon">
      <path d={bands.map((b) => `M${b.map((p) => p.join(" ")).join("L")}Z`).join("")} className={`band ${mark}`} />
      <path d={lines(limit)} className="limit" />
      {strong.length > 0 && <path d={lines(strong)} className="limit strong" />}
      {worst && <circle cx={worst[0]} cy={worst[1]} r={0.05} className="worst" />}
    </g>
  );
}

/** The greatest stress, the resistances and the outer perimeter of an open zone. */
export function ribbonLabels(
  zone: Zone,
  toScreen: (x: number, y: number) => { x: number; y: number },
  system: System,
): Wanted[] {
  const { limit, strong, worst } = ribbonOf(zone);
  const out: Wanted[] = [];
  const add = (at: number[] | null | undefined, text: string, priority: number, more: Partial<Wanted> = {}) => {
    if (at) out.push({ ...toScreen(at[0] as number, at[1] as number), text, priority, ...more });
  };
  // Where a quarter of the perimeter is passed, away from the place of the greatest stress as a rule.
  const quarter = (of: [number[], number[]][]) => of[Math.floor(of.length / 4)]?.[0];
  add(worst, `v ${resultOf(zone.v_Ed_kPa, "stress", system)}`, 80, {
    callout: true,
    tone: markOf(zone.v_Ed_kPa / zone.v_Rd_c_kPa),
  });
  add(quarter(limit), `vRd,c ${resultOf(zone.v_Rd_c_kPa, "stress", system)}`, 70, { tone: "soft" });
  if (zone.v_Rd_cs_kPa)
    add(quarter(strong), `vRd,cs ${resultOf(zone.v_Rd_cs_kPa, "stress", system)}`, 69, { tone: "soft" });
  const outer = (zone.rails?.outer ?? []) as [number[], number[]][];
  if (zone.u_laid_m)
    add(outer[Math.floor(outer.length / 2)]?.[0], `u ${resultOf(zone.u_laid_m, "m", system)}`, 68, { tone: "soft" });
  return out;
}
