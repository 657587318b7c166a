import { select } from "d3-selection";
import { type ZoomBehavior, zoom, zoomIdentity } from "d3-zoom";
import { type RefObject, useCallback, useEffect, useRef, useState } from "react";
import type { Box } from "../model/shapes";

/** Screen x = x + k X, screen y = y - k Y, for plan coordinates X, Y in m. */
export type View = { x: number; y: number; k: number };

const calm = () => window.matchMedia("(prefers-reduced-motion: reduce)").matches;

export function useView(surface: RefObject<HTMLElement | null>, width: number, height: number) {
  const [view, setView] = useState<View>({ x: 0, y: 0, k: 20 });
  const behaviour = useRef<ZoomBehavior<HTMLElement, unknown> | null>(null);
  const running = useRef(0);

  useEffect(() => {
    if (!surface.current) return;
    const made = zoom<HTMLElement, unknown>()
      .scaleExtent([4, 600])
      .clickDistance(4)
      // Shift and drag draws a window; the middle button pans whatever the pointer is on.
      .filter(
        (event) => event.type === "wheel" || event.button === 1 || (!event.shiftKey && !event.ctrlKey && !event.button),
      )
      .on("start", (event) => {
        if (event.sourceEvent) cancelAnimationFrame(running.current);
      })
      .on("zoom", (event) => setView({ x: event.transform.x, y: event.transform.y, k: event.transform.k }));
    behaviour.current = made;
    select(surface.current).call(made).on("dblclick.zoom", null);
  }, [surface]);

  const go = useCallback(
    (target: View, smooth: boolean) => {
      const element = surface.current;
      const made = behaviour.current;
      if (!element || !made) return;
      const put = (v: View) => select(element).call(made.transform, zoomIdentity.translate(v.x, v.y).scale(v.k));
      cancelAnimationFrame(running.current);
      const start = (element as unknown as { __zoom: View }).__zoom;
      if (!smooth || calm()) {
        put(target);
        return;
      }
      const from = { x: start.x, y: start.y, k: start.k };
      const begun = performance.now();
      const frame = (now: number) => {
        const t = Math.min(1, (now - begun) / 260);
        const e = 1 - (1 - t) ** 3;
        const k = from.k * (target.k / from.k) ** e;
        // Keep the middle of the screen on a straight way between the two views.
        const at = (v: View) => [(width / 2 - v.x) / v.k, (v.y - height / 2) / v.k] as const;
        const [ax, ay] = at(from);
        const [bx, by] = at(target);
        put({ k, x: width / 2 - k * (ax + (bx - ax) * e), y: height / 2 + k * (ay + (by - ay) * e) });
        if (t < 1) running.current = requestAnimationFrame(frame);
        else put(target);
      };
      running.current = requestAnimationFrame(frame);
    },
    [surface, width, height],
  );

  const fit = useCallback(
    (box: Box, smooth = true) => {
      if (width < 50 || height < 50 || !Number.isFinite(box.x0)) return;
      const k = Math.min((width - 90) / (box.x1 - box.x0 || 1), (height - 160) / (box.y1 - box.y0 || 1));
      go({ k, x: width / 2 - (k * (box.x0 + box.x1)) / 2, y: (height + 14) / 2 + (k * (box.y0 + box.y1)) / 2 }, smooth);
    },
    [go, width, height],
  );

  const fly = useCallback(
    (x: number, y: number, wide: number | null = null) => {
      const k = wide ? Math.min(width, height) / wide : Math.max(view.k, 42);
      go({ k, x: width / 2 - k * x, y: height / 2 + k * y }, true);
    },
    [go, view.k, width, height],
  );

  const by = useCallback(
    (dx: number, dy: number, factor = 1) => {
      const k = view.k * factor;
      go(
        {
          k,
          x: width / 2 - ((width / 2 - view.x) * k) / view.k + dx,
          y: height / 2 - ((height / 2 - view.y) * k) / view.k + dy,
        },
        false,
      );
    },
    [go, view, width, height],
  );

  return { view, fit, fly, by };
}
