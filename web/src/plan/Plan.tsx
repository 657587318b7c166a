import { useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import { useSession, useStale } from "../app/session";
import type { Kind } from "../model/floor";
import { markOf, SIGN, shown, use } from "../units/format";
import { chosenField, fieldLabel, QUANTITIES, useDisplay } from "./display";
import { FieldCanvas } from "./FieldCanvas";
import { Legend } from "./Legend";
import { place, type Wanted } from "./labels";
import { Lookup } from "./lookup";
import { ModelLayer } from "./ModelLayer";
import { scaleOf } from "./ramps";
import { StripLayer, stripLabels } from "./StripLayer";
import { bounds, path, points } from "./shapes";
import { Toolbar } from "./Toolbar";
import { useView } from "./view";
import { ZoneLayer } from "./ZoneLayer";

const NUDGE = 60;

/** The plan: result field below, model above it, labels on top. */
export function Plan() {
  const { document, results, fields, selection, step, select, openRow, flight, floor } = useSession();
  const display = useDisplay();
  const stale = useStale();
  const frame = useRef<HTMLDivElement>(null);
  const svg = useRef<SVGSVGElement>(null);
  const [size, setSize] = useState({ width: 0, height: 0 });
  const [pointer, setPointer] = useState<{ x: number; y: number } | null>(null);
  const { view, fit, fly, by } = useView(svg, size.width, size.height);

  useLayoutEffect(() => {
    const watch = new ResizeObserver(([entry]) => {
      if (entry) setSize({ width: entry.contentRect.width, height: entry.contentRect.height });
    });
    if (frame.current) watch.observe(frame.current);
    return () => watch.disconnect();
  }, []);

  const box = useMemo(() => bounds((document?.slabs ?? []).map((s) => points(s.outline))), [document?.slabs]);
  const fitted = useRef<number | null>(null);
  useEffect(() => {
    if (document && floor && size.width > 50 && fitted.current !== floor.id) {
      fitted.current = floor.id;
      fit(box, false);
    }
  }, [document, floor, size.width, box, fit]);

  const flown = useRef(0);
  useEffect(() => {
    if (flight && flight.count !== flown.current) {
      flown.current = flight.count;
      fly(flight.x, flight.y);
    }
  }, [flight, fly]);

  useEffect(() => {
    const key = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (target.closest("input, select, textarea, [role=dialog]") || event.ctrlKey || event.metaKey) return;
      if (event.key === "f" || event.key === "F") fit(box);
      else if (event.key === "+" || event.key === "=") by(0, 0, 1.25);
      else if (event.key === "-") by(0, 0, 0.8);
      else if (event.key === "Escape") select(null);
      else if (event.shiftKey && event.key === "ArrowLeft") by(NUDGE, 0);
      else if (event.shiftKey && event.key === "ArrowRight") by(-NUDGE, 0);
      else if (event.shiftKey && event.key === "ArrowUp") by(0, NUDGE);
      else if (event.shiftKey && event.key === "ArrowDown") by(0, -NUDGE);
      else return;
      event.preventDefault();
    };
    window.addEventListener("keydown", key);
    return () => window.removeEventListener("keydown", key);
  }, [fit, by, box, select]);

  const chosen = fields ? chosenField(fields.heads, display) : -1;
  const head = chosen >= 0 ? (fields?.heads[chosen] ?? null) : null;
  const values = chosen >= 0 ? (fields?.values[chosen] ?? null) : null;
  const scale = useMemo(
    () =>
      head &&
      scaleOf(
        head.least,
        head.greatest,
        head.quantity === "steel" || (head.quantity === "w" && head.least > -0.15 * head.greatest),
      ),
    [head],
  );
  const lookup = useMemo(() => (fields ? new Lookup(fields) : null), [fields]);
  const unit = head ? (fields?.units[head.quantity] ?? "") : "";
  const title = head ? `${QUANTITIES.find(([k]) => k === head.quantity)?.[1]}, ${fieldLabel(head)}` : "";
  const toScreen = useCallback((x: number, y: number) => ({ x: view.x + view.k * x, y: view.y - view.k * y }), [view]);

  const extremes = useMemo(() => {
    if (!fields || !values) return [];
    let [low, high] = [0, 0];
    for (let i = 1; i < values.length; i++) {
      if ((values[i] as number) < (values[low] as number)) low = i;
      if ((values[i] as number) > (values[high] as number)) high = i;
    }
    const at = (i: number) => ({
      x: fields.xy[2 * i] as number,
      y: fields.xy[2 * i + 1] as number,
      v: values[i] as number,
    });
    return head && head.quantity !== "steel" && head.quantity !== "w" ? [at(high), at(low)] : [at(high)];
  }, [fields, values, head]);

  const strips = useMemo(
    () => (results?.strips ?? []).filter((s) => s.direction === display.strips && s.kind !== "middle"),
    [results, display.strips],
  );
  const stripChosen =
    selection?.type === "row" && selection.check === "flexure"
      ? selection.where.replace(/^(top|bottom) [xy], /, "")
      : null;
  const zoneChosen =
    selection?.type === "row" && selection.check === "punching"
      ? selection.where
      : selection?.type === "object" && selection.kind === "columns"
        ? selection.id
        : null;
  const worstZones = useMemo(() => {
    const worst = new Map<string, NonNullable<typeof results>["zones"][number]>();
    for (const z of results?.zones ?? [])
      if ((worst.get(z.column)?.utilisation ?? -1) < z.utilisation) worst.set(z.column, z);
    return [...worst.values()];
  }, [results]);
  const sagChosen =
    selection?.type === "row" && selection.check === "deflection"
      ? results?.sags.find((s) => s.where === selection.where)
      : null;

  const wanted: Wanted[] = [];
  if (extremes.length && display.quantity !== "none")
    for (const e of extremes)
      wanted.push({ ...toScreen(e.x, e.y), text: `${shown(e.v, unit)} ${unit}`, priority: 50, callout: true });
  if (display.zones)
    for (const z of worstZones) {
      const mark = markOf(z.utilisation);
      wanted.push({
        ...toScreen(...z.at),
        text: `${z.column} ${use(z.utilisation)} ${SIGN[mark]}`,
        tone: mark,
        priority: 10 + z.utilisation,
        callout: mark === "fail" || zoneChosen === z.column,
      });
    }
  if (display.strips !== "off" && results) wanted.push(...stripLabels(strips, view));
  if (display.labels && document) {
    for (const c of document.columns ?? [])
      if (view.k > 17 && !display.zones) {
        const [x = 0, y = 0] = c.at;
        wanted.push({ ...toScreen(x, y), text: c.id, tone: "id", priority: 2 });
      }
    if (view.k > 14 && ["build", "arrange", "load"].includes(step))
      for (const s of [...document.slabs, ...(document.openings ?? [])]) {
        const b = bounds([points(s.outline)]);
        wanted.push({ ...toScreen((b.x0 + b.x1) / 2, (b.y0 + b.y1) / 2), text: s.id, tone: "id", priority: 1 });
      }
    if (step === "load")
      for (const l of document.loads ?? []) {
        const at = l.at ?? (l.line ? mid(l.line) : l.outline ? mid(l.outline) : null);
        if (!at) continue;
        const value =
          l.kind === "area"
            ? `${shown(l.q_kPa ?? 0, "kPa", 1)} kPa`
            : l.kind === "line"
              ? `${shown(l.q_kN_m?.[0] ?? 0, "kN/m", 1)} kN/m`
              : `${shown(l.F_kN ?? 0, "kN")} kN`;
        wanted.push({ ...toScreen(at[0] ?? 0, at[1] ?? 0), text: value, tone: "load", priority: 4 });
      }
    if (step === "arrange")
      for (const p of results?.panels ?? []) {
        const b = bounds([p.outline]);
        wanted.push({ ...toScreen((b.x0 + b.x1) / 2, (b.y0 + b.y1) / 2), text: p.id, tone: "id", priority: 3 });
      }
  }
  const labels = place(wanted, size.width, size.height, CORNERS(size.width));
  const governing = governingPanels(useSession.getState().results, selection);

  const pick = (kind: Kind, id: string) => select({ type: "object", kind, id });
  const openZone = (column: string) => {
    const row = results?.rows
      .filter((r) => r.check === "punching" && r.where === column)
      .sort((a, b) => (b.utilisation ?? 0) - (a.utilisation ?? 0))[0];
    if (row) openRow({ ...row, at: null });
  };
  const openStrip = (label: string) => {
    const row = results?.rows.find((r) => r.check === "flexure" && r.where.endsWith(label));
    if (row) openRow({ ...row, at: null });
  };

  const under =
    pointer && lookup && values
      ? lookup.at(values, (pointer.x - view.x) / view.k, (view.y - pointer.y) / view.k)
      : null;
  const bar = niceLength(110 / view.k);

  return (
    <div className="plan" ref={frame}>
      <FieldCanvas
        fields={fields}
        values={values}
        scale={scale}
        view={view}
        width={size.width}
        height={size.height}
        stale={stale}
      />
      <svg
        ref={svg}
        width={size.width}
        height={size.height}
        role="group"
        aria-label="Plan"
        onClick={() => select(null)}
        onKeyDown={() => undefined}
        onPointerMove={(e) => {
          const r = e.currentTarget.getBoundingClientRect();
          setPointer({ x: e.clientX - r.left, y: e.clientY - r.top });
        }}
        onPointerLeave={() => setPointer(null)}
      >
        <g transform={`translate(${view.x} ${view.y}) scale(${view.k} ${-view.k})`}>
          {(document?.grid ?? []).map((g) => (
            <path key={g.id} d={path(g.line as [number, number][], false)} className="grid" />
          ))}
          {document && (
            <ModelLayer
              document={document}
              selection={selection}
              pick={pick}
              loads={step === "load"}
              mats={step === "steel" && view.k > 24}
            />
          )}
          {(step === "arrange" || governing.size > 0) &&
            (results?.panels ?? []).map((p) => (
              <path key={p.id} d={path(p.outline)} className={`panel ${governing.has(p.id) ? "loaded" : ""}`} />
            ))}
          {results && display.strips !== "off" && <StripLayer strips={strips} chosen={stripChosen} pick={openStrip} />}
          {results && display.zones && <ZoneLayer zones={results.zones} chosen={zoneChosen} pick={openZone} />}
          {sagChosen && <path d={path(sagChosen.ends, false)} className="sag-line" />}
        </g>
        {(document?.grid ?? []).map((g) => {
          const [[ax = 0, ay = 0]] = g.line as [[number, number]];
          const p = toScreen(ax, ay);
          return (
            <text key={g.id} x={p.x} y={p.y} className="grid-label" dy={4}>
              {g.id}
            </text>
          );
        })}
        {extremes.map((e) => {
          const p = toScreen(e.x, e.y);
          return <circle key={`${e.x},${e.y},${e.v}`} cx={p.x} cy={p.y} r={3.5} className="extreme" />;
        })}
        {labels.map((l) => (
          <g key={`${l.text}${l.x},${l.y}`} className={`label ${l.tone ?? ""} ${l.leader ? "callout" : ""}`}>
            {l.leader && (
              <line
                x1={l.x}
                y1={l.y}
                x2={l.left + (l.left > l.x ? 0 : l.width)}
                y2={l.top + l.height / 2}
                className="leader"
              />
            )}
            <rect x={l.left} y={l.top} width={l.width} height={l.height} rx={3} />
            <text x={l.left + l.width / 2} y={l.top + l.height / 2 + 4}>
              {l.text}
            </text>
          </g>
        ))}
        <g className="scale-bar" transform={`translate(${size.width - 24 - bar * view.k} ${size.height - 14})`}>
          <path d={`M0 -5V0H${bar * view.k}V-5`} />
          <text x={(bar * view.k) / 2} y={-5}>
            {shown(bar, "", bar < 1 ? 1 : 0)} m
          </text>
        </g>
      </svg>
      <Toolbar heads={fields?.heads ?? []} shown={head} fit={() => fit(box)} />
      {head && scale && <Legend title={title} unit={unit} scale={scale} stale={stale} />}
      {display.strips !== "off" && results && (
        <p className="legend words">
          Column strips along {display.strips}: ultimate moment, kNm a strip, over all arrangements. Sagging on the side
          of the stretched face.
        </p>
      )}
      {pointer && under !== null && (
        <output className="reading" style={{ left: Math.min(pointer.x + 14, size.width - 150), top: pointer.y + 16 }}>
          {shown(under, unit)} {unit}
        </output>
      )}
    </div>
  );
}

/** Where the toolbar and the legend lie; labels keep out of there. */
const CORNERS = (width: number) => [
  new DOMRect(0, 0, Math.min(620, width * 0.8), 52),
  new DOMRect(width - 300, 44, 300, 84),
];

function mid(list: number[][]): [number, number] {
  const n = list.length;
  return [list.reduce((t, p) => t + (p[0] ?? 0), 0) / n, list.reduce((t, p) => t + (p[1] ?? 0), 0) / n];
}

function niceLength(rough: number): number {
  const power = 10 ** Math.floor(Math.log10(rough));
  const unit = rough / power;
  return power * (unit >= 5 ? 5 : unit >= 2 ? 2 : 1);
}

function governingPanels(
  results: ReturnType<typeof useSession.getState>["results"],
  selection: ReturnType<typeof useSession.getState>["selection"],
) {
  if (selection?.type !== "row") return new Set<string>();
  const row = results?.rows.find((r) => r.check === selection.check && r.where === selection.where);
  return new Set((row?.trace?.panels ?? []).map((p) => p.split(": ").pop() as string));
}
