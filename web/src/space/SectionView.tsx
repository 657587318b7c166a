import { useEffect, useState } from "react";
import { api } from "../api/client";
import type { components } from "../api/generated";
import { itemOf, type Kind } from "../model/floor";
import { useGesture } from "../plan/tools/gesture";
import { usePicked } from "../session";
import { measured, useUnits } from "../units/quantities";
import { spread } from "./heights";

type Piece = components["schemas"]["PieceState"];

/** The section along the line that was drawn last, to scale, with levels and thicknesses. */
export function SectionView() {
  const kept = useGesture((g) => g.kept);
  const { floor, document, choose, chosen } = usePicked("floor", "document", "choose", "chosen");
  const system = useUnits((u) => u.system);
  const [pieces, setPieces] = useState<Piece[]>([]);
  const [times, setTimes] = useState(1);
  const line = kept?.tool === "section" ? kept : null;
  const revision = floor?.revision;
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new revision cuts anew
  useEffect(() => {
    if (!line || !floor) return;
    void api
      .POST("/api/floors/{floor_id}/section", {
        params: { path: { floor_id: floor.id } },
        body: { line: [line.from, line.to] },
      })
      .then(({ data }) => data && setPieces(data));
  }, [line, floor?.id, revision]);
  if (!line || !document) return null;
  const length = Math.hypot(line.to[0] - line.from[0], line.to[1] - line.from[1]);
  const slabs = pieces.filter((p) => ["slabs", "thickenings", "beams"].includes(p.list));
  const low = Math.min(-0.6, ...slabs.map((p) => p.bottom)) - 0.7;
  const high = Math.max(0.2, ...slabs.map((p) => p.top)) + 0.7;
  const width = 780;
  // Heights on the screen are `times` those of lengths.
  const k = Math.min((width - 130) / length, 190 / (high - low));
  const left = 100 + (width - 110 - k * length) / 2;
  const across = (s: number) => left + k * s;
  const up = (z: number) => times * k * (high - z);
  const levels = [...new Set(slabs.flatMap((p) => [p.top, p.bottom]).map((z) => Number(z.toFixed(4))))].sort(
    (a, b) => b - a,
  );
  const picked = new Set(chosen.map((r) => `${r.kind} ${r.id}`));
  return (
    <section className="section-view" aria-label="Section" data-testid="section">
      <header>
        <h2>Section</h2>
        <span className="quiet">
          {measured(length, "length", system)} long, heights{" "}
          {times === 1 ? "to the same scale" : `${times} times as large`}; levels about the floor's datum
        </span>
        <span className="segments" role="group" aria-label="Heights">
          <span className="quiet">Heights</span>
          {[1, 2, 5, 10].map((n) => (
            <button type="button" key={n} aria-pressed={times === n} onClick={() => setTimes(n)}>
              × {n}
            </button>
          ))}
        </span>
        <button type="button" className="small" onClick={() => useGesture.getState().set({ kept: null, tool: null })}>
          Close
        </button>
      </header>
      <svg viewBox={`0 0 ${width} ${up(low)}`} role="img" aria-label="Section through the floor">
        {pieces.map((p) => (
          <rect
            key={`${p.list}${p.id}${p.start}${p.bottom}`}
            x={across(p.start)}
            width={Math.max(0.5, k * (p.end - p.start))}
            y={up(Math.min(p.top, high))}
            height={times * k * (Math.min(p.top, high) - Math.max(p.bottom, low))}
            className={`cut ${p.list} ${picked.has(`${p.list} ${p.id}`) ? "picked" : ""}`}
            role="button"
            tabIndex={-1}
            onKeyDown={() => undefined}
            onClick={() =>
              itemOf(document, { kind: p.list as Kind, id: p.id }) && choose([{ kind: p.list as Kind, id: p.id }])
            }
          >
            <title>{`${p.id}: ${measured(p.top - p.bottom, "size", system)}`}</title>
          </rect>
        ))}
        {slabs.map((p) =>
          k * (p.end - p.start) > 60 ? (
            <text
              key={`t${p.id}${p.start}`}
              x={across((p.start + p.end) / 2)}
              y={up(p.bottom) + 13}
              className="cut-label"
            >
              {p.id} {measured(p.top - p.bottom, "size", system)}
            </text>
          ) : null,
        )}
        {spread(
          levels.map((z) => up(z)),
          12,
          up(low) - 6,
        ).map((y, i) => {
          const z = levels[i] as number;
          return (
            <g key={z} className="level">
              <path
                d={`M${across(0) - 8} ${up(z)}H${across(0) - 2}M${across(0) - 8} ${up(z)}L${across(0) - 14} ${y}`}
              />
              <text x={across(0) - 17} y={y + 4}>
                {z > 0 ? "+" : ""}
                {measured(z, "length", system)}
              </text>
            </g>
          );
        })}
      </svg>
    </section>
  );
}
