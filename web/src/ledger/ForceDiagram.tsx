import { type ReactNode, useState } from "react";
import type { Strip } from "../model/results";
import { useReadings } from "../readings/readings";
import { type StripAlong, type Under, useStripForces } from "../readings/strips";
import { useUnits } from "../units/quantities";
import { figureOf, toldUnit } from "../units/results";
import { MARGIN, StationSurface, stationsOf } from "./StationSurface";

export const EFFECTS = [
  { key: "M", name: "Moment", sides: ["hogging", "sagging"] },
  { key: "T", name: "Twisting moment", sides: ["negative", "positive"] },
  { key: "V", name: "Shear", sides: ["negative", "positive"] },
  { key: "N", name: "Axial force", sides: ["compression", "tension"] },
] as const;
export type Effect = (typeof EFFECTS)[number]["key"];

/** An effect of whole strips along their axis: its least and greatest, or one arrangement. Moments lie on the side that they stretch. */
export function ForceDiagram(props: {
  line: Strip[];
  effect: Effect;
  at: number;
  pick: (at: number) => void;
  combination: string | undefined;
  choices: ReactNode;
}) {
  const { line, effect, at, pick, combination, choices } = props;
  const run = useReadings((r) => r.run);
  const catalogue = useReadings((r) => r.catalogue);
  const system = useUnits((u) => u.system);
  const [chosen, setChosen] = useState<string | null>(null);
  const [way, setWay] = useState("envelope");
  const states = [...new Set(catalogue?.selections.flatMap((s) => s.limit_state ?? []) ?? [])];
  const of =
    chosen ?? (states.includes("ultimate") ? "=ultimate" : states[0] ? `=${states[0]}` : (combination ?? null));
  const selection = catalogue?.selections.find((s) => s.of === of);
  const ways: [string, string][] = selection?.pattern
    ? [
        ["envelope", "all arrangements"],
        ["all", "all live load"],
        ...(catalogue?.arrangements ?? []).map((a): [string, string] => [`=${a.name}`, a.name]),
      ]
    : [["all", "all load"]];
  const kind = ways.some(([w]) => w === way) ? way : (ways[0] as [string, string])[0];
  const under: Under | null = !of
    ? null
    : of.startsWith("=")
      ? { state: of.slice(1) }
      : kind.startsWith("=")
        ? { of, kind: "arrangement", arrangement: kind.slice(1) }
        : { of, kind: kind as "envelope" | "all" };
  const { data } = useStripForces(
    run,
    line.map((s) => s.id),
    under,
  );
  const named = EFFECTS.find((e) => e.key === effect) as (typeof EFFECTS)[number];
  const along = line.map((s) => (data instanceof Map ? data.get(s.id)?.find((a) => a.effect === effect) : undefined));
  const there = along.filter((a): a is StripAlong => a !== undefined);
  const unit = there[0]?.unit ?? "";
  const most = Math.max(1e-9, ...there.flatMap((a) => [...a.least, ...a.greatest].map(Math.abs)));
  const here = stationsOf(line)[at];
  const mine = here && along[line.indexOf(here.strip)];
  const figure = (v: number) => figureOf(v, unit, system).replace("-", "−");
  const peak = (sense: "low" | "high") => {
    const best = there
      .map((a) => a[sense])
      .reduce(
        (a, b) => ((sense === "low" ? b.value < a.value : b.value > a.value) ? b : a),
        there[0]?.[sense] as never,
      );
    return best;
  };
  const [low, high] = there.length ? [peak("low"), peak("high")] : [];
  return (
    <>
      <div className="button-row">
        {choices}
        <select aria-label="Combination along the strips" value={of ?? ""} onChange={(e) => setChosen(e.target.value)}>
          <optgroup label="All combinations of">
            {states.map((s) => (
              <option key={s} value={`=${s}`}>
                {s.replaceAll("_", " ")}
              </option>
            ))}
          </optgroup>
          <optgroup label="One of">
            {catalogue?.selections.map((s) => (
              <option key={s.of} value={s.of}>
                {s.of}
              </option>
            ))}
          </optgroup>
        </select>
        {selection && (
          <select aria-label="Arrangement of live load" value={kind} onChange={(e) => setWay(e.target.value)}>
            {ways.map(([value, words]) => (
              <option key={value} value={value}>
                {words}
              </option>
            ))}
          </select>
        )}
        <span className="quiet">
          {low &&
            high &&
            `${figure(low.value)} (${low.combination}) to ${figure(high.value)} (${high.combination}) ${toldUnit(unit, system).unit}`}
        </span>
      </div>
      <StationSurface line={line} at={at} pick={pick} name={`${named.name} along the strips`}>
        {(x, WIDE, HIGH) => {
          const zero = (HIGH - MARGIN.bottom + MARGIN.top) / 2;
          // Sagging moments stretch the bottom, and lie below; so do tension and positive shear.
          const y = (v: number) => zero + (v / most) * (zero - MARGIN.top);
          return (
            <>
              {[-1, -0.5, 0.5, 1].map((v) => (
                <g key={v}>
                  <path d={`M${MARGIN.left} ${y(v * most)}H${WIDE - MARGIN.right}`} className="rule" />
                  <text x={MARGIN.left - 6} y={y(v * most) + 4} textAnchor="end">
                    {figure(v * most)}
                  </text>
                </g>
              ))}
              {/* Beside the lines of the scale, where no figure stands. */}
              <text x={WIDE - MARGIN.right} y={MARGIN.top - 4} textAnchor="end">
                {named.sides[0]}
              </text>
              <text x={WIDE - MARGIN.right} y={HIGH - 5} textAnchor="end">
                {named.sides[1]}
              </text>
              {along.map((a) => {
                if (!a) return null;
                const path = (values: number[]) =>
                  a.s_m.map((s, k) => `${k ? "L" : "M"}${x(s).toFixed(1)} ${y(values[k] ?? 0).toFixed(1)}`).join("");
                const back = [...a.s_m.keys()]
                  .reverse()
                  .map((k) => `L${x(a.s_m[k] as number).toFixed(1)} ${y(a.least[k] as number).toFixed(1)}`);
                return (
                  <g key={a.strip}>
                    <path d={`${path(a.greatest)}${back.join("")}Z`} className="between" />
                    <path d={path(a.greatest)} className="given" />
                    <path d={path(a.least)} className="given" />
                  </g>
                );
              })}
              <path d={`M${MARGIN.left} ${zero}H${WIDE - MARGIN.right}`} className="zero" />
            </>
          );
        }}
      </StationSurface>
      <div className="told-station" aria-live="polite">
        {typeof data === "string" && <p className="error">{data}</p>}
        {here && mine ? (
          <p>
            <b>{named.name}</b>{" "}
            {mine.least[here.k] === mine.greatest[here.k]
              ? `${figure(mine.greatest[here.k] as number)} ${toldUnit(unit, system).unit} (${mine.greatest_of[here.k]})`
              : `${figure(mine.least[here.k] as number)} (${mine.least_of[here.k]}) to ${figure(mine.greatest[here.k] as number)} (${mine.greatest_of[here.k]}) ${toldUnit(unit, system).unit}`}
            <span className="quiet">
              {" "}
              · {figureOf(mine.width_m[here.k] ?? 0, "m", system)} {toldUnit("m", system).unit} wide; the whole strip,
              by its free body
            </span>
          </p>
        ) : (
          // Where a station is picked, its forces are on their way.
          !here && <p className="quiet">Click a station, or walk them with the arrow keys.</p>
        )}
      </div>
    </>
  );
}
