import { type ReactNode, useLayoutEffect, useRef, useState } from "react";
import type { Strip } from "../model/results";

export const MARGIN = { left: 64, right: 16, top: 16, bottom: 22 };

/** About half as wide as a letter of a span's name. */
const HALF_LETTER = 3.4;

export type Station = { strip: Strip; k: number; s: number };

/** The strips of one kind along one axis, from its start to its end. */
export function alongAxis(strips: Strip[], of: Strip): Strip[] {
  const [axis, , kind, side] = of.id.split("-");
  return strips
    .filter((s) => {
      const [a, , k, e] = s.id.split("-");
      return a === axis && k === kind && e === side;
    })
    .sort((a, b) => (a.s_m[0] as number) - (b.s_m[0] as number));
}

/** All their stations. */
export const stationsOf = (line: Strip[]): Station[] =>
  line.flatMap((strip) => strip.s_m.map((s, k) => ({ strip, k, s })));

/** Names of spans below their middles; one longer than its span (a short cantilever's) stays off the margins, and its neighbour off it. */
export function namesOf(line: Strip[], x: (s: number) => number, WIDE: number) {
  const names = line.map((s) => {
    const label = s.label.replace(/^(column strip|middle strip (left|right) of|whole width,) /, "");
    const half = label.length * HALF_LETTER;
    const middle = (x(s.s_m[0] as number) + x(s.s_m[s.s_m.length - 1] as number)) / 2;
    return { id: s.id, label, half, at: Math.max(MARGIN.left + half, Math.min(middle, WIDE - half)) };
  });
  const beside = (a: { half: number }, b: { half: number }) => a.half + b.half + 2 * HALF_LETTER;
  names.forEach((n, k) => {
    const before = names[k - 1];
    if (before) n.at = Math.max(n.at, before.at + beside(before, n));
  });
  names.reverse().forEach((n, k) => {
    const after = names[k - 1];
    n.at = Math.min(n.at, after ? after.at - beside(n, after) : WIDE - n.half);
  });
  return names.reverse();
}

/** A drawing along the stations of an axis, one of which is picked by click or arrow keys. */
export function StationSurface(props: {
  line: Strip[];
  at: number;
  pick: (at: number) => void;
  open?: (at: number) => void;
  name: string;
  children: (x: (s: number) => number, WIDE: number, HIGH: number) => ReactNode;
}) {
  const { line, at, pick, open, name, children } = props;
  const surface = useRef<HTMLDivElement>(null);
  const [{ WIDE, HIGH }, setSize] = useState({ WIDE: 900, HIGH: 120 });
  useLayoutEffect(() => {
    const watch = new ResizeObserver(([entry]) => {
      if (entry)
        setSize({ WIDE: Math.max(entry.contentRect.width, 300), HIGH: Math.max(entry.contentRect.height, 90) });
    });
    if (surface.current) watch.observe(surface.current);
    return () => watch.disconnect();
  }, []);
  const stations = stationsOf(line);
  const [low, high] = [stations[0]?.s ?? 0, stations[stations.length - 1]?.s ?? 1];
  const x = (s: number) => MARGIN.left + ((s - low) / Math.max(high - low, 1e-6)) * (WIDE - MARGIN.left - MARGIN.right);
  const here = stations[at];
  const named = namesOf(line, x, WIDE);
  const step = (by: number) => pick(Math.max(0, Math.min(stations.length - 1, Math.max(at, 0) + by)));
  return (
    <div className="surface-of" ref={surface}>
      <svg
        width={WIDE}
        height={HIGH}
        role="group"
        aria-label={`${name}; arrow keys walk the stations`}
        // biome-ignore lint/a11y/noNoninteractiveTabindex: the stations are walked by arrow keys
        tabIndex={0}
        onKeyDown={(e) => {
          if (e.key === "ArrowRight") step(1);
          else if (e.key === "ArrowLeft") step(-1);
          else if (e.key === "Enter" && open && stations[at]) open(at);
          else return;
          e.preventDefault();
        }}
        onClick={(e) => {
          const r = e.currentTarget.getBoundingClientRect();
          const px = ((e.clientX - r.left) / r.width) * WIDE;
          const best = stations.reduce(
            (a, t, i) => (Math.abs(x(t.s) - px) < Math.abs(x(stations[a]?.s ?? 0) - px) ? i : a),
            0,
          );
          pick(best);
        }}
      >
        {children(x, WIDE, HIGH)}
        {named.map(({ id, label, at }) => (
          <text key={id} className="span-of" x={at} y={HIGH - 5} textAnchor="middle">
            {label}
          </text>
        ))}
        {here && <path d={`M${x(here.s)} ${MARGIN.top}V${HIGH - MARGIN.bottom}`} className="station" />}
      </svg>
    </div>
  );
}
