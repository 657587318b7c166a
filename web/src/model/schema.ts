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
  /** Choices that depend on the object too. */
  choicesFor?: (document: FloorDocument, item: Labelled) => string[];
  /** What an absent value stands for. */
  fallback?: unknown;
  /** Whether an empty cell is allowed; it takes the value away. */
  empty?: boolean;
  /** Whether the object has this value at all. */
  when?: (item: Labelled) => boolean;
  /** Follows from other values and is not typed. */
  fixed?: boolean;
  narrow?: boolean;
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

const forceful = (item: Labelled) => item.kind === "point" || item.kind === "joint";
const ownLine = (item: Labelled) => item.kind === "line" && Array.isArray(item.q_kN_m);
const threePoints = (item: Labelled) => (item.varies as { kind: string } | null)?.kind === "three_points";
const labelsOf = (list: Labelled[] | undefined) => (list ?? []).map((i) => i.id);
const joints = (d: FloorDocument) => [...labelsOf(d.columns), ...labelsOf(d.walls)];
const named = (path: string, name: string, choices: (d: FloorDocument, item: Labelled) => string[]): Property => ({
  path,
  name,
  type: "choice",
  choicesFor: choices,
  when: (i) => (i.kind === "area" && !i.varies) || i.kind === "line",
});
/** Categories of use by standard, as the server's generators know them. */
const categoriesOf = (d: FloorDocument) =>
  d.standard === "ACI 318-19" ? ["other", "assembly", "garage", "heavy"] : [..."ABCDEFGH"];
export const SLICED = ["mn", "mt", "vn", "w", "mx", "my", "mxy", "m1", "m2", "vx", "vy", "v", "nx", "ny", "nxy"];

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
    named("worth", "Value from", (d, i) => [
      "own",
      ...(i.kind === "area" ? [...labelsOf(d.build_ups), ...labelsOf(d.occupancies)] : labelsOf(d.partitions)),
    ]),
    number("q_kPa", "Load", "pressure", { when: (i) => i.kind === "area" && typeof i.q_kPa === "number" }),
    number("varies.q_kPa.0", "at 1", "pressure", { when: (i) => Boolean(i.varies) }),
    number("varies.q_kPa.1", "at 2", "pressure", { when: (i) => Boolean(i.varies) }),
    number("varies.q_kPa.2", "at 3", "pressure", { when: threePoints }),
    { path: "varies.points", name: "Points", type: "points", when: threePoints },
    {
      path: "varies.line",
      name: "Varies along",
      type: "points",
      when: (i) => (i.varies as { kind: string } | null)?.kind === "direction",
    },
    number("q_kN_m.0", "At the start", "lineload", { when: ownLine }),
    number("q_kN_m.1", "At the end", "lineload", { when: ownLine }),
    number("F_kN", "Force", "force", { when: forceful, fallback: 0 }),
    number("Mx_kNm", "Moment about x", "moment", { when: forceful, fallback: 0 }),
    number("My_kNm", "Moment about y", "moment", { when: forceful, fallback: 0 }),
    number("patch.b_m", "Spread over", "size", { when: kind("point"), empty: true }),
    number("patch.d_m", "by", "size", { when: (i) => Boolean(i.patch) }),
    { path: "support", name: "At", type: "choice", choices: joints, when: kind("joint") },
    { path: "slabs", name: "On slabs", type: "text", when: kind("area"), empty: true },
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
  slices: [
    label,
    {
      path: "quantity",
      name: "Quantity",
      type: "choice",
      choices: () => SLICED,
      fallback: "mn",
    },
    number("width_m", "Averaged over", "length", { fallback: 0 }),
    line,
  ],
  load_materials: [label, number("unit_weight_kN_m3", "Unit weight", "weight")],
  build_ups: [
    label,
    { path: "layers", name: "Layers", type: "text", wide: true, fallback: "", empty: true },
    number("extra_kPa", "Besides", "pressure", { fallback: 0 }),
  ],
  partitions: [
    label,
    { path: "build_up", name: "Build-up", type: "choice", choices: (d) => labelsOf(d.build_ups) },
    number("height_m", "Height", "length"),
  ],
  occupancies: [
    label,
    { path: "category", name: "Category", type: "choice", choices: categoriesOf, empty: true },
    number("q_kPa", "Live load", "pressure"),
    number("partitions_kPa", "Movable partitions", "pressure", { fallback: 0 }),
    { path: "source", name: "Source", type: "text", wide: true, fallback: "", empty: true },
  ],
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
    { path: "category", name: "Category", type: "choice", choices: categoriesOf, empty: true },
    { path: "pattern", name: "In patterns", type: "check", fallback: false },
    { path: "reversible", name: "Either sign", type: "check", fallback: false },
    choice("direction", "Direction", ["x", "y"], { empty: true, fallback: undefined }),
    { path: "group", name: "Excludes others of", type: "text", empty: true },
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
    return (document.load_cases ?? []).map((c) =>
      number(`factor:${c.id}`, `${c.id}, ${c.nature.replace("_", " ")}`, "none", { empty: true }),
    );
  return PROPERTIES[kindOf].filter((p) => !p.when || p.when(item));
}

/** Where a load takes its value from: `own`, or the label of a build-up, occupancy or partition. */
function worthOf(item: Labelled): string {
  return (item.build_up ?? item.occupancy ?? item.partition ?? "own") as string;
}

/** The load with its value from elsewhere, or a value of its own again. */
function withWorth(item: Labelled, from: { key: string; value: unknown }): Labelled {
  const { build_up: _b, occupancy: _o, partition: _p, q_kPa: _q, q_kN_m: _l, varies: _v, ...rest } = item;
  return { ...rest, [from.key]: from.value };
}

/** Layers as written: `screed 60; tiles 12` in the project's unit of thickness. */
export function layersText(layers: { material: string; thickness_mm: number }[], system: System): string {
  return layers.map((l) => `${l.material} ${written(l.thickness_mm, "cover", system)}`).join("; ");
}

/** Layers read back; a string says what is wrong. */
export function layersOf(text: string, document: FloorDocument, system: System) {
  const out: { material: string; thickness_mm: number }[] = [];
  const known = document.load_materials ?? [];
  for (const part of text.split(";").filter((p) => p.trim())) {
    const match = /^(.*\S)\s+(\S+(?:\s*(?:mm|cm|m|in|"))?)$/.exec(part.trim());
    const thickness = match ? read(match[2] as string, "cover", system) : null;
    const material = known.find((m) => m.id.toLowerCase() === match?.[1]?.toLowerCase());
    if (!match || thickness === null || thickness <= 0)
      return `“${part.trim()}” is no layer; write material and thickness: screed 60; tiles 12`;
    if (!material) return `“${match[1]}” is none of the materials of layers: ${known.map((m) => m.id).join(", ")}`;
    out.push({ material: material.id, thickness_mm: thickness });
  }
  return out;
}

export function valueAt(item: Labelled, path: string): unknown {
  if (path === "worth") return worthOf(item);
  if (path.startsWith("factor:")) return (item.factors as Record<string, number>)[path.slice("factor:".length)];
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
  if (path.startsWith("factor:")) {
    const factors = { ...(copy.factors as Record<string, number>) };
    if (value === undefined || value === 0) delete factors[path.slice("factor:".length)];
    else factors[path.slice("factor:".length)] = value as number;
    return { ...copy, factors, ...(copy.rule ? { edited: true } : {}) };
  }
  if (path === "worth") return withWorth(item, value as { key: string; value: unknown });
  if (path === "patch.b_m") {
    if (value === undefined) delete copy.patch;
    else copy.patch = { d_m: value, ...(copy.patch as object | null), b_m: value };
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
  if (property.path === "layers") return Array.isArray(value) ? layersText(value, system) : "";
  if (property.path === "slabs") return Array.isArray(value) ? value.join(", ") : "";
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
export function parsed(
  property: Property,
  text: string,
  document: FloorDocument,
  system: System,
  item?: Labelled,
): Parsed {
  const given = text.trim();
  if (property.path === "worth" && item) return worthFrom(given, document, item);
  if (property.path === "layers") {
    const layers = layersOf(given, document, system);
    return typeof layers === "string" ? { problem: layers } : { value: layers };
  }
  if (property.path === "slabs" && given) {
    const wanted = given.split(",").map((s) => s.trim());
    const strange = wanted.find((w) => !document.slabs.some((s) => s.id === w));
    return strange ? { problem: `“${strange}” is no slab of this floor` } : { value: wanted };
  }
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

function worthFrom(given: string, document: FloorDocument, item: Labelled): Parsed {
  const found = (list: Labelled[] | undefined) => list?.find((i) => i.id.toLowerCase() === given.toLowerCase())?.id;
  if (given === "own" || given === "") {
    const value = item.kind === "line" ? [1, 1] : 1;
    return { value: { key: item.kind === "line" ? "q_kN_m" : "q_kPa", value } };
  }
  if (item.kind === "line") {
    const partition = found(document.partitions);
    return partition ? { value: { key: "partition", value: partition } } : { problem: `“${given}” is no partition` };
  }
  const build = found(document.build_ups);
  if (build) return { value: { key: "build_up", value: build } };
  const use = found(document.occupancies);
  return use ? { value: { key: "occupancy", value: use } } : { problem: `“${given}” is no build-up and no occupancy` };
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
