import { lazy, Suspense, useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import { useDisplay } from "../display/display";
import { SURFACES } from "../kinds";
import { drawn } from "../model/bars";
import { itemOf, type Ref, type Slice, type Vertex } from "../model/floor";
import { panelsOf, rowOf, type Zone } from "../model/results";
import { path } from "../model/shapes";
import { useDiagrams } from "../readings/diagrams";
import { stationOf } from "../readings/section";
import { useArrangement } from "../readings/shown";
import { usePicked, useSession, useStale } from "../session";
import { shown } from "../units/format";
import { measured, unitOf, useUnits } from "../units/quantities";
import { toldUnit } from "../units/results";
import { BarLayer } from "./BarLayer";
import { bareOf } from "./bare";
import { CommentLayer } from "./CommentLayer";
import { DIRECTED, DirectionLayer } from "./DirectionLayer";
import { DrawingLayer, useDrawing, useFloorDrawing } from "./DrawingLayer";
import { extent, niceLength } from "./extent";
import { FrameLayer, framesOf } from "./FrameLayer";
import { useField } from "./field";
import { Labels } from "./Labels";
import { Legend } from "./Legend";
import { MeshLayer } from "./MeshLayer";
import { ChosenLayer, ModelLayer } from "./ModelLayer";
import { PinLayer } from "./PinLayer";
import { PointerReading, usePointer } from "./PointerReading";
import { useReactions } from "./reactionLabels";
import { SliceLayer } from "./SliceLayer";
import { StripLayer } from "./StripLayer";
import { MARGIN, useSettled } from "./settled";
import { Toolbar } from "./Toolbar";
import { TributaryLayer } from "./TributaryLayer";
import { DrawBar } from "./tools/DrawBar";
import { EntryStrip } from "./tools/EntryStrip";
import { GestureLayer } from "./tools/GestureLayer";
import { GoAlong } from "./tools/GoAlong";
import { basis, useGesture } from "./tools/gesture";
import { Handles } from "./tools/Handles";
import { inWindow } from "./tools/selection";
import { type Snap, SnapIndex } from "./tools/snap";
import { BUILDING, usePlanKeys } from "./usePlanKeys";
import { usePlanLabels } from "./usePlanLabels";
import { useView } from "./view";
import { ZoneLayer } from "./ZoneLayer";

/** Comes after the first paint: it draws by a library as large as all the rest. */
const FieldCanvas = lazy(() => import("./FieldCanvas").then((m) => ({ default: m.FieldCanvas })));

/** The plan: result field below, model above it, labels on top. */
export function Plan() {
  const {
    document,
    results,
    selection,
    chosen: picked,
    findings,
    step,
    select,
    openRow,
    flight,
    floor,
  } = usePicked(
    "document",
    "results",
    "selection",
    "chosen",
    "findings",
    "step",
    "select",
    "openRow",
    "flight",
    "floor",
  );
  const tool = useGesture((g) => g.tool);
  const system = useUnits((u) => u.system);
  const drawing = useDrawing((d) => d.shown);
  useFloorDrawing();
  const [span, setSpan] = useState<{ x0: number; y0: number; x1: number; y1: number } | null>(null);
  const editing = BUILDING.includes(step);
  const display = useDisplay();
  const stale = useStale();
  const frame = useRef<HTMLDivElement>(null);
  const surface = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState({ width: 0, height: 0 });
  const { view, fit, fly, by } = useView(surface, size.width, size.height);

  useLayoutEffect(() => {
    const watch = new ResizeObserver(([entry]) => {
      if (entry) setSize({ width: entry.contentRect.width, height: entry.contentRect.height });
    });
    if (frame.current) watch.observe(frame.current);
    return () => watch.disconnect();
  }, []);

  const box = useMemo(() => extent(document, drawing, true), [document, drawing]);
  const fitted = useRef("");
  // A floor that is opened is shown whole; one that has no slab yet, whenever its grid or drawing grows, and with its first slab.
  const begun = (document?.slabs.length ?? 0) > 0;
  const wanted = floor ? `${floor.id} ${begun ? "" : JSON.stringify(box)}` : "";
  useEffect(() => {
    if (document && wanted && size.width > 50 && fitted.current !== wanted) {
      fitted.current = wanted;
      // The grid of a building may reach far beyond one of its floors.
      fit(extent(document, drawing, false), false);
    }
  }, [document, drawing, wanted, size.width, fit]);

  const flown = useRef(0);
  useEffect(() => {
    if (flight && flight.count !== flown.current) {
      flown.current = flight.count;
      fly(flight.x, flight.y, flight.wide);
    }
  }, [flight, fly]);

  usePlanKeys(document, display.hidden, () => fit(box), by);

  const viewNow = useRef(view);
  viewNow.current = view;

  const index = useMemo(
    () =>
      document
        ? new SnapIndex(document, display.hidden, drawing && display.drawing ? drawing.lines.map((l) => l.points) : [])
        : null,
    [document, display.hidden, drawing, display.drawing],
  );
  const snap = useCallback(
    (x: number, y: number, free: boolean): Snap => {
      if (free || !index) return { x, y, kind: null };
      return index.find(x, y, 11 / view.k, basis(useGesture.getState().points, useGesture.getState().tool));
    },
    [index, view.k],
  );

  const field = useField();
  const meshFields = useSession((s) => s.fields);
  const { fields, values, scale, unit, title, lookup, extremes } = field;
  const slices = useMemo(
    () => (display.hidden.has("slices") || step !== "analyse" ? [] : ((document?.slices ?? []) as Slice[])),
    [document?.slices, display.hidden, step],
  );
  const diagrams = useDiagrams(slices, field.chosen?.of ?? null);
  const reactions = useReactions(field.chosen, display.reactions && !editing);
  const settled = useSettled(view, size.width, size.height);
  const toScreen = useCallback(
    (x: number, y: number) => ({ x: settled.x + settled.k * x, y: settled.y - settled.k * y }),
    [settled],
  );
  const slide = view.k / settled.k;

  const strips = useMemo(
    () => (results?.strips ?? []).filter((s) => s.direction === display.strips && s.kind !== "middle"),
    [results, display.strips],
  );
  // What is selected of the checks: the row, and with it the strip, zone or line that it is about.
  const row = selection?.type === "row" ? rowOf(results, selection.key) : undefined;
  const chosenOf = (kind: string) => (row?.id.of.kind === kind ? row.id.of.id : null);
  const station = selection?.type === "station" ? selection : row ? stationOf(row, results) : null;
  const stripChosen = station?.strip ?? chosenOf("strips");
  const strip = station ? results?.strips.find((s) => s.id === station.strip) : undefined;
  const cut = station && strip?.ends[strip.s_m.findIndex((s) => Math.abs(s - station.s) < 1e-3)];
  const zoneChosen =
    (row?.check === "punching" ? row.id.of.id : null) ??
    (selection?.type === "object" && ["columns", "walls", "supports", "loads"].includes(selection.kind)
      ? selection.id
      : null);
  const zoneOpen = row?.check === "punching" ? (results?.zones.find((z) => z.row === row.id.key) ?? null) : null;
  const worstZones = useMemo(() => {
    const worst = new Map<string, Zone>();
    for (const z of results?.zones ?? [])
      if ((worst.get(z.of + z.id)?.utilisation ?? -1) < z.utilisation) worst.set(z.of + z.id, z);
    return [...worst.values()];
  }, [results]);
  const barsOf = display.quantity === "steel" && display.of ? display.of : "top x";
  const barChosen = selection?.type === "bars" ? selection.mark : null;
  const bars = useMemo(
    () => drawn(results?.bars ?? [], display.bars ? barsOf : null, barChosen),
    [results, display.bars, barsOf, barChosen],
  );
  const column = selection?.type === "object" && selection.kind === "columns" ? selection.id : null;
  const tributary = useMemo(() => {
    if (selection?.type !== "object" || step !== "analyse") return null;
    return results?.tributary.find((t) => t.kind === selection.kind && t.id === selection.id) ?? null;
  }, [results, selection, step]);
  const frames = useMemo(() => framesOf(results?.frames ?? [], column), [results, column]);
  const sagChosen = row?.id.of.kind === "lines" ? results?.sags.find((s) => s.row === row.id.key) : null;
  const bare = useMemo(() => bareOf(results, step, display.strips), [results, step, display.strips]);

  const placeChosen = selection?.type === "place" ? selection.at : null;

  const labels = usePlanLabels({
    field,
    zones: worstZones,
    zoneChosen,
    zoneOpen,
    strips,
    bars,
    barChosen,
    frames,
    tributary,
    slices,
    diagrams,
    reactions,
    settled,
    size,
    editing,
  });
  const { panels: arrangement, told } = useArrangement();
  const words = [
    field.problem || (arrangement && told),
    reactions && `Reactions; below the force Mx | My in ${toldUnit("kNm", system).unit}.`,
  ].filter((sentence): sentence is string => !editing && !!sentence);
  const governing = arrangement ?? panelsOf(row?.trace?.panels ?? []);

  const pick = useCallback((ref: Ref, more: boolean) => {
    const session = useSession.getState();
    const pointer = usePointer.getState().at;
    const { x, y, k } = viewNow.current;
    // Where results are read, a click on the floor itself asks for the value there.
    if (!BUILDING.includes(session.step) && SURFACES.includes(ref.kind) && pointer) {
      session.select({ type: "place", at: [(pointer.x - x) / k, (y - pointer.y) / k] });
      return;
    }
    if (!more) session.choose([ref]);
    else {
      const rest = session.chosen.filter((r) => r.kind !== ref.kind || r.id !== ref.id);
      session.choose(rest.length < session.chosen.length ? rest : [...rest, ref]);
    }
  }, []);
  const openKey = (key: string | undefined) => {
    const found = key ? rowOf(results, key) : undefined;
    if (found) openRow({ ...found, at: null });
  };
  const openStrip = (id: string) =>
    openKey(results?.rows.find((r) => r.id.of.kind === "strips" && r.id.of.id === id)?.id.key);

  // The sheet is drawn for the view at rest, with a margin; panning and zooming only slide it.
  const margin = useMemo(() => {
    const [x, y] = [Math.round(MARGIN * size.width), Math.round(MARGIN * size.height)];
    return { x, y, width: size.width + 2 * x, height: size.height + 2 * y };
  }, [size]);
  const drawnView = useMemo(
    () => ({ x: settled.x + margin.x, y: settled.y + margin.y, k: settled.k }),
    [settled, margin],
  );
  // A round length in the project's own unit.
  const one = 1 / unitOf("length", system).factor;
  const bar = one * niceLength(110 / view.k / one);

  const [only] = picked;
  const handled =
    editing && !tool && picked.length === 1 && only && document
      ? ((item) => (item?.outline ?? item?.line ?? null) as Vertex[] | null)(itemOf(document, only))
      : null;
  const planOf = (event: { clientX: number; clientY: number }) => {
    const r = (surface.current as HTMLElement).getBoundingClientRect();
    return { x: (event.clientX - r.left - view.x) / view.k, y: (view.y - event.clientY + r.top) / view.k };
  };

  return (
    <div className={`plan ${tool ? "drawing" : ""}`} ref={frame}>
      <div
        id="plan"
        className="surface"
        ref={surface}
        role="group"
        aria-label="Plan"
        onClickCapture={(event) => {
          if (!tool) return;
          event.stopPropagation();
          const at = planOf(event);
          const s = snap(at.x, at.y, event.altKey);
          useGesture.getState().set({ cursor: s });
          useGesture.getState().point([s.x, s.y]);
        }}
        onDoubleClick={() => tool && useGesture.getState().finish()}
        onClick={(event) => !event.shiftKey && select(null)}
        onKeyDown={() => undefined}
        onPointerDown={(event) => {
          if (!event.shiftKey || tool || event.button) return;
          const at = planOf(event);
          setSpan({ x0: at.x, y0: at.y, x1: at.x, y1: at.y });
          event.currentTarget.setPointerCapture(event.pointerId);
        }}
        onPointerMove={(e) => {
          const r = e.currentTarget.getBoundingClientRect();
          usePointer.setState({ at: { x: e.clientX - r.left, y: e.clientY - r.top } });
          const at = planOf(e);
          if (tool) useGesture.getState().set({ cursor: snap(at.x, at.y, e.altKey) });
          if (span) setSpan({ ...span, x1: at.x, y1: at.y });
        }}
        onPointerUp={(event) => {
          if (!span || !document) return;
          setSpan(null);
          const found = inWindow(document, display.hidden, span, event.altKey);
          if (Math.abs(span.x1 - span.x0) * view.k > 4) useSession.getState().choose(found);
        }}
        onPointerLeave={() => usePointer.setState({ at: null })}
      >
        <div
          className="drawn"
          style={{
            left: -margin.x,
            top: -margin.y,
            width: margin.width,
            height: margin.height,
            transform: `translate(${view.x + margin.x - slide * (settled.x + margin.x)}px, ${view.y + margin.y - slide * (settled.y + margin.y)}px) scale(${slide})`,
          }}
        >
          <Suspense fallback={null}>
            <FieldCanvas
              fields={fields}
              values={values}
              scale={scale}
              view={drawnView}
              width={margin.width}
              height={margin.height}
              stale={stale}
            />
          </Suspense>
          <svg
            width={margin.width}
            height={margin.height}
            viewBox={`${-margin.x} ${-margin.y} ${margin.width} ${margin.height}`}
            role="group"
            aria-label="What stands on the plan"
          >
            <g transform={`translate(${settled.x} ${settled.y}) scale(${settled.k} ${-settled.k})`}>
              {drawing && display.drawing && <DrawingLayer drawing={drawing} />}
              {!display.hidden.has("grid") &&
                (document?.grid ?? []).map((g) => (
                  <path key={g.id} d={path(g.line as [number, number][], false)} className="grid" />
                ))}
              {document && (
                <ModelLayer
                  document={document}
                  hidden={display.hidden}
                  pick={pick}
                  loads={step === "load" ? (display.loadsOf ?? "all") : null}
                  panels={step === "arrange"}
                  mats={step === "steel" && settled.k > 24}
                  tendons={step === "tendons"}
                />
              )}
              {display.mesh && meshFields && <MeshLayer fields={meshFields} />}
              {document && <ChosenLayer document={document} chosen={picked} />}
              {(step === "arrange" || governing.size > 0) &&
                (results?.panels ?? []).map((p) => (
                  <path
                    key={p.id}
                    d={path(p.outline)}
                    className={`panel ${governing.has(p.id) ? "loaded" : ""}`}
                    data-panel={p.id}
                    data-loaded={governing.has(p.id)}
                  />
                ))}
              {results && display.strips !== "off" && (
                <StripLayer strips={strips} chosen={stripChosen} pick={openStrip} />
              )}
              {bars.length > 0 && (
                <BarLayer bars={bars} chosen={barChosen} pick={(mark) => select({ type: "bars", mark })} />
              )}
              {cut && <path d={`M${cut[0].join(" ")}L${cut[1].join(" ")}`} className="cut-of" data-testid="cut" />}
              {tributary && <TributaryLayer part={tributary} />}
              {frames.length > 0 && <FrameLayer frames={frames} />}
              {bare.map((u) => (
                <path key={u.row} d={path(u.outline ?? [])} className="bare" data-bare={u.row} />
              ))}
              {results && display.zones && (
                <ZoneLayer zones={results.zones} chosen={zoneChosen} row={row?.id.key ?? null} pick={openKey} />
              )}
              {results && slices.length > 0 && (
                <SliceLayer
                  slices={slices}
                  diagrams={diagrams}
                  chosen={selection?.type === "object" && selection.kind === "slices" ? selection.id : null}
                  pick={(id) => select({ type: "object", kind: "slices", id })}
                />
              )}
              {values && meshFields && field.chosen && DIRECTED.includes(display.quantity) && !display.minus && (
                <DirectionLayer
                  fields={meshFields}
                  quantity={display.quantity}
                  chosen={field.chosen}
                  cell={26 / settled.k}
                />
              )}
              {placeChosen && (
                <path
                  d={`M${placeChosen[0] - 9 / settled.k} ${placeChosen[1]}h${18 / settled.k}M${placeChosen[0]} ${placeChosen[1] - 9 / settled.k}v${18 / settled.k}`}
                  className="asked"
                />
              )}
              {sagChosen && <path d={path(sagChosen.ends, false)} className="sag-line" />}
            </g>
            {!display.hidden.has("grid") &&
              (document?.grid ?? []).map((g) => {
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
            <Labels labels={labels} />
            {editing && <PinLayer findings={findings} view={settled} />}
            {step === "review" && <CommentLayer view={settled} />}
          </svg>
        </div>
        <svg className="live" width={size.width} height={size.height} role="group" aria-label="What is being drawn">
          <g transform={`translate(${view.x} ${view.y}) scale(${view.k} ${-view.k})`}>
            {span && (
              <rect
                x={Math.min(span.x0, span.x1)}
                y={Math.min(span.y0, span.y1)}
                width={Math.abs(span.x1 - span.x0)}
                height={Math.abs(span.y1 - span.y0)}
                className="window"
              />
            )}
          </g>
          {handled && only && document && (
            <Handles
              view={view}
              target={only}
              vertices={handled}
              closed={Boolean(itemOf(document, only)?.outline)}
              snap={snap}
            />
          )}
          {document && <GestureLayer view={view} document={document} />}
          <g className="scale-bar" transform={`translate(${size.width - 24 - bar * view.k} ${size.height - 14})`}>
            <path className="around" d={`M0 -5V0H${bar * view.k}V-5`} />
            <path d={`M0 -5V0H${bar * view.k}V-5`} />
            <text x={(bar * view.k) / 2} y={-5}>
              {system === "SI" ? `${shown(bar, "", bar < 1 ? 1 : 0)} m` : measured(bar, "length", system)}
            </text>
          </g>
        </svg>
      </div>
      {editing ? <DrawBar fit={() => fit(box)} /> : <Toolbar heads={meshFields?.heads ?? []} fit={() => fit(box)} />}
      <EntryStrip view={view} height={size.height} />
      <GoAlong />
      {document && document.slabs.length === 0 && !tool && (
        <p className="invitation">
          An empty floor. Press <kbd>S</kbd> to draw a slab, <kbd>G</kbd> for a grid line, or bring in a drawing from
          the “Set out” step.
        </p>
      )}
      {values && scale && !editing && (
        <Legend title={title} unit={unit} scale={scale} spacing={field.spacing} stale={stale} />
      )}
      {words.length > 0 && (
        <div className={`legend words ${values ? "low" : ""}`} data-testid="told">
          {words.map((sentence) => (
            <p key={sentence}>{sentence}</p>
          ))}
        </div>
      )}
      {display.strips !== "off" && results && (
        <p className="legend words">
          Column strips along {display.strips}: ultimate moment, {toldUnit("kNm", system).unit} a strip, over all
          arrangements. Sagging on the side of the stretched face.
        </p>
      )}
      <PointerReading
        view={view}
        width={size.width}
        places={editing}
        lookup={lookup}
        values={values}
        unit={unit}
        step={scale?.step}
      />
    </div>
  );
}
