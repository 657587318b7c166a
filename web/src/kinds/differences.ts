import type { components } from "../api/generated";
import type { FloorDocument, Labelled } from "../model/floor";
import { measured, type Quantity, type System } from "../units/quantities";
import { isKind, nameOf, singular } from ".";
import { floorName, propertiesOf } from "./properties";
import { lower, SHARED_LISTS } from "./refusals";

export type Difference = components["schemas"]["DifferenceState"];

const words = (text: string) => text.replaceAll(/[._]/g, " ");
const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

/** What a list's object, or a setting without a label, is called. */
export function thingOf(list: string, id: string): string {
  if (!id) return floorName(list)?.name ?? capital(words(list));
  return isKind(list) ? nameOf([{ kind: list, id }]) : `${SHARED_LISTS[list] ?? capital(words(list))} ${id}`;
}

function shown(value: unknown, quantity: Quantity | undefined, system: System): string {
  if (value === null || value === undefined || value === "") return "none";
  if (typeof value === "boolean") return value ? "yes" : "no";
  if (typeof value === "number")
    return quantity && quantity !== "none" ? measured(value, quantity, system) : `${value}`;
  if (Array.isArray(value)) return `${value.length} of them`;
  return typeof value === "object" ? "given" : words(String(value));
}

/** A difference as its reader knows it: the field as it is called, what it is of, both values in the project's units. */
export function differenceText(d: Difference, document: FloorDocument, system: System): string {
  const what = thingOf(d.list, d.id);
  if (d.kind !== "changed") return `${what} ${d.kind}`;
  if (!d.id) {
    const path = d.path ? `${d.list}.${d.path}` : d.list;
    const known = floorName(path);
    const name = known?.name ?? capital(words(path));
    return `${name}: ${shown(d.before, known?.quantity, system)} to ${shown(d.after, known?.quantity, system)}`;
  }
  const corner = /^(outline|line)(?:\.(\d+))?/.exec(d.path);
  if (corner) {
    const name = corner[2] === undefined ? "Corners" : `Corner ${Number(corner[2]) + 1}`;
    return `${name} of ${lower(what)} moved`;
  }
  const axis = /^at\.([01])$/.exec(d.path);
  if (axis) {
    const place = (v: unknown) => shown(v, "length", system);
    return `${axis[1] === "0" ? "x" : "y"} of ${lower(what)}: ${place(d.before)} to ${place(d.after)}`;
  }
  const item = ((document as unknown as Record<string, Labelled[] | undefined>)[d.list] ?? []).find(
    (i) => i.id === d.id,
  );
  const properties = isKind(d.list) && item ? propertiesOf(d.list, item, document) : [];
  const own = properties.find((p) => p.path === d.path) ?? properties.find((p) => p.path.startsWith(`${d.path}.`));
  const name = own?.name ?? capital(words(d.path));
  const of = isKind(d.list) ? `${lower(singular(d.list))} ${d.id}` : lower(what);
  return `${name} of ${of}: ${shown(d.before, own?.quantity, system)} to ${shown(d.after, own?.quantity, system)}`;
}
