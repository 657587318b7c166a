import { type Dimension, measured, read, type System, unreadable, written } from "../units/quantities";
import type { FloorDocument, Kind, Labelled, Vertex } from "./floor";
import { areaOf, lengthOf } from "./outlines";

/** One editable value of an object: where it is, how it is called, and what may be typed. */
export type Property = {
  path: string;
  name: string;
  type: "number" | "whole" | "choice" | "text" | "check" | "points";
  dimension?: Dimension;
  choices?: (document: FloorDocument) => string[];
  /** What an absent value stands for. */
  fallback?: unknown;
  /** Whether an empty cell is allowed; it takes the value away. */
  empty?: boolean;
  /** Whether the object has this value at all. */
  when?: (item: Labelled) => boolean;
  /** Wider than a number's column. */
  wide?: boolean;
};

const number = (path: string, name: string, dimension: Dimension, more: Partial<Property> = {}): Property => ({
  path,
  name,
  type: "number",
  dimension,
  ...more,
});
const choice = (path: string, name: string, choices: string[], more: Partial<Property> = {}): Property => ({
  path,
  name,
  type: "choice",
  choices: () => choices,
  fallback: choices[0],
  ...more,
});
const label: Property = { path: "id", name: "Name", type: "text" };
const concrete: Property = {
  path: "concrete",
  name: "Concrete",
  type: "choice",
  choices: (d) => d.concretes.map((c) => c.id),
};
const outline: Property = { path: "outline", name: "Corners", type: "points", wide: true };
const line: Property = { path: "line", name: "Line", type: "points", wide: true };
const x = number("at.0", "x", "length");
const y = number("at.1", "y", "length");
const top = number("top_offset_m", "Top offset", "size", { fallback: 0 });
const turned = number("angle_deg", "Turned by", "angle", { fallback: 0 });
const priority: Property = { path: "priority", name: "Priority", type: "whole", fallback: 0 };
const storey = (where: "below" | "above", name: string): Property[] => [
  number(`${where}.height_m`, `${name}`, "length", { empty: true }),
  choice(`${where}.far_end`, `${name}, far end`, ["fixed", "pinned"], { when: (i) => Boolean(i[where]) }),
];
const factor = (path: string, name: string) => number(path, name, "none", { fallback: 1 });
const kind = (k: string) => (item: Labelled) => item.kind === k;
const round = (item: Labelled) => (item.shape as { kind: string } | undefined)?.kind === "circle";

/** Properties by kind, in the order of the ledger's columns. */
export const PROPERTIES: Record<Kind, Property[]> = {
  slabs: [
    label,
    number("thickness_m", "Thickness", "size"),
    top,
    concrete,
    { path: "rebar", name: "Steel", type: "choice", choices: (d) => d.rebars.map((r) => r.id) },
    number("bar_angle_deg", "Bars at", "angle", { fallback: 0 }),
    number("cover_top_mm", "Cover, top", "cover", { fallback: 25 }),
    number("cover_bottom_mm", "Cover, bottom", "cover", { fallback: 25 }),
    priority,
    outline,
  ],
  openings: [label, outline],
  thickenings: [
    label,
    choice("kind", "Kind", ["drop_panel", "column_head", "recess", "band"]),
    number("thickness_m", "Thickness", "size"),
    top,
    number("fill_kN_m3", "Fill", "weight", { fallback: 0, when: kind("recess") }),
    priority,
    outline,
  ],
  beams: [
    label,
    number("width_m", "Width", "size"),
    number("depth_m", "Depth overall", "size"),
    top,
    concrete,
    priority,
    line,
  ],
  one_way_areas: [label, number("angle_deg", "Spans at", "angle", { fallback: 0 }), outline],
  stiffness_areas: [
    label,
    number("angle_deg", "Along", "angle", { fallback: 0 }),
    factor("bending_along", "Bending along ×"),
    factor("bending_across", "Bending across ×"),
    factor("twist", "Twist ×"),
    factor("membrane_along", "Membrane along ×"),
    factor("membrane_across", "Membrane across ×"),
    factor("membrane_shear", "Membrane shear ×"),
    outline,
  ],
  columns: [
    label,
    x,
    y,
    choice("shape.kind", "Section", ["rectangle", "circle"]),
    number("shape.b_m", "Width b", "size", { when: (i) => !round(i) }),
    number("shape.d_m", "Depth d", "size", { when: (i) => !round(i) }),
    number("shape.diameter_m", "Diameter", "size", { when: round }),
    turned,
    concrete,
    ...storey("below", "Height below"),
    ...storey("above", "Height above"),
  ],
  walls: [
    label,
    number("thickness_m", "Thickness", "size"),
    concrete,
    choice("top", "Top", ["monolithic", "hinged"]),
    ...storey("below", "Height below"),
    ...storey("above", "Height above"),
    line,
  ],
  supports: [
    label,
    { path: "kind", name: "Kind", type: "text", when: () => false },
    { path: "vertical", name: "Vertical", type: "text", fallback: "fixed", when: (i) => i.kind !== "area" },
    { path: "rotation", name: "Rotation", type: "text", fallback: "free", when: (i) => i.kind !== "area" },
    number("modulus_kN_m3", "Bedding modulus", "weight", { when: kind("area") }),
    {
      path: "compression_only",
      name: "Lets go in tension",
      type: "check",
      fallback: false,
      when: kind("area"),
    },
    { ...x, when: kind("point") },
    { ...y, when: kind("point") },
    { ...line, when: kind("line") },
    { ...outline, when: kind("area") },
  ],
  loads: [
    label,
    { path: "case", name: "Case", type: "choice", choices: (d) => (d.load_cases ?? []).map((c) => c.id) },
    { path: "kind", name: "Kind", type: "text", when: () => false },
    number("q_kPa", "Load", "pressure", { when: kind("area") }),
    number("q_kN_m.0", "At the start", "lineload", { when: kind("line") }),
    number("q_kN_m.1", "At the end", "lineload", { when: kind("line") }),
    number("F_kN", "Force", "force", { when: kind("point"), fallback: 0 }),
    number("Mx_kNm", "Moment about x", "moment", { when: kind("point"), fallback: 0 }),
    number("My_kNm", "Moment about y", "moment", { when: kind("point"), fallback: 0 }),
    { ...x, when: kind("point") },
    { ...y, when: kind("point") },
    { ...line, when: kind("line") },
    { ...outline, when: kind("area"), empty: true },
  ],
  mats: [
    label,
    choice("face", "Face", ["top", "bottom"]),
    choice("direction", "Direction", ["x", "y"]),
    number("bar_mm", "Bar", "bar"),
    number("spacing_mm", "Spacing", "cover"),
    { ...outline, empty: true },
  ],
  probes: [label, x, y],
  panels: [label, outline],
  grid: [label],
  load_cases: [
    label,
    choice("nature", "Nature", [
      "self_weight",
      "dead",
      "live",
      "storage",
      "roof",
      "snow",
      "construction",
      "wind",
      "seismic",
      "prestress",
      "temperature",
    ]),
    { path: "pattern", name: "In patterns", type: "check", fallback: false },
  ],
  combinations: [label],
  concretes: [
    label,
    number("strength_MPa", "Strength", "stress"),
    number("unit_weight_kN_m3", "Unit weight", "weight", { fallback: 25 }),
    number("E_MPa", "E, own", "stress", { empty: true }),
    number("poisson", "Poisson's ratio", "none", { fallback: 0.2 }),
    number("creep_coefficient", "Creep φ", "none", { fallback: 2 }),
  ],
  rebars: [
    label,
    number("yield_MPa", "Yield strength", "stress"),
    number("E_MPa", "E", "stress", { fallback: 200000 }),
  ],
};

/** The properties of one object; a combination's are its factors. */
export function propertiesOf(kindOf: Kind, item: Labelled, document: FloorDocument): Property[] {
  if (kindOf === "combinations")
    return (document.load_cases ?? [])
      .filter((c) => c.id in ((item.factors as Record<string, number> | undefined) ?? {}) && !c.id.includes("."))
      .map((c) => number(`factors.${c.id}`, `Factor of ${c.id}, ${c.nature.replace("_", " ")}`, "none"));
  return PROPERTIES[kindOf].filter((p) => !p.when || p.when(item));
}

export function valueAt(item: Labelled, path: string): unknown {
  return path.split(".").reduce<unknown>((here, key) => (here as Record<string, unknown> | undefined)?.[key], item);
}

/** The object with one value set; undefined takes it away. Setting a storey's height or a section's kind makes the whole. */
export function withValue(item: Labelled, path: string, value: unknown): Labelled {
  const copy = structuredClone(item);
  const keys = path.split(".");
  const [first = "", second] = keys;
  if ((first === "below" || first === "above") && second === "height_m") {
    const was = copy[first] as { far_end?: string } | null | undefined;
    copy[first] = value === undefined ? null : { far_end: "fixed", ...was, height_m: value };
    return copy;
  }
  if (path === "shape.kind") {
    const s = copy.shape as { b_m?: number; d_m?: number; diameter_m?: number };
    copy.shape =
      value === "circle"
        ? { kind: "circle", diameter_m: s.diameter_m ?? s.b_m ?? 0.4 }
        : { kind: "rectangle", b_m: s.b_m ?? s.diameter_m ?? 0.4, d_m: s.d_m ?? s.diameter_m ?? 0.4 };
    return copy;
  }
  const last = keys.pop() as string;
  let here: Record<string, unknown> = copy;
  for (const key of keys) here = here[key] as Record<string, unknown>;
  if (value === undefined && path !== "outline") delete here[last];
  else here[last] = value === undefined ? null : value;
  return copy;
}

/** A value as a cell shows it. */
export function cellText(property: Property, item: Labelled, system: System): string {
  const value = valueAt(item, property.path) ?? property.fallback;
  if (property.when && !property.when(item)) return "";
  if (value === undefined || value === null) return "";
  if (property.type === "points") return pointsText(value as Vertex[], system);
  if (property.type === "check") return value ? "yes" : "no";
  if (typeof value === "number" && property.dimension) return written(value, property.dimension, system);
  return String(value).replaceAll("_", " ");
}

/** A short word for a list of points in a cell that is not being edited. */
export function pointsBrief(property: Property, item: Labelled, system: System): string {
  const value = valueAt(item, property.path) as Vertex[] | null | undefined;
  if (!value) return property.empty ? "everywhere" : "";
  return property.path === "line"
    ? `${measured(lengthOf(value), "length", system)} long`
    : `${value.length} corners, ${measured(areaOf(value), "area", system)}`;
}

function pointsText(points: Vertex[], system: System): string {
  return points
    .map(([px = 0, py = 0, bulge]) => {
      const at = `${written(px, "length", system)}, ${written(py, "length", system)}`;
      return bulge ? `${at}, arc ${Number(bulge.toPrecision(9))}` : at;
    })
    .join("; ");
}

export type Parsed = { value: unknown } | { problem: string };

/** What a text typed or pasted into a cell means. */
export function parsed(property: Property, text: string, document: FloorDocument, system: System): Parsed {
  const given = text.trim();
  if (given === "") {
    if (property.empty) return { value: undefined };
    if (property.fallback !== undefined && property.type !== "choice") return { value: undefined };
    return { problem: `${property.name} cannot be empty` };
  }
  if (property.type === "number") {
    const dimension = property.dimension ?? "none";
    const value = read(given, dimension, system);
    return value === null ? { problem: unreadable(given, dimension, system) } : { value };
  }
  if (property.type === "whole") {
    return /^[+-−]?\d+$/.test(given)
      ? { value: Number(given.replace("−", "-")) }
      : { problem: `“${given}” is not a whole number` };
  }
  if (property.type === "check") {
    if (["yes", "true", "1", "x", "✓"].includes(given.toLowerCase())) return { value: true };
    if (["no", "false", "0", "–", "-"].includes(given.toLowerCase())) return { value: false };
    return { problem: `“${given}” is neither yes nor no` };
  }
  if (property.type === "choice") {
    const choices = property.choices?.(document) ?? [];
    if (!choices.length) return { problem: `${property.name} cannot be changed here` };
    const wanted = given.toLowerCase().replaceAll(" ", "_");
    const found = choices.find((c) => c.toLowerCase().replaceAll(" ", "_") === wanted);
    return found === undefined
      ? { problem: `“${given}” is none of ${choices.join(", ").replaceAll("_", " ")}` }
      : { value: found };
  }
  if (property.type === "points") return points(given, system);
  if (property.path === "vertical" || property.path === "rotation") {
    if (given === "fixed" || given === "free") return { value: given };
    const value = Number(given);
    return Number.isFinite(value) && value >= 0
      ? { value }
      : {
          problem: `“${given}” is not fixed, free or a stiffness (${property.path === "vertical" ? "kN/m" : "kNm/rad"})`,
        };
  }
  return { value: given };
}

function points(given: string, system: System): Parsed {
  const out: Vertex[] = [];
  for (const part of given.split(";").filter((p) => p.trim())) {
    const [px, py, arc] = splitPoint(part);
    const at = [px, py].map((t) => (t === undefined ? null : read(t, "length", system)));
    if (at[0] === null || at[1] === null || at[0] === undefined || at[1] === undefined)
      return { problem: `“${part.trim()}” is not a corner; write x, y; x, y; …` };
    const bulge = arc === undefined ? undefined : Number(arc.replace(/^\s*arc\s*/, "").replace("−", "-"));
    if (bulge !== undefined && !Number.isFinite(bulge)) return { problem: `“${part.trim()}”: the arc is not a number` };
    out.push(bulge ? [at[0], at[1], bulge] : [at[0], at[1]]);
  }
  return { value: out };
}

/** x, y and arc of a corner; a comma without a space after it is a decimal comma's. */
function splitPoint(part: string): (string | undefined)[] {
  const spaced = part.trim().split(/,\s+|\s+(?=arc)/);
  return spaced.length > 1 ? spaced.map((s) => s.replace(/,$/, "")) : part.trim().split(",");
}
