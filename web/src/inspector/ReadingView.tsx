import { useEffect, useState } from "react";
import { useDisplay } from "../display/display";
import { panelsOf } from "../model/results";
import { useChosen } from "../readings/chosen";
import { type Reading, readValue, useReadings } from "../readings/readings";
import { showArrangement } from "../readings/shown";
import { usePicked, useSession, useStale } from "../session";
import { useUnits } from "../units/quantities";
import { figureOf, resultOf, toldUnit } from "../units/results";

type Place = { x: number; y: number } | { support: string };

/** A value with the arrangement that governs it, and the value under every other one; the panels are on the plan. */
export function ReadingView(props: { place: Place; quantity: string; name: string }) {
  const { place, quantity, name } = props;
  const run = useSession((s) => s.shownRun);
  const of = useChosen()?.of;
  const [reading, setReading] = useState<Reading | string | null>(null);
  const key = JSON.stringify(place);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key stands for the place
  useEffect(() => {
    if (run === null || !of) return;
    let alive = true;
    void readValue(run, of, quantity, place).then((r) => alive && setReading(r));
    return () => {
      alive = false;
    };
  }, [run, of, quantity, key]);
  if (typeof reading === "string") return <p className="empty">{reading}</p>;
  if (!reading) return <p className="empty">Reading the value.</p>;
  return <Governed reading={reading} name={name} />;
}

/** What is shown on the plan: the worse of both extremes first, then whatever is pointed at. */
function Governed(props: { reading: Reading; name: string }) {
  const { reading, name } = props;
  const system = useUnits((u) => u.system);
  const stale = useStale();
  const exact = useSession((s) => s.document?.arrangements !== "standard");
  const [picked, setPicked] = useState<string>("");
  const { least, greatest } = reading;
  const worse =
    Math.abs(greatest?.value ?? 0) >= Math.abs(least?.value ?? 0) && greatest
      ? "greatest"
      : least
        ? "least"
        : "greatest";
  const now = picked || worse;
  useEffect(() => {
    const found = now === "least" ? least : now === "greatest" ? greatest : null;
    const named = useReadings.getState().catalogue?.arrangements.find((a) => a.name === now);
    const panels = found ? panelsOf(found.panels) : (named?.panels ?? []);
    showArrangement(panels, `Loaded for ${named ? `“${now}”` : `the ${now}`} ${name} under ${reading.of}`);
    return () => showArrangement(null);
  }, [now, least, greatest, name, reading]);
  const { unit } = toldUnit(reading.unit, system);
  const most = Math.max(...reading.under.map((u) => Math.abs(u.value)), Math.abs(reading.all), 1e-9);
  const row = (key: string, label: string, value: number, told: string, pickable = true) => (
    <button
      type="button"
      key={key}
      className={`row-link ${now === key ? "current" : ""}`}
      disabled={!pickable}
      onClick={() => setPicked(key)}
      aria-pressed={now === key}
    >
      <span>
        {label} <span className="quiet">{told}</span>
      </span>
      <span className="mono" data-testid={`reading-${key}`}>
        {figureOf(value, reading.unit, system)}
      </span>
    </button>
  );
  const patterned = reading.under.length > 0;
  return (
    <div className="reading-view">
      <p className="quiet">
        {name} under {reading.of}, {unit}. {stale && "Of an older revision."}
      </p>
      {patterned && greatest && row("greatest", "greatest", greatest.value, `${greatest.panels.length} loaded`)}
      {patterned && least && row("least", "least", least.value, `${least.panels.length} loaded`)}
      {row("all", patterned ? "all live load" : "value", reading.all, "", false)}
      {patterned && row("none", "no pattern load", reading.none, "", false)}
      {patterned && (
        <>
          <h3>Under each arrangement</h3>
          {reading.under.map((u) => (
            <button
              type="button"
              key={u.arrangement}
              className={`under ${now === u.arrangement ? "current" : ""}`}
              aria-pressed={now === u.arrangement}
              onClick={() => setPicked(u.arrangement)}
            >
              <span className="name">
                {u.arrangement}
                {u.required ? "" : " ·"}
              </span>
              <span className="bar" aria-hidden="true">
                <i
                  className={u.value < 0 ? "low" : ""}
                  style={{ width: `${(50 * Math.abs(u.value)) / most}%`, [u.value < 0 ? "right" : "left"]: "50%" }}
                />
              </span>
              <span className="mono">{figureOf(u.value, reading.unit, system)}</span>
            </button>
          ))}
          <p className="quiet">
            {exact
              ? "Greatest and least are over every choice of panels, so no named arrangement is worse."
              : "This floor’s checks use the standard’s arrangements: greatest and least are over these alone."}{" "}
            A dot marks those that the standard does not ask for.
          </p>
        </>
      )}
    </div>
  );
}

/** The value at a place that was clicked. */
export function PlaceView(props: { at: [number, number] }) {
  const { at } = props;
  const shownQuantity = useDisplay((d) => d.quantity);
  const system = useUnits((u) => u.system);
  const catalogue = useReadings((r) => r.catalogue);
  const { edit } = usePicked("edit");
  const asked = catalogue?.quantities.find((q) => q.key === shownQuantity && !q.direction);
  const quantity = asked?.key ?? "mx";
  const name = catalogue?.quantities.find((q) => q.key === quantity)?.name ?? quantity;
  return (
    <>
      <h2>Value here</h2>
      <p className="quiet mono">
        x {resultOf(at[0], "m", system, 3)}, y {resultOf(at[1], "m", system, 3)}
      </p>
      <ReadingView place={{ x: at[0], y: at[1] }} quantity={quantity} name={name} />
      <div className="button-row">
        <button
          type="button"
          onClick={() => {
            const taken = new Set((useSession.getState().document?.probes ?? []).map((p) => p.id));
            let n = 1;
            while (taken.has(`P${n}`)) n++;
            const probe = { id: `P${n}`, at: at.map((v) => Math.round(v * 1000) / 1000) };
            void edit({
              line: `Probe P${n} pinned`,
              change: (d) => ({ ...d, probes: [...(d.probes ?? []), probe] }),
              picks: [{ kind: "probes", id: probe.id }],
            });
          }}
        >
          Pin a probe here
        </button>
      </div>
    </>
  );
}

/** Readings of a support's reaction, one component at a time. */
export function ReactionReading(props: { support: string }) {
  const [component, setComponent] = useState("F");
  const names: Record<string, string> = { F: "force F", Mx: "moment Mx", My: "moment My" };
  return (
    <>
      <h3>Reaction over arrangements</h3>
      <div className="tabs" role="tablist">
        {Object.keys(names).map((c) => (
          <button type="button" role="tab" key={c} aria-selected={c === component} onClick={() => setComponent(c)}>
            {c}
          </button>
        ))}
      </div>
      <ReadingView place={{ support: props.support }} quantity={component} name={names[component] ?? component} />
    </>
  );
}

/** A named arrangement: its panels on the plan, and the field under it on request. */
export function ArrangementView(props: { name: string }) {
  const { name } = props;
  const results = useSession((s) => s.results);
  const setStep = useSession((s) => s.setStep);
  const show = useDisplay((d) => d.show);
  const found = results?.arrangements.find((a) => a.name === name);
  useEffect(() => {
    showArrangement(found?.panels ?? null, `Loaded in “${name}”`);
    return () => showArrangement(null);
  }, [found, name]);
  if (!found) return <p className="empty">The newest run has no such arrangement.</p>;
  return (
    <>
      <h2>{name}</h2>
      <p className="quiet">
        {found.panels.length} of {results?.panels.length} panels loaded.{" "}
        {found.required ? "The standard asks for it." : "The standard does not ask for it; it is here for comparison."}
      </p>
      <p className="panels mono">{found.panels.join(" ")}</p>
      <div className="button-row">
        <button
          type="button"
          onClick={() => {
            setStep("analyse");
            show({ quantity: "w", kind: "arrangement", arrangement: name });
          }}
        >
          Show the deflection under it
        </button>
      </div>
    </>
  );
}
