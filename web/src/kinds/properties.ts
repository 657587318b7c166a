import table from "../api/fields.generated.json";
import type { FloorDocument, Kind, Labelled } from "../model/floor";
import { type Property, valueAt } from "../model/property";
import type { Quantity } from "../units/quantities";
import { kindOf } from ".";

/** One value of an object as the schema has it. */
type Field = {
  path: string;
  type: string;
  quantity?: string;
  choices?: string[];
  default?: unknown;
  nullable?: boolean;
  required?: boolean;
  told?: string;
  /** Kinds of the object that have it. */
  kinds?: string[];
  /** What must be there for it. */
  when?: { path: string; is: string | string[] };
};

const LISTS = table.lists as unknown as Record<Kind, Field[]>;
const FLOOR = table.floor as unknown as Field[];
const UNIT = /_(kNm_m|mm2_m|kN_m3|kN_m|kNm|kN|kPa|MPa|mm|m2|m|deg|days)$/;

/** A key as words, for values that nobody has named yet. */
const words = (path: string) => {
  const text = path.replace(UNIT, "").replaceAll(/[._]/g, " ");
  return text.charAt(0).toUpperCase() + text.slice(1);
};

function there(field: Field): Property["when"] {
  const { kinds, when } = field;
  if (!kinds && !when) return undefined;
  return (item: Labelled) => {
    if (kinds && !kinds.includes(item.kind as string)) return false;
    if (!when) return true;
    const value = valueAt(item, when.path);
    return when.is === "there" ? Boolean(value) : [when.is].flat().includes(value as string);
  };
}

const TYPES: Record<string, Property["type"]> = {
  number: "number",
  whole: "whole",
  choice: "choice",
  check: "check",
  points: "points",
  mixed: "mixed",
  text: "text",
  list: "text",
  map: "text",
};

function propertyOf(field: Field, name: string, more: Partial<Property> = {}): Property {
  const choices = field.choices;
  return {
    path: field.path,
    name,
    type: TYPES[field.type] ?? "text",
    ...(field.quantity && field.type === "number" ? { quantity: field.quantity as Quantity } : {}),
    ...(choices ? { choices: () => choices } : {}),
    ...(field.type === "choice" && !field.required && !field.nullable
      ? { fallback: field.default ?? choices?.[0] }
      : {}),
    ...(field.default !== undefined && field.type !== "choice" ? { fallback: field.default } : {}),
    ...(field.nullable ? { empty: true } : {}),
    ...(field.required ? { required: true } : {}),
    ...(field.type === "points" ? { wide: true } : {}),
    ...(field.told ? { told: field.told } : {}),
    when: there(field),
    ...more,
  };
}

const made = new Map<Kind, Property[]>();

/** Values of a kind in the order of the ledger's columns: those with a name first, and every other one of the schema. */
export function propertiesOfKind(kind: Kind): Property[] {
  const known = made.get(kind);
  if (known) return known;
  const file = kindOf(kind);
  const fields = new Map(LISTS[kind].map((f) => [f.path, f]));
  const own = new Map((file.own ?? []).map((p) => [p.path, p]));
  const covered = new Set((file.own ?? []).flatMap((p) => p.covers));
  const out: Property[] = [];
  for (const [path, name] of Object.entries(file.names)) {
    const field = fields.get(path);
    const special = own.get(path);
    if (special) out.push(special);
    else if (field) out.push(propertyOf(field, name, file.more?.[path]));
    fields.delete(path);
  }
  for (const [path, field] of fields)
    if (!covered.has(path)) out.push(propertyOf(field, words(path), file.more?.[path]));
  made.set(kind, out);
  return out;
}

/** The properties of one object; a combination's are its factors. */
export function propertiesOf(kind: Kind, item: Labelled, document: FloorDocument): Property[] {
  if (kind === "combinations")
    return (document.load_cases ?? []).map((c) => ({
      path: `factor:${c.id}`,
      name: `${c.id}, ${c.nature.replace("_", " ")}`,
      type: "number",
      quantity: "none",
      empty: true,
    }));
  return propertiesOfKind(kind)
    .filter((p) => p.type !== "text" || p.path !== "kind" || !p.fixed)
    .filter((p) => !p.when || p.when(item));
}

/** Values of the floor itself by path, under a name. */
export function floorProperty(path: string, name: string, more: Partial<Property> = {}): Property {
  const field = FLOOR.find((f) => f.path === path);
  if (!field) throw new Error(`the floor file has no ${path}`);
  return propertyOf(field, name, more);
}

const FLOOR_NAMES: Record<string, string> = {
  name: "The floor's name",
  "mesh.size_m": "Mesh size",
  "deflection.span_over": "Limit of deflection",
  "construction.age_days": "Concrete's age",
  "fire.resistance": "Fire resistance",
  crack_width_limit_mm: "Greatest crack",
  stock_length_m: "Longest bar",
  bar_sizes_mm: "Bars to choose from",
  spacings_mm: "Spacings to choose from",
  extra_in_spans_pct: "Share of spans with extra bars",
  "history.humidity_pct": "Humidity",
  "history.cured_days": "Days of curing",
  "history.end_days": "End of the history",
};

/** How one of the floor's own values is called, and its quantity; null for what is none of them. */
export function floorName(path: string): { name: string; quantity?: Quantity } | null {
  const own = path.replace(/\[\d+\]$/, "");
  const field = FLOOR.find((f) => f.path === own);
  if (!field) return null;
  return { name: FLOOR_NAMES[own] ?? words(own), ...(field.quantity ? { quantity: field.quantity as Quantity } : {}) };
}

/** Paths of the schema that neither a property nor a form of its own edits: none, as a test holds. */
export function unedited(kind: Kind): string[] {
  const covered = new Set([
    ...propertiesOfKind(kind).map((p) => p.path),
    ...(kindOf(kind).own ?? []).flatMap((p) => p.covers),
  ]);
  return LISTS[kind].map((f) => f.path).filter((p) => !covered.has(p));
}

/** Paths of the floor's own values. */
export const FLOOR_PATHS = FLOOR.map((f) => f.path);
