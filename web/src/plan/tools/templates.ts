import { create } from "zustand";
import type { FloorDocument, Kind, Labelled } from "../../model/floor";
import { useDisplay } from "../display";

/** What the next object of each kind is like; it keeps what was chosen last. */
export const useTemplates = create<{
  items: Partial<Record<string, Labelled>>;
  set: (key: string, item: Labelled) => void;
}>((set) => ({
  items: {},
  set: (key, item) => set((s) => ({ items: { ...s.items, [key]: item } })),
}));

type Storeys = { below: number; above: number | null };

/** The template of a tool, with materials that the floor has and heights of its level. */
/** A load of the active case, or of the first one that its kind is usual in. */
function newLoad(key: string, document: FloorDocument): Record<string, unknown> {
  const cases = document.load_cases ?? [];
  const active = useDisplay.getState().loadsOf;
  const wanted = key === "area" ? "live" : "dead";
  const fit = cases.find((c) => c.id === active) ?? cases.find((c) => c.nature === wanted) ?? cases[0];
  const common = { case: fit?.id ?? "" };
  if (key === "area") return { ...common, kind: "area", q_kPa: 1 };
  if (key === "line") return { ...common, kind: "line", q_kN_m: [1, 1] };
  return { ...common, kind: "point", F_kN: 10 };
}

export function templateOf(key: string, kind: Kind, document: FloorDocument, storeys: Storeys): Labelled {
  const kept = useTemplates.getState().items[key];
  const concrete = document.concretes[0]?.id ?? "";
  const known = (list: Labelled[], id: unknown) => list.some((m) => m.id === id);
  if (kept) {
    const fit = { ...kept };
    if ("concrete" in fit && !known(document.concretes, fit.concrete)) fit.concrete = concrete;
    const cases = document.load_cases ?? [];
    const active = useDisplay.getState().loadsOf;
    if ("case" in fit && active && cases.some((c) => c.id === active)) fit.case = active;
    if ("case" in fit && !known(cases, fit.case)) fit.case = cases[0]?.id;
    if ("rebar" in fit && !known(document.rebars, fit.rebar)) fit.rebar = document.rebars[0]?.id;
    return fit;
  }
  const below = { height_m: storeys.below, far_end: "fixed" };
  const above = storeys.above ? { height_m: storeys.above, far_end: "fixed" } : null;
  const common = { id: "" };
  switch (kind) {
    case "slabs":
      return {
        ...common,
        thickness_m: 0.25,
        concrete,
        rebar: document.rebars[0]?.id,
        cover_top_mm: 25,
        cover_bottom_mm: 25,
      };
    case "thickenings":
      return key === "recess"
        ? { ...common, kind: "recess", thickness_m: 0.2, top_offset_m: -0.05 }
        : { ...common, kind: "drop_panel", thickness_m: 0.4, top_offset_m: 0 };
    case "beams":
      return { ...common, width_m: 0.4, depth_m: 0.6, top_offset_m: 0, concrete };
    case "columns":
      return { ...common, shape: { kind: "rectangle", b_m: 0.4, d_m: 0.4 }, angle_deg: 0, concrete, below, above };
    case "walls":
      return { ...common, thickness_m: 0.2, concrete, top: "monolithic", below, above };
    case "supports":
      return key === "bedding"
        ? { ...common, kind: "area", modulus_kN_m3: 40000, compression_only: true }
        : { ...common, kind: key === "pointsupport" ? "point" : "line", vertical: "fixed", rotation: "free" };
    case "one_way_areas":
      return { ...common, angle_deg: 0 };
    case "stiffness_areas":
      return { ...common, angle_deg: 0, bending_along: 0.5, bending_across: 0.5, twist: 0.5 };
    case "mats":
      return { ...common, face: "bottom", direction: "x", bar_mm: 12, spacing_mm: 200 };
    case "slices":
      return { ...common, quantity: "mn", width_m: 0 };
    case "loads":
      return { ...common, ...newLoad(key, document) };
    default:
      return common;
  }
}
