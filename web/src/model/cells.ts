import { measured, read, type System, unreadable, written } from "../units/quantities";
import type { FloorDocument, Labelled, Vertex } from "./floor";
import { areaOf, lengthOf } from "./outlines";
import { type Property, valueAt } from "./property";

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

/** A value as a cell shows it. */
export function cellText(property: Property, item: Labelled, system: System): string {
  const value = valueAt(item, property.path) ?? property.fallback;
  if (property.when && !property.when(item)) return "";
  if (value === undefined || value === null) return "";
  if (property.type === "points") return pointsText(value as Vertex[], system);
  if (property.type === "check") return value ? "yes" : "no";
  if (property.path === "layers") return Array.isArray(value) ? layersText(value, system) : "";
  if (property.path === "slabs") return Array.isArray(value) ? value.join(", ") : "";
  if (typeof value === "number" && property.quantity) return written(value, property.quantity, system);
  return property.type === "choice" ? String(value).replaceAll("_", " ") : String(value);
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
    const quantity = property.quantity ?? "none";
    const value = read(given, quantity, system);
    return value === null ? { problem: unreadable(given, quantity, system) } : { value };
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
