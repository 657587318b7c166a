import { useEffect, useMemo } from "react";
import type { Fields } from "../api/fields";
import { begun, chosenReading, chosenText, isStored, KINDS, minusText, stored, useDisplay } from "../display/display";
import { floorProperty } from "../kinds/properties";
import { diameter } from "../model/bars";
import type { Mat } from "../model/floor";
import { type Chosen, fieldRequest, useReadings } from "../readings/readings";
import { useSession } from "../session";
import { useUnits } from "../units/quantities";
import { toldUnit } from "../units/results";
import { Lookup } from "./lookup";
import { bandsBetween, bandsOfBars, type Scale, scaleOf } from "./ramps";

export type Spot = { x: number; y: number; v: number };

/** The field on the plan: its mesh, values in the project's units, bands, title and extremes. */
export type Shown = {
  fields: Fields | null;
  values: Float32Array | null;
  scale: Scale | null;
  title: string;
  unit: string;
  extremes: Spot[];
  lookup: Lookup | null;
  /** Spacing (mm) of the bars by whose sizes bands of steel may go. */
  spacing: number;
  chosen: Chosen | null;
  problem: string;
};

const NAMES: Record<string, string> = {
  steel: "Steel",
  w: "Deflection w",
  cracked: "Tension over strength",
  steel_stress: "Stress of bars in cracks",
  crack_width: "Crack width",
};

/** Values that are never negative are shown from nought up. */
const ONE_SIDED = [
  "steel",
  "v",
  "wa_bottom_x",
  "wa_bottom_y",
  "wa_top_x",
  "wa_top_y",
  "bearing",
  "cracked",
  "steel_stress",
  "crack_width",
];

/** What the plan shows of the newest run. */
export function useField(): Shown {
  const display = useDisplay();
  const fields = useSession((s) => s.fields);
  const freshRun = useSession((s) => s.shownRun);
  const { catalogue, field, fieldKey, problem, load, loadField } = useReadings();
  const document = useSession((s) => s.document);
  const system = useUnits((u) => u.system);
  useEffect(() => {
    void load(freshRun);
  }, [freshRun, load]);

  const index = fields ? stored(fields.heads, display) : -1;
  const head = index >= 0 ? fields?.heads[index] : undefined;
  const chosen = useMemo(() => chosenReading(catalogue, display), [catalogue, display]);
  const wanted =
    freshRun !== null && !head && chosen && display.quantity !== "none" && !isStored(display.quantity)
      ? fieldRequest(freshRun, display.quantity, chosen, display.minus, display.byElement)
      : "";
  useEffect(() => {
    void loadField(wanted);
  }, [wanted, loadField]);

  const since = fields && head?.kind === "history" ? begun(fields.heads, display) : -1;
  const own = useMemo(() => {
    const values = fields?.values[index] ?? null;
    const before = fields?.values[since];
    return values && before ? values.map((v, i) => v - (before[i] ?? 0)) : values;
  }, [fields, index, since]);
  const raw = head ? own : wanted && wanted === fieldKey ? (field?.values ?? null) : null;
  const siUnit = head ? (fields?.units[head.quantity] ?? "") : (field?.unit ?? "");
  const quantity = catalogue?.quantities.find((q) => q.key === display.quantity);
  const mesh = useMemo(() => {
    if (!fields || !raw) return fields;
    return raw.length === fields.xy.length / 2 ? fields : spread(fields, raw.length);
  }, [fields, raw]);

  const sizes = document?.bar_sizes_mm ?? BAR_SIZES;
  const spacing = spacingOf(document?.mats ?? [], head?.of ?? "");
  return useMemo(() => {
    const none = {
      values: null,
      scale: null,
      title: "",
      unit: "",
      extremes: [],
      lookup: null,
      spacing,
      chosen,
      problem,
    };
    if (!raw || !mesh || display.quantity === "none") return { ...none, fields };
    const { factor, unit } = toldUnit(siUnit, system);
    // A run of another mesh: its field is on its way.
    const flat = raw.length === mesh.xy.length / 2 ? raw : overElements(raw, mesh.triangles.length / 3);
    if (flat.length !== mesh.xy.length / 2) return { ...none, fields };
    const values = factor === 1 ? flat : flat.map((v) => v * factor);
    const extremes = peaks(mesh, values);
    const [low, high] = [extremes[1]?.v ?? 0, extremes[0]?.v ?? 0];
    const oneSided =
      !display.minus && (ONE_SIDED.includes(display.quantity) || (display.quantity === "w" && low > -0.15 * high));
    const scale =
      display.sized && display.quantity === "steel"
        ? bandsOfBars(sizes, spacing, factor, high, (mm) => diameter(mm, system))
        : display.limits
          ? bandsBetween(display.limits.from, display.limits.to)
          : scaleOf(low, high, oneSided && high > 0);
    const name = quantity
      ? `${capital(quantity.name)} ${quantity.symbol.replace("_", "")}`
      : (NAMES[display.quantity] ?? "");
    const span = since >= 0 ? `, since the load of ${display.since}` : "";
    const title = `${name}, ${head ? `${head.of}, ${KINDS[head.kind]}${span}` : chosen ? chosenText(chosen) : ""}${display.minus ? ` ${minusText(display.minus)}` : ""}`;
    return {
      fields: mesh,
      values,
      scale,
      title,
      unit,
      extremes: oneSided ? extremes.slice(0, 1) : extremes,
      lookup: new Lookup(mesh),
      spacing,
      chosen,
      problem,
    };
  }, [raw, mesh, fields, siUnit, system, display, head, since, chosen, quantity, problem, sizes, spacing]);
}

const BAR_SIZES = floorProperty("bar_sizes_mm", "").fallback as number[];
/** Spacing (mm) of bars where no mat tells one. */
const USUAL = 150;

/** The spacing of the mat that lies everywhere in a face and direction, as bars are laid beside it. */
export function spacingOf(mats: Mat[], of: string): number {
  const mine = mats.filter((m) => `${m.face} ${m.direction}` === of);
  return (mine.find((m) => !m.outline) ?? mine[0])?.spacing_mm ?? USUAL;
}

const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

/** The greatest and the least value with their places. */
function peaks(fields: Fields, values: Float32Array): Spot[] {
  let [low, high] = [-1, -1];
  for (let i = 0; i < values.length; i++) {
    if (Number.isNaN(values[i])) continue;
    if (low < 0 || (values[i] as number) < (values[low] as number)) low = i;
    if (high < 0 || (values[i] as number) > (values[high] as number)) high = i;
  }
  if (low < 0) return [];
  const at = (i: number) => ({
    x: fields.xy[2 * i] as number,
    y: fields.xy[2 * i + 1] as number,
    v: values[i] as number,
  });
  return [at(high), at(low)];
}

/** The mesh with corners of its own for every triangle, so that each element has one even colour. */
function spread(fields: Fields, elements: number): Fields {
  const corners = fields.triangles.length;
  if (corners / 3 < elements) return fields;
  const xy = new Float32Array(2 * corners);
  for (let i = 0; i < corners; i++) {
    const p = fields.triangles[i] as number;
    xy[2 * i] = fields.xy[2 * p] as number;
    xy[2 * i + 1] = fields.xy[2 * p + 1] as number;
  }
  return { ...fields, xy, triangles: Uint32Array.from({ length: corners }, (_, i) => i) };
}

/** Values of elements at the corners of their triangles: quadrilaterals come first, in two rounds of triangles. */
function overElements(values: Float32Array, triangles: number): Float32Array {
  const quads = triangles - values.length;
  const out = new Float32Array(3 * triangles);
  for (let t = 0; t < triangles; t++) out.fill(values[t < quads ? t : t - quads] as number, 3 * t, 3 * t + 3);
  return out;
}
