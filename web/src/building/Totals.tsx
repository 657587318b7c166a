import type { System } from "../units/quantities";
import { figureOf, resultOf, toldUnit } from "../units/results";
import { byLevel, type Card, type Overview, works } from "./overview";

/** What the building takes: of the first floor at each level, so that drafts are not counted with what they are drafts of. */
export function Totals(props: { overview: Overview; system: System }) {
  const { overview, system } = props;
  const counted = byLevel(overview)
    .map((l) => l.card)
    .filter((c): c is Card => c !== null);
  const known = counted.filter((c) => c.takeoff && c.known === c.revision);
  const sum = (of: (c: Card) => number | undefined) => known.reduce((t, c) => t + (of(c) ?? 0), 0);
  const area = sum((c) => c.area_m2 ?? 0);
  const bars = sum((c) => c.takeoff?.bars_kg);
  const strands = sum((c) => c.takeoff?.strands_kg);
  const carbon = sum((c) => c.takeoff?.carbon_kg);
  const working = overview.floors.filter((c) => works(c) === "works").length;
  const concrete = sum((c) => c.takeoff?.concrete_m3);
  const each = area ? figureOf(bars / area, "kg/m²", system, 1) : "–";
  const sums: [string, string][] = [
    ["Floor area", resultOf(area, "m²", system, 0)],
    ["Concrete", resultOf(concrete, "m³", system, 0)],
    ["Bars", `${resultOf(bars / 1000, "t", system)}, ${each} ${toldUnit("kg/m²", system).unit}`],
    ...(strands ? [["Strands", resultOf(strands / 1000, "t", system)] as [string, string]] : []),
    ["Carbon", `${resultOf(carbon / 1000, "t", system)} CO₂e`],
  ];
  const lines: [string, string][] = [
    ["Floors", `${overview.floors.length}, ${working} ${working === 1 ? "works" : "work"}`],
    ...(known.length ? sums : []),
  ];
  const awaited = counted.length - known.length;
  return (
    <section aria-label="What the building takes">
      <dl className="totals">
        {lines.map(([name, value]) => (
          <div key={name}>
            <dt>{name}</dt>
            <dd className="mono">{value}</dd>
          </div>
        ))}
      </dl>
      <p className="quiet" title={known.map((c) => c.name).join("; ")}>
        {known.length ? "Of the first floor at each level, without columns and walls. " : ""}
        {awaited > 0 && `Results of ${awaited} more are awaited.`}
        {!counted.length && "No floor has a level yet, so nothing is summed."}
      </p>
    </section>
  );
}
