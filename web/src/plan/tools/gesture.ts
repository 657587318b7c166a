import { create } from "zustand";
import type { Tool } from "../../kinds/kind";
import type { Ref, Vertex } from "../../model/floor";
import { loadsAlong } from "../../model/loads";
import {
  arcOf,
  bayAround,
  bulgeThrough,
  points as chords,
  circle,
  type Point,
  rectangle,
  vertex,
} from "../../model/outlines";
import { type Edit, useSession } from "../../session";
import { read, useUnits } from "../../units/quantities";
import { cutByLine } from "./outlineService";
import type { Snap } from "./snap";
import { templateOf, useTemplates } from "./templates";
import { changed, drawn, pointsOf, type Shape, toolOf } from "./tools";

/** Tools that take objects from their places. */
const MOVES = ["move", "rotate", "align"];

export type Mode = "offset" | "polar" | "absolute";

type Gesture = {
  tool: string | null;
  shape: Shape;
  points: Vertex[];
  /** A point that the next edge's arc passes through; null while the next click is it; undefined for a straight edge. */
  via: Point | null | undefined;
  cursor: Snap | null;
  mode: Mode;
  typed: [string, string];
  problem: string;
  times: number;
  /** Copies across the first direction of an array, which then has a second one. */
  across: number;
  /** A motion of loads, held until it is said whether those of other cases on the same outline go along. */
  held: { edit: (along: boolean) => Edit; along: Ref[] } | null;
  /** The finished measurement or section line, which stays until the next one. */
  kept: { tool: string; from: Point; to: Point } | null;
  begin: (tool: string) => void;
  cancel: () => void;
  set: (part: Partial<Gesture>) => void;
  point: (at: Point) => void;
  back: () => void;
  finish: () => void;
  enter: () => void;
  settle: (along: boolean) => void;
};

/** The project's storeys at the floor's level, for new columns and walls. */
export function storeysHere() {
  const { project, floor } = useSession.getState();
  const here = project?.storeys.find((s) => s.id === floor?.level);
  return { below: here?.below_m ?? 3.2, above: here?.above_m ?? null, level: Boolean(here) };
}

export function templateFor(tool: Tool) {
  const document = useSession.getState().document;
  if (!document || !tool.kind) return null;
  return templateOf(tool.key, tool.kind, document, storeysHere());
}

export const useGesture = create<Gesture>((set, get) => {
  const clear = { points: [] as Vertex[], via: undefined, typed: ["", ""] as [string, string], problem: "" };

  function complete(points: Vertex[]) {
    const tool = toolOf(get().tool ?? "");
    const session = useSession.getState();
    const document = session.document;
    if (!tool || !document) return;
    if (tool.group === "measure") {
      set({ ...clear, kept: { tool: tool.key, from: points[0] as Point, to: points[1] as Point } });
      return;
    }
    if (tool.group === "review") {
      const at = points[0] as Point;
      set({ ...clear, tool: null, kept: { tool: tool.key, from: at, to: at } });
      return;
    }
    if (tool.kind === "grid") {
      const used = new Set((document.grid ?? []).map((g) => g.id));
      let n = 1;
      while (used.has(`G${n}`)) n++;
      const line = points.map(([x = 0, y = 0]) => vertex(x, y));
      void session.editProject({
        line: `Grid line G${n} drawn`,
        change: (p) => ({ ...p, grid_sets: [...(p.grid_sets ?? []), { id: `G${n}`, kind: "single", line }] }),
      });
      set(clear);
      return;
    }
    if (tool.kind) {
      const template = templateFor(tool);
      if (!template) return;
      useTemplates.getState().set(tool.key, template);
      const edit = drawn(tool, template, points, document);
      if (edit) void session.edit(edit);
      else session.say("No metre of the floor lies in this region along the tendons' direction.", true);
      // What reads results is pinned one at a time; what is built comes in numbers.
      set({ ...clear, ...(tool.group === "read" ? { tool: null } : {}) });
      return;
    }
    if (tool.key === "cut") {
      void cutByLine(session.chosen, points as Point[]);
      set({ ...clear, tool: null });
      return;
    }
    const make = (refs: Ref[]) => changed(tool, refs, points as Point[], get(), document);
    const edit = make(session.chosen);
    if (typeof edit === "string") {
      set({ ...clear, problem: edit });
      return;
    }
    const along = MOVES.includes(tool.key) ? loadsAlong(document, session.chosen) : [];
    if (along.length)
      set({ held: { along, edit: (all) => make(all ? [...session.chosen, ...along] : session.chosen) as Edit } });
    else void session.edit(edit);
    set({ ...clear, tool: tool.key === "cantilever" || tool.key === "copy" ? tool.key : null });
  }

  return {
    tool: null,
    shape: "corners",
    ...clear,
    cursor: null,
    mode: "offset",
    times: 1,
    across: 0,
    held: null,
    kept: null,
    begin: (key) => {
      const tool = toolOf(key);
      const session = useSession.getState();
      if (tool?.selected && session.chosen.length === 0) {
        session.say(`Select what to ${tool.name.toLowerCase()} first.`);
        return;
      }
      set({ ...clear, tool: key, kept: null, held: null, times: key === "array" ? Math.max(2, get().times) : 1 });
    },
    cancel: () => {
      const { points, tool, kept } = get();
      if (points.length) set(clear);
      else if (tool) set({ ...clear, tool: null, kept: null });
      else if (kept) set({ kept: null });
    },
    set: (part) => set(part),
    point: (at) => {
      const { points, via, shape } = get();
      const tool = toolOf(get().tool ?? "");
      if (!tool) return;
      if (via === null) {
        set({ via: at, typed: ["", ""], problem: "" });
        return;
      }
      const last = points[points.length - 1];
      const first = points[0];
      const open = pointsOf(tool, shape) === null;
      if (
        open &&
        first &&
        points.length > 2 - (via ? 1 : 0) &&
        tool.form === "outline" &&
        Math.hypot((first[0] ?? 0) - at[0], (first[1] ?? 0) - at[1]) < 1e-3
      ) {
        get().finish();
        return;
      }
      if (last && Math.hypot((last[0] ?? 0) - at[0], (last[1] ?? 0) - at[1]) < 1e-3) {
        if (open) get().finish();
        return;
      }
      const next = [...points, vertex(at[0], at[1])];
      if (via && last) next[next.length - 2] = vertex(last[0] ?? 0, last[1] ?? 0, bulgeThrough(last, at, via));
      const needed = pointsOf(tool, shape, get().across);
      if (needed !== null && next.length >= needed) {
        const [a, b] = next as [Point, Point];
        if (tool.form !== "outline") complete(next);
        else if (shape === "rectangle") {
          if (Math.abs(a[0] - b[0]) < 1e-3 || Math.abs(a[1] - b[1]) < 1e-3)
            set({ problem: "The two corners are in one line; give both a width and a height." });
          else complete(rectangle(a, b));
        } else if (shape === "circle") complete(circle(a, Math.hypot(b[0] - a[0], b[1] - a[1])));
        else {
          const lines = (useSession.getState().document?.grid ?? []).map((g) => g.line);
          const bay = bayAround(a, lines);
          if (bay) complete(bay);
          else set({ ...clear, problem: "No four grid lines lie around that point." });
        }
        return;
      }
      set({
        points: next,
        via: undefined,
        typed: ["", ""],
        problem: "",
      });
    },
    back: () => {
      const { points, via } = get();
      if (via !== undefined) set({ via: undefined });
      else
        set({
          points: points.slice(0, -1).map((v, i, all) => (i === all.length - 1 ? vertex(v[0] ?? 0, v[1] ?? 0) : v)),
          problem: "",
        });
    },
    finish: () => {
      const { points, via } = get();
      const tool = toolOf(get().tool ?? "");
      if (!tool || pointsOf(tool, get().shape) !== null) return;
      const last = points[points.length - 1];
      const closing =
        via && last && points[0]
          ? [...points.slice(0, -1), vertex(last[0] ?? 0, last[1] ?? 0, bulgeThrough(last, points[0], via))]
          : points;
      const curved = closing.some((v) => v[2]);
      const least = tool.form === "outline" ? (curved ? 2 : 3) : 2;
      if (closing.length < least) {
        set({
          problem: tool.form === "outline" ? "An outline needs at least three corners." : "A line needs two points.",
        });
        return;
      }
      complete(closing);
    },
    settle: (along) => {
      const { held } = get();
      set({ held: null });
      if (held) void useSession.getState().edit(held.edit(along));
    },
    enter: () => {
      const { typed, mode, points, cursor } = get();
      const tool = toolOf(get().tool ?? "");
      if (!tool) return;
      if (!typed[0].trim() && !typed[1].trim()) {
        if (pointsOf(tool, get().shape) === null && points.length >= 2) get().finish();
        else if (cursor) get().point([cursor.x, cursor.y]);
        return;
      }
      const target = typedPoint(typed, mode, basis(points, tool.key), cursor);
      if (typeof target === "string") set({ problem: target });
      else get().point(target);
    },
  };
});

/** The point that typed offsets count from: the last one, but both ways of an array count from where it begins. */
export function basis(points: Vertex[], tool: string | null): Point | null {
  const last = tool === "array" ? points[0] : points[points.length - 1];
  return last ? [last[0] ?? 0, last[1] ?? 0] : null;
}

/** The point that was typed, or why there is none. One length alone goes towards the pointer. */
export function typedPoint(
  typed: [string, string],
  mode: Mode,
  last: Point | null,
  cursor: Snap | null,
): Point | string {
  const { system } = useUnits.getState();
  const length = (text: string) => (text.trim() ? read(text, "length", system) : 0);
  const a = length(typed[0]);
  if (a === null) return `“${typed[0]}” is not a length; type 3.25, 3250mm or 10'-6 1/2"`;
  if (!last || mode === "absolute") {
    const b = length(typed[1]);
    return b === null ? `“${typed[1]}” is not a length; type 3.25, 3250mm or 10'-6 1/2"` : [a, b];
  }
  if (mode === "polar") {
    if (!typed[1].trim()) {
      if (!cursor) return "Give the angle too, or point where the length goes.";
      const l = Math.hypot(cursor.x - last[0], cursor.y - last[1]);
      if (l < 1e-9) return "Give the angle too, or point where the length goes.";
      return [last[0] + ((cursor.x - last[0]) * a) / l, last[1] + ((cursor.y - last[1]) * a) / l];
    }
    const angle = read(typed[1], "angle", system);
    if (angle === null) return `“${typed[1]}” is not an angle; type 30 or 30°`;
    const t = (angle * Math.PI) / 180;
    return [last[0] + a * Math.cos(t), last[1] + a * Math.sin(t)];
  }
  const b = length(typed[1]);
  return b === null ? `“${typed[1]}” is not a length; type 3.25, 3250mm or 10'-6 1/2"` : [last[0] + a, last[1] + b];
}

/** The place that is pointed at: what was typed leads, as far as it can be read, and else the pointer. */
export function aim(g: Pick<Gesture, "tool" | "typed" | "mode" | "points" | "cursor">): Snap | null {
  if (!g.typed[0].trim() && !g.typed[1].trim()) return g.cursor;
  const at = typedPoint(g.typed, g.mode, basis(g.points, g.tool), g.cursor);
  return typeof at === "string" ? g.cursor : { x: at[0], y: at[1], kind: null };
}

/** What the gesture would make if the pointer were clicked now, as points to draw. */
export function preview(
  tool: Tool,
  shape: Shape,
  points: Vertex[],
  via: Point | null | undefined,
  cursor: Point,
): Point[] {
  const last = points[points.length - 1];
  if (tool.form === "outline" && shape === "rectangle" && points[0])
    return chords(rectangle(points[0] as Point, cursor));
  if (tool.form === "outline" && shape === "circle" && points[0]) {
    const c = points[0] as Point;
    const r = Math.hypot(cursor[0] - c[0], cursor[1] - c[1]);
    return r > 1e-6 ? chords(circle(c, r)) : [];
  }
  if (!last) return [];
  // The second way of an array begins where the first one does.
  if (tool.key === "array" && points[1]) return chords([points[1], points[0] as Vertex, [...cursor]], false);
  const through = via === null ? undefined : via;
  const bulge = through ? bulgeThrough(last, cursor, through) : 0;
  const open: Vertex[] = [...points.slice(0, -1), bulge ? [last[0] ?? 0, last[1] ?? 0, bulge] : last, [...cursor]];
  if (bulge && !Number.isFinite(arcOf(last, cursor, bulge).radius)) return chords(points, false);
  return chords(open, false);
}
