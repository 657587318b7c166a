import type { Quantity } from "../units/quantities";
import type { FloorDocument, Labelled } from "./floor";

/** One editable value of an object: where it is, how it is called, and what may be typed. */
export type Property = {
  path: string;
  name: string;
  type: "number" | "whole" | "choice" | "text" | "check" | "points" | "mixed";
  quantity?: Quantity;
  choices?: (document: FloorDocument) => string[];
  /** Choices that depend on the object too. */
  choicesFor?: (document: FloorDocument, item: Labelled) => string[];
  /** What an absent value stands for. */
  fallback?: unknown;
  /** Whether an empty cell is allowed; it takes the value away. */
  empty?: boolean;
  /** Whether the object has this value at all. */
  when?: (item: Labelled) => boolean;
  /** Whether an object cannot be without it. */
  required?: boolean;
  /** Follows from other values and is not typed. */
  fixed?: boolean;
  narrow?: boolean;
  /** Wider than a number's column. */
  wide?: boolean;
  /** What it is, in a sentence. */
  told?: string;
};

export function valueAt(item: Labelled, path: string): unknown {
  if (path === "worth") return worthOf(item);
  if (path.startsWith("factor:")) return (item.factors as Record<string, number>)[path.slice("factor:".length)];
  return path.split(".").reduce<unknown>((here, key) => (here as Record<string, unknown> | undefined)?.[key], item);
}

/** The object with one value set; undefined takes it away. Setting a storey's height, a section's kind, an age under
 * construction or a fire's resistance makes the whole. */
export function withValue(item: Labelled, path: string, value: unknown): Labelled {
  const copy = structuredClone(item);
  const keys = path.split(".");
  const [first = "", second] = keys;
  if ((first === "below" || first === "above") && second === "height_m") {
    const was = copy[first] as { far_end?: string; by_level?: boolean } | null | undefined;
    // A typed height is a height of its own from then on.
    copy[first] =
      value === undefined
        ? null
        : { far_end: "fixed", ...was, height_m: value, ...(was?.by_level ? { by_level: false } : {}) };
    return copy;
  }
  if (path === "construction.age_days" || path === "fire.resistance") {
    copy[first] = value == null ? null : { ...(copy[first] as object | null), [second as string]: value };
    return copy;
  }
  if (path.startsWith("factor:")) {
    const factors = { ...(copy.factors as Record<string, number>) };
    if (value === undefined || value === 0) delete factors[path.slice("factor:".length)];
    else factors[path.slice("factor:".length)] = value as number;
    return { ...copy, factors, ...(copy.rule ? { edited: true } : {}) };
  }
  if (path === "q_kPa" && value !== undefined) return withWorth(item, { key: "q_kPa", value });
  if (first === "q_kN_m" && !Array.isArray(item.q_kN_m) && value !== undefined)
    return withWorth(item, { key: "q_kN_m", value: [value, value] });
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

/** Where a load takes its value from: `own`, or the label of a build-up, occupancy or partition. */
function worthOf(item: Labelled): string {
  return (item.build_up ?? item.occupancy ?? item.partition ?? "own") as string;
}

/** The load with its value from elsewhere, or a value of its own again. */
function withWorth(item: Labelled, from: { key: string; value: unknown }): Labelled {
  const { build_up: _b, occupancy: _o, partition: _p, q_kPa: _q, q_kN_m: _l, varies: _v, ...rest } = item;
  return { ...rest, [from.key]: from.value };
}
