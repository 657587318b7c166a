import { memo, useEffect } from "react";
import { create } from "zustand";
import { api } from "../api/client";
import type { Point } from "../model/outlines";
import { path } from "../model/shapes";
import { useSession } from "../session";

export type DrawingLine = { layer: string; points: Point[] };
export type Drawing = { id: number; name: string; lines: DrawingLine[]; texts: { at: Point; text: string }[] };

/** The drawing under the floor. */
export const useDrawing = create<{ shown: Drawing | null; load: (floor: number) => Promise<void> }>((set) => ({
  shown: null,
  load: async (floor) => {
    const { data } = await api.GET("/api/floors/{floor_id}/drawing", { params: { path: { floor_id: floor } } });
    set({ shown: data ? (data as unknown as Drawing) : null });
  },
}));

export function useFloorDrawing() {
  const floor = useSession((s) => s.floor?.id);
  const load = useDrawing((d) => d.load);
  useEffect(() => {
    useDrawing.setState({ shown: null });
    if (floor) void load(floor);
  }, [floor, load]);
}

/** The drawing that lies beneath, faint; its lines and ends can be snapped to. */
export const DrawingLayer = memo(function DrawingLayer({ drawing }: { drawing: Drawing }) {
  return (
    <g className="underlay">
      <path d={drawing.lines.map((l) => path(l.points, false)).join("")} />
    </g>
  );
});
