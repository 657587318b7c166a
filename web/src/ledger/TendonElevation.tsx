import { type KeyboardEvent, type PointerEvent, useLayoutEffect, useMemo, useRef, useState } from "react";
import { mapped } from "../kinds/edits";
import type { FloorDocument, Labelled, Ref } from "../model/floor";
import type { Results } from "../model/results";
import {
  type Concrete,
  concreteAt,
  drapeAt,
  levelAt,
  liftsOf,
  type ProfilePoint,
  piecesOf,
  pointAt,
  supportsAlong,
  type Tendon,
} from "../model/tendons";
import { usePicked } from "../session";
import { read, unitOf, useUnits, written } from "../units/quantities";

const LEFT = 56;
const RIGHT = 20;
const TOP = 22;
/** Heights are drawn so many times as large as lengths, at most. */
const MOST = 12;
const TANGENTS = ["level", "free", "kink"] as const;

/** The elevation of the chosen tendon, or of all of its group: points to drag, to walk with arrows, and to type. */
export function TendonElevation(props: { document: FloorDocument; results: Results | null }) {
  const { document, results } = props;
  const { chosen, edit, choose } = usePicked("chosen", "edit", "choose");
  const system = useUnits((u) => u.system);
  const [together, setTogether] = useState(false);
  const [point, setPoint] = useState<number | null>(null);
  const [dragged, setDragged] = useState<ProfilePoint[] | null>(null);
  const frame = useRef<HTMLDivElement>(null);
  const [{ wide, high }, setSize] = useState({ wide: 900, high: 130 });
  useLayoutEffect(() => {
    const watch = new ResizeObserver(([entry]) => {
      if (entry)
        setSize({ wide: Math.max(entry.contentRect.width, 300), high: Math.max(entry.contentRect.height, 90) });
    });
    if (frame.current) watch.observe(frame.current);
    return () => watch.disconnect();
  }, []);
  const all = (document.tendons ?? []) as Tendon[];
  const ref = chosen.find((r) => r.kind === "tendons");
  const tendon = all.find((t) => t.id === ref?.id) ?? all[0];
  const line = tendon?.line;
  const outline = useMemo(() => {
    if (!line) return [];
    const length = tendon.profile[tendon.profile.length - 1]?.s_m ?? 0;
    const count = Math.max(40, Math.round(length / 0.15));
    return Array.from({ length: count + 1 }, (_, k) => {
      const s = (length * k) / count;
      return { s, at: concreteAt(document, pointAt(line, Math.max(0.01, Math.min(length - 0.01, s)))) };
    });
  }, [document, line, tendon]);
  const supports = useMemo(() => (line ? supportsAlong(document, line) : []), [document, line]);
  if (!tendon || !line) return <p className="empty">Draw a tendon, or lay tendons by the strips.</p>;
  const strand = (document.strands ?? []).find((s) => s.id === tendon.strand);
  const duct = (strand?.duct_mm ?? 16) / 2;
  const profile = dragged ?? tendon.profile;
  const length = profile[profile.length - 1]?.s_m ?? 1;
  const levels = outline.flatMap((o) => (o.at ? [o.at.top, o.at.soffit] : []));
  const [lowest, highest] = [Math.min(...levels, -50), Math.max(...levels, 0)];
  const kx = (wide - LEFT - RIGHT) / length;
  const room = high - TOP - 30;
  const ky = Math.min(room / (highest - lowest), (MOST * kx) / 1000);
  const x = (s: number) => LEFT + kx * s;
  const y = (z: number) => TOP + ky * (highest - z);
  const pieces = piecesOf(profile);
  const lifts = liftsOf(pieces, length, results?.tendons.find((t) => t.id === tendon.id)?.mean_kN ?? 0);
  const count = 160;
  const curve = Array.from({ length: count + 1 }, (_, k) => {
    const s = (length * k) / count;
    return `${k ? "L" : "M"}${x(s).toFixed(1)} ${y(levelAt(pieces, s)).toFixed(1)}`;
  }).join("");
  const group = tendon.group ? all.filter((t) => t.group === tendon.group) : [tendon];
  const alike = group.filter((t) => t.profile.length === tendon.profile.length);
  const refs: Ref[] = (together ? alike : [tendon]).map((t) => ({ kind: "tendons", id: t.id }));
  const save = (k: number, change: Partial<ProfilePoint>, told: string) => {
    const by = change.z_mm === undefined ? 0 : change.z_mm - (tendon.profile[k]?.z_mm ?? 0);
    return edit({
      line: `${refs.length > 1 ? `${refs.length} tendons of ${tendon.group}` : `Tendon ${tendon.id}`}: ${told}`,
      change: (d) =>
        mapped(d, refs, (i) => {
          const points = i.profile as ProfilePoint[];
          // Others of a band move by as much: they may lie at levels of their own.
          return {
            ...i,
            profile: points.map((p, n) =>
              n === k ? { ...p, ...change, ...(by && i.id !== tendon.id ? { z_mm: p.z_mm + by } : {}) } : p,
            ),
          } as Labelled;
        }),
      picks: [{ kind: "tendons", id: tendon.id }],
    });
  };
  const drag = (k: number) => (event: PointerEvent<SVGElement>) => {
    event.stopPropagation();
    setPoint(k);
    const element = event.currentTarget;
    element.setPointerCapture(event.pointerId);
    const start = { y: event.clientY, z: tendon.profile[k]?.z_mm ?? 0 };
    let z = start.z;
    const move = (e: globalThis.PointerEvent) => {
      z = Math.round(start.z - (e.clientY - start.y) / ky);
      setDragged(tendon.profile.map((p, n) => (n === k ? { ...p, z_mm: z } : p)));
    };
    element.addEventListener("pointermove", move);
    element.addEventListener(
      "pointerup",
      () => {
        element.removeEventListener("pointermove", move);
        setDragged(null);
        if (z !== start.z) void save(k, { z_mm: z }, `point ${k + 1} at ${z} mm`);
      },
      { once: true },
    );
  };
  const keys = (k: number) => (event: KeyboardEvent) => {
    const by = { ArrowUp: 1, ArrowDown: -1 }[event.key];
    const to = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (by !== undefined) {
      const z = (tendon.profile[k]?.z_mm ?? 0) + by * (event.shiftKey ? 10 : 1);
      void save(k, { z_mm: z }, `point ${k + 1} at ${z} mm`);
    } else if (to !== undefined) {
      const next = Math.max(0, Math.min(profile.length - 1, k + to));
      setPoint(next);
      (event.currentTarget.parentElement?.querySelector(`[data-point="${next}"]`) as SVGElement | null)?.focus();
    } else return;
    event.preventDefault();
    event.stopPropagation();
  };
  const here = point !== null ? profile[point] : undefined;
  /** A face of the concrete as a line with upright steps. */
  const face = (places: typeof outline, level: (at: Concrete) => number) =>
    places
      .map((o, i) => {
        const half = x((o.s + (places[i - 1]?.s ?? o.s)) / 2).toFixed(1);
        return `H${half}V${y(o.at ? level(o.at) : highest).toFixed(1)}H${x(o.s).toFixed(1)}`;
      })
      .join("");
  const top = `M${x(0)} ${y(outline[0]?.at?.top ?? highest).toFixed(1)}${face(outline, (at) => at.top)}`;
  const soffit = face([...outline].reverse(), (at) => at.soffit);
  const bare = profile.map((p) => {
    const at = concreteAt(document, pointAt(line, Math.max(0.02, Math.min(length - 0.02, p.s_m))));
    return at ? p.z_mm + duct > at.top - at.above || p.z_mm - duct < at.soffit + at.below : false;
  });
  const unit = unitOf("cover", system).unit;
  const drape = point !== null ? drapeAt(profile, point) : null;
  const at = here ? concreteAt(document, pointAt(line, Math.max(0.02, Math.min(length - 0.02, here.s_m)))) : null;
  return (
    <div className="strip-diagram tendon-elevation">
      <div className="button-row">
        <select
          aria-label="Tendon"
          value={tendon.id}
          onChange={(e) => {
            setPoint(null);
            choose([{ kind: "tendons", id: e.target.value }]);
          }}
        >
          {all.map((t) => (
            <option key={t.id} value={t.id}>
              {t.id}
              {t.group ? `, ${t.group}` : ""}
            </option>
          ))}
        </select>
        {alike.length > 1 && (
          <label>
            <input type="checkbox" checked={together} onChange={(e) => setTogether(e.target.checked)} /> with the{" "}
            {alike.length} of {tendon.group}
          </label>
        )}
        <span className="quiet">
          heights × {Math.round((1000 * ky) / kx)}; drag a point or type its level
          {bare.some((b, k) => b && k > 0 && k < profile.length - 1) && "; in red: too little cover"}
          {lifts.length > 0 && `; ↑ lift, ${unitOf("lineload", system).unit}`}
        </span>
        {here && point !== null && (
          <span className="point-of" key={`${tendon.id}:${point}:${here.z_mm}`}>
            <label>
              Level, {unit}{" "}
              <input
                aria-label="Level of the point"
                defaultValue={written(here.z_mm, "cover", system)}
                onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
                onBlur={(e) => {
                  const z = read(e.target.value, "cover", system);
                  if (z === null) e.target.value = written(here.z_mm, "cover", system);
                  else if (Math.abs(z - here.z_mm) > 1e-9)
                    void save(point, { z_mm: z }, `point ${point + 1} at ${z} mm`);
                }}
              />
            </label>
            <select
              aria-label="Tangent of the point"
              value={here.tangent ?? "free"}
              onChange={(e) =>
                void save(point, { tangent: e.target.value as "free" }, `point ${point + 1} ${e.target.value}`)
              }
            >
              {TANGENTS.map((t) => (
                <option key={t}>{t}</option>
              ))}
            </select>
            <span className="quiet">
              {at ? `${written(Math.round(here.z_mm - at.soffit), "cover", system)} ${unit} above the soffit` : ""}
              {drape !== null ? `, drape ${written(Math.round(drape), "cover", system)} ${unit}` : ""}
            </span>
          </span>
        )}
      </div>
      <div className="surface-of" ref={frame}>
        <svg width={wide} height={high} role="group" aria-label={`Elevation of tendon ${tendon.id}`}>
          <path d={`${top}${soffit}Z`} className="concrete" />
          {supports.map((s) => (
            <g key={`${s.id}${s.s}`}>
              <path d={`M${x(s.s)} ${y(lowest) + 2}v9`} className="support-of" />
              <text x={x(s.s)} y={y(lowest) + 22} textAnchor="middle">
                {s.id}
              </text>
            </g>
          ))}
          <text x={4} y={y(highest) + 9}>
            {written(highest, "cover", system)}
          </text>
          <text x={4} y={y(lowest)}>
            {written(lowest, "cover", system)} {unit}
          </text>
          <path d={curve} className="tendon-curve" />
          {lifts.map((l) => (
            <text key={l.s} x={x(l.s)} y={y(highest) - 4} textAnchor="middle" className="lift">
              {l.q > 0 ? "↑" : "↓"} {written(Math.abs(l.q), "lineload", system)}
            </text>
          ))}
          {profile.map((p, k) => (
            <circle
              // biome-ignore lint/suspicious/noArrayIndexKey: a point is known by its number
              key={k}
              cx={x(p.s_m)}
              cy={y(p.z_mm)}
              r={5}
              className={`${point === k ? "on" : ""} ${bare[k] ? "wrong" : ""}`}
              data-point={k}
              tabIndex={0}
              role="button"
              aria-label={`Point ${k + 1} of ${profile.length}, ${p.z_mm} mm${bare[k] ? ", cover too small" : ""}`}
              onPointerDown={drag(k)}
              onKeyDown={keys(k)}
              onFocus={() => setPoint(k)}
            />
          ))}
        </svg>
      </div>
    </div>
  );
}
