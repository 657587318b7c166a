import { DRAWING, kindOf, startOf } from "../kinds";
import type { Storeys } from "../kinds/kind";
import { propertiesOfKind } from "../kinds/properties";
import type { FloorDocument, Kind, Labelled } from "../model/floor";
import { type Property, valueAt, withValue } from "../model/property";
import { templateOf } from "../plan/tools/templates";
import type { Fresh } from "./block";

/** The item with a value at a path whose parents may be missing. */
function put(item: Labelled, path: string, value: unknown): Labelled {
  const [first = "", ...rest] = path.split(".");
  if (rest.length && item[first] === undefined)
    return withValue({ ...item, [first]: /^\d+$/.test(rest[0] ?? "") ? [] : {} }, path, value);
  return withValue(item, path, value);
}

/** What the drawing tools of a kind begin with. */
export const startsOf = (kind: Kind, document: FloorDocument, storeys: Storeys): Labelled[] =>
  DRAWING.filter((t) => t.kind === kind).map((t) => templateOf(t.key, kind, document, storeys));

/** What a row typed into the table of a kind would be: values as given, the others as the drawing tool of its kind has them. */
export function freshOf(kind: Kind, document: FloorDocument, storeys: Storeys): Fresh {
  const starts = startsOf(kind, document, storeys);
  const all = propertiesOfKind(kind);
  const asked = all.filter((p) => p.required && p.path !== "id");
  return (values) => {
    const like =
      starts.find((s) => s.kind === values.kind) ??
      starts[0] ??
      startOf(kind, { tool: "", document, storeys, activeCase: null });
    let item: Labelled = { ...like, id: "" };
    for (const [path, value] of Object.entries(values)) item = put(item, path, value);
    item = kindOf(kind).typed?.(item, values, document) ?? item;
    // Where it is to be told apart by its kind, that is asked for first.
    const unknown =
      starts.length > 1 && like.kind !== undefined && values.kind === undefined && asked.some((p) => p.path === "kind");
    const needs = kindOf(kind).needs?.(item, values) ?? [];
    const missing: Property[] = all.filter(
      (p) =>
        needs.includes(p.path) ||
        (asked.includes(p) && (p.path === "kind" ? unknown : (!p.when || p.when(item)) && emptyAt(item, p.path))),
    );
    return { item, missing };
  };
}

const emptyAt = (item: Labelled, path: string) => {
  const value = valueAt(item, path);
  return value === undefined || value === null || value === "";
};
