import { type PointerEvent, useLayoutEffect, useRef, useState } from "react";
import { api } from "../api/client";
import type { FloorDocument } from "../model/floor";
import { type Curve, endOf, historyOf, reachOf, withHistory, withStage, withTemplate } from "../model/history";
import type { Results } from "../model/results";
import { type Beside, useBeside, useCandidates, useCompared } from "../readings/beside";
import { usePicked, useStale } from "../session";
import { OPEN } from "../session/runs";
import { unitOf, useUnits } from "../units/quantities";
import { figureOf, toldUnit } from "../units/results";

const LEFT = 58;
const RIGHT = 84;
const LINE = { top: 16, height: 20 };
const TOP = 50;
const BOTTOM = 18;
/** A stage is told its day where it is this wide, px. */
const NARROW = 46;
const MARKS: [number, string][] = [
  [7, "7 d"],
  [28, "28 d"],
  [90, "90 d"],
  [365, "1 a"],
  [1825, "5 a"],
  [10950, "30 a"],
];

/** The life of the floor: stages to drag or to move by arrow keys, and the deflection of a place against time with its band. */
export function HistoryView(props: { document: FloorDocument; results: Results | null }) {
  const { document, results } = props;
  const { edit } = usePicked("edit");
  const stale = useStale();
  const system = useUnits((u) => u.system);
  const [place, setPlace] = useState("");
  const [moved, setMoved] = useState<{ k: number; day: number } | null>(null);
  const compared = useBeside();
  const frame = useRef<HTMLDivElement>(null);
  const [{ wide, high }, setSize] = useState({ wide: 900, high: 130 });
  useLayoutEffect(() => {
    const watch = new ResizeObserver(([entry]) => {
      if (entry)
        setSize({ wide: Math.max(entry.contentRect.width, 300), high: Math.max(entry.contentRect.height, 110) });
    });
    if (frame.current) watch.observe(frame.current);
    return () => watch.disconnect();
  }, []);
  const history = historyOf(document);
  if (!history)
    return (
      <div className="history-view">
        <p className="empty">
          Deflection is a quick estimate: curvatures interpolated once, the load that lasts applied at once. With a
          history of stages it is followed from day to day, with its cracks and its scatter.
        </p>
        <div className="button-row">
          <button
            type="button"
            className="small"
            onClick={() => edit({ line: "A history of four stages is begun", change: withTemplate })}
          >
            Begin a history
          </button>
        </div>
      </div>
    );
  const shown = moved ? withStage(history, moved.k, { start_days: moved.day }) : history;
  const found = results?.history ?? null;
  const curves = [...(found?.governing ? [found.governing] : []), ...(found?.probes ?? [])];
  const curve = curves.find((c) => c.id === place) ?? curves[0];
  const theirs = compared.results?.history ?? null;
  const other = [...(theirs?.governing ? [theirs.governing] : []), ...(theirs?.probes ?? [])].find(
    (c) => c.id === curve?.id,
  );
  const stages = shown.stages;
  const first = (stages[0]?.start_days ?? 1) * 0.8;
  const last = endOf(shown);
  const x = (day: number) =>
    LEFT + (Math.log(Math.max(day, first) / first) / Math.log(last / first)) * (wide - LEFT - RIGHT);
  const dayAt = (px: number) => first * (last / first) ** ((px - LEFT) / (wide - LEFT - RIGHT));
  const save = (k: number, day: number) => {
    const [low, up] = reachOf(history, k);
    const to = Math.round(Math.min(Math.max(day, low), up));
    const stage = history.stages[k];
    setMoved(null);
    if (!stage || to === stage.start_days) return;
    void edit({
      line: `Stage ${stage.id} begins on day ${to}`,
      change: withHistory((h) => withStage(h, k, { start_days: to })),
    });
  };
  const drag = (event: PointerEvent<HTMLButtonElement>, k: number) => {
    event.preventDefault();
    event.currentTarget.focus();
    event.currentTarget.setPointerCapture(event.pointerId);
    const box = frame.current?.getBoundingClientRect();
    const target = event.currentTarget;
    const [low, up] = reachOf(history, k);
    let day = history.stages[k]?.start_days ?? low;
    const move = (e: globalThis.PointerEvent) => {
      day = Math.round(Math.min(Math.max(dayAt(e.clientX - (box?.left ?? 0)), low), up));
      setMoved({ k, day });
    };
    target.addEventListener("pointermove", move);
    target.addEventListener(
      "pointerup",
      () => {
        target.removeEventListener("pointermove", move);
        save(k, day);
      },
      { once: true },
    );
  };
  return (
    <div className="history-view">
      <div className="button-row">
        {curves.length > 0 && (
          <select aria-label="Place of the curve" value={curve?.id ?? ""} onChange={(e) => setPlace(e.target.value)}>
            {curves.map((c) => (
              <option key={c.id} value={c.id}>
                {c === found?.governing ? `governing: ${c.id}` : `probe ${c.id}`}
              </option>
            ))}
          </select>
        )}
        {curves.length > 0 && <ChooseBeside />}
        {compared.beside && <span className="chip">{other ? "dashed: the other" : toldOf(compared.results)}</span>}
        {found && <Reckoned results={results} stale={stale} />}
        {!found && <Asked />}
        {!compared.beside && <span className="quiet">shaded: 8 of 10 such floors</span>}
      </div>
      <div className="surface-of" ref={frame} style={{ position: "relative" }}>
        <svg width={wide} height={high} role="img" aria-label="Deflection against time">
          {MARKS.filter(([d]) => d > first * 1.02 && d <= last).map(([d, text]) => (
            <text key={d} x={x(d)} y={high - 4} textAnchor="middle">
              {text}
            </text>
          ))}
          {stages.map((s) => (
            <path key={s.id} d={`M${x(s.start_days)} ${TOP - 4}V${high - BOTTOM}`} className="stage-begins" />
          ))}
          {curve && (
            <CurveOf
              curve={curve}
              other={other ?? null}
              x={x}
              high={high}
              wide={wide}
              limit={limitOf(results, curve)}
              system={system}
            />
          )}
        </svg>
        {stages.map((s, k) => {
          const left = x(s.start_days);
          const width = x(stages[k + 1]?.start_days ?? last) - left;
          return (
            <div key={s.id}>
              <span className="stage-day" style={{ left, display: width < NARROW ? "none" : undefined }}>
                day {s.start_days}
              </span>
              <button
                type="button"
                role="slider"
                className={`stage stage-${k % 4}`}
                style={{ left, top: LINE.top, width: Math.max(width - 1, 4), height: LINE.height }}
                title={`${s.id}: from day ${s.start_days}, combination ${s.combination}`}
                aria-label={`Stage ${s.id}, begins on day`}
                aria-valuenow={s.start_days}
                aria-valuemin={reachOf(shown, k)[0]}
                aria-valuemax={reachOf(shown, k)[1]}
                onPointerDown={(e) => drag(e, k)}
                onKeyDown={(e) => {
                  const by = { ArrowLeft: -1, ArrowRight: 1 }[e.key];
                  if (!by) return;
                  e.preventDefault();
                  e.stopPropagation();
                  save(k, s.start_days + by * (e.shiftKey ? 10 : 1));
                }}
              >
                {s.id}
              </button>
            </div>
          );
        })}
      </div>
    </div>
  );
}

/** Why nothing of what stands beside is seen. */
const toldOf = (results: Results | null) =>
  !results
    ? "the other has no results"
    : results.history
      ? "the other has no such curve"
      : "the other has no computed history";

/** Another floor, or this one as it was, to compare with: its curve lies dashed in the drawing, its sags in the table. */
function ChooseBeside() {
  const { beside, put } = useCompared();
  const candidates = useCandidates();
  const keyOf = (b: Beside) => `${b.kind}|${b.id}`;
  return (
    <select
      aria-label="Beside it"
      title="Compare with another floor or an earlier revision: its curve lies dashed in the drawing, its deflections in the table"
      value={beside ? keyOf(beside) : ""}
      onChange={(e) => put(candidates.find((c) => keyOf(c) === e.target.value) ?? null)}
    >
      <option value="">compare with…</option>
      {candidates.map((c) => (
        <option key={keyOf(c)} value={keyOf(c)}>
          {c.name}
        </option>
      ))}
    </select>
  );
}

/** Before there are results of the history: that it is on its way, or how to get it. */
function Asked() {
  const { run, floor } = usePicked("run", "floor");
  if (run && OPEN.includes(run.state))
    return <span className="chip">on its way; until then the verdict is a quick estimate</span>;
  return (
    <>
      <span className="chip">the verdict is a quick estimate</span>
      <button
        type="button"
        className="small"
        onClick={() =>
          floor && void api.POST("/api/floors/{floor_id}/history", { params: { path: { floor_id: floor.id } } })
        }
      >
        Compute the history
      </button>
    </>
  );
}

/** How the numbers came about. */
function Reckoned(props: { results: Results | null; stale: boolean }) {
  const stages = props.results?.history?.stages ?? [];
  const open = stages.filter((s) => !s.converged).map((s) => s.id);
  const rounds = stages.reduce((t, s) => t + s.rounds, 0);
  if (props.stale) return <span className="chip">out of date</span>;
  if (open.length) return <span className="chip fail">did not come to rest: {open.join(", ")}</span>;
  return <span className="chip">in equilibrium, {rounds} rounds</span>;
}

/** The limit of the whole sag of the governing line, where its curve shows that. */
function limitOf(results: Results | null, curve: Curve): { mm: number; text: string } | null {
  const sag = results?.sags.find((s) => `${s.where}, ${s.limit}` === curve.id);
  return sag && sag.limit === "total" ? { mm: sag.limit_mm, text: "limit" } : null;
}

function CurveOf(props: {
  curve: Curve;
  other: Curve | null;
  x: (day: number) => number;
  wide: number;
  high: number;
  limit: { mm: number; text: string } | null;
  system: Parameters<typeof figureOf>[2];
}) {
  const { curve, other, x, wide, high, limit, system } = props;
  const top =
    Math.max(0.1, limit?.mm ?? 0, ...(other?.w_mm ?? []), ...curve.w_mm.map((w, k) => w + (curve.reach_mm[k] ?? 0))) *
    1.06;
  const least = Math.min(0, ...(other?.w_mm ?? []), ...curve.w_mm.map((w, k) => w - (curve.reach_mm[k] ?? 0)));
  // Downwards on the screen as in the building: what sags goes down.
  const y = (w: number) => TOP + ((w - least) / (top - least)) * (high - TOP - BOTTOM - 4);
  const points = curve.days.map((d, k) => [x(d), curve.w_mm[k] ?? 0, curve.reach_mm[k] ?? 0] as const);
  const path = (values: (readonly [number, number])[]) =>
    values.map(([a, b], k) => `${k ? "L" : "M"}${a.toFixed(1)} ${y(b).toFixed(1)}`).join("");
  const low = points.map(([a, w, r]) => [a, w + r] as const);
  const up = points.map(([a, w, r]) => [a, w - r] as const).reverse();
  const end = points[points.length - 1];
  const one = unitOf("deflection", system).factor;
  const stepOf = niceStep((top - least) / one / 3) * one;
  const levels = Array.from({ length: 8 }, (_, k) => k * stepOf).filter((v) => v <= top);
  return (
    <g>
      {levels.map((v) => (
        <g key={v}>
          <path d={`M${LEFT} ${y(v)}H${wide - RIGHT}`} className="rule" />
          <text x={LEFT - 6} y={y(v) + 4} textAnchor="end">
            {figureOf(v, "mm", system, one > 5 ? 1 : 0)}
          </text>
        </g>
      ))}
      <text x={4} y={TOP - 8}>
        w, {toldUnit("mm", system).unit}
      </text>
      <path d={`${path(low)}${path(up).replace("M", "L")}Z`} className="band" />
      {limit && (
        <>
          <path d={`M${LEFT} ${y(limit.mm)}H${wide - RIGHT}`} className="limit" />
          <text x={wide - RIGHT + 4} y={y(limit.mm) + 4} className="limit-text">
            {limit.text} {figureOf(limit.mm, "mm", system, 1)}
          </text>
        </>
      )}
      {other && <path d={path(other.days.map((d, k) => [x(d), other.w_mm[k] ?? 0] as const))} className="beside" />}
      <path d={path(points.map(([a, w]) => [a, w] as const))} className="deflects" />
      {end && (!limit || Math.abs(y(limit.mm) - y(end[1])) > 11) && (
        <text x={end[0] + 4} y={y(end[1]) + 4} className="ends-at">
          {figureOf(end[1], "mm", system, 1)}
        </text>
      )}
    </g>
  );
}

/** A step of one, two or five of the size asked for. */
function niceStep(about: number): number {
  const ten = 10 ** Math.floor(Math.log10(Math.max(about, 1e-9)));
  return ten * ([1, 2, 5, 10].find((f) => f * ten >= about) ?? 10);
}
