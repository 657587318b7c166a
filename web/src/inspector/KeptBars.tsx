import { lacking } from "../model/bars";
import { provisionName } from "../model/provisions";
import type { Bar, Results } from "../model/results";
import { usePicked } from "../session";
import { useUnits } from "../units/quantities";
import { resultOf } from "../units/results";

/** What bars that an engineer drew or locked leave over, at the station where that is most, and what fills it in. */
export function KeptBars(props: { bar: Bar; results: Results | null }) {
  const { bar, results } = props;
  const { select } = usePicked("select");
  const system = useUnits((u) => u.system);
  const { shortfall } = bar;
  const told = (area: number) => resultOf(area, "mm²/m", system);
  if (!shortfall)
    return (
      <>
        <h3>Kept as they are</h3>
        <p className="quiet">With the mats and other kept bars they give all that is required where they lie.</p>
      </>
    );
  const { beside, still } = lacking(shortfall);
  const strip = results?.strips.find((s) => s.id === shortfall.strip);
  return (
    <>
      <h3>Kept as they are</h3>
      <p>
        <strong>Shortfall {told(beside)}</strong> of mats and kept bars at{" "}
        <button
          type="button"
          className="link"
          title="Section and trace of this station"
          onClick={() => select({ type: "station", strip: shortfall.strip, s: shortfall.station, face: bar.face })}
        >
          {strip?.label ?? shortfall.strip} at {resultOf(shortfall.station, "m", system)}
        </button>
        : {told(shortfall.required_mm2_m)} required ({provisionName(shortfall.provision)}
        {shortfall.combination && `, ${shortfall.combination}`}), {told(shortfall.kept_mm2_m)} given.
      </p>
      {shortfall.filling.length > 0 && (
        <p>
          Filled in by{" "}
          {shortfall.filling.map((mark, k) => (
            <span key={mark}>
              {k > 0 && ", "}
              <button type="button" className="link" onClick={() => select({ type: "bars", mark })}>
                {mark}
              </button>
            </span>
          ))}
          , designed beside them.
        </p>
      )}
      {still > 0 && (
        <p className="warning">
          {told(still)} are missing there. Edit these bars, or let them go and have bars designed.
        </p>
      )}
    </>
  );
}
