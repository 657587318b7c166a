import type { FloorDocument, Kind, Labelled } from "../model/floor";
import { measured, type Quantity, type System } from "../units/quantities";
import { isKind, nameOf } from ".";
import { floorName, propertiesOf } from "./properties";

/** A refusal as the server tells it: where in the file, and what is to be done. */
export type Refused = { path: string; sentence: string };

/** Lists of the project that are no kinds of a floor's objects, by what one of them is called. */
export const SHARED_LISTS: Record<string, string> = {
  levels: "Level",
  grid_sets: "Grid set",
  combination_sets: "Set of combinations",
};
const SHARED_FIELDS: Record<string, [string, Quantity]> = {
  "levels.height_m": ["Height", "length"],
  "grid_sets.spacings_m": ["Spacings", "length"],
  "grid_sets.start_m": ["Start", "length"],
  "grid_sets.end_m": ["End", "length"],
  "grid_sets.angle_deg": ["Angle", "angle"],
};
const NUMBER = /(greater than|less than|at least|at most|not) ([-+]?\d+(?:\.\d+)?(?:e[-+]?\d+)?)(?![\w.])/g;

/** Long numbers are read in groups of three. */
const grouped = (text: string) =>
  text.replace(/(?<![.\d])\d{4,}(?=\D|$)/, (digits) => digits.replace(/\B(?=(\d{3})+$)/g, ","));

/** Numbers of a sentence in the unit that their field is shown in. */
const inUnits = (sentence: string, quantity: Quantity | undefined, system: System): string =>
  quantity && quantity !== "none"
    ? sentence.replace(NUMBER, (_, words: string, number: string) => {
        const shown = measured(Number(number), quantity, system);
        return `${words} ${grouped(shown)}`;
      })
    : sentence;

export const lower = (text: string) => text.charAt(0).toLowerCase() + text.slice(1);

/** A refusal by the names that the reader knows: the field as it is called, the object by its label, numbers in the project's units. */
export function told(refused: Refused, document: FloorDocument, system: System): string {
  const { path, sentence } = refused;
  const found = /^(\w+)\[(\d+)\](?:\.(.+))?$/.exec(path);
  if (!found) {
    const known = floorName(path);
    return known ? `${known.name} ${inUnits(sentence, known.quantity, system)}` : `${path} ${sentence}`;
  }
  const [, list = "", index = "0", rest = ""] = found;
  const items = (document as unknown as Record<string, Labelled[] | undefined>)[list] ?? [];
  const item = items[Number(index)];
  const label = item?.id ? String(item.id) : `number ${Number(index) + 1}`;
  const field = rest.replaceAll("[", ".").replaceAll("]", "");
  if (!isKind(list)) {
    const [name, quantity] = SHARED_FIELDS[`${list}.${field.replace(/\.\d+$/, "")}`] ?? ["", undefined];
    const what = `${SHARED_LISTS[list] ?? list.replaceAll("_", " ")} ${label}`;
    return name
      ? `${name} of ${lower(what)} ${inUnits(sentence, quantity, system)}`
      : `${what}${field ? `: ${field.replaceAll("_", " ")}` : ""} ${sentence}`;
  }
  const kind = list as Kind;
  const what = nameOf([{ kind, id: label }]);
  if (!field) return `${what} ${sentence}`;
  const properties = item ? propertiesOf(kind, item, document) : [];
  // A value within a list, as a corner of an outline, is told by the list that has a name.
  const own =
    properties.find((p) => p.path === field) ??
    properties.find((p) => field.startsWith(`${p.path}.`)) ??
    properties.find((p) => p.path.startsWith(`${field}.`));
  const corner = /(?:outline|line)\.(\d+)/.exec(field);
  const name = corner ? `Corner ${Number(corner[1]) + 1}` : (own?.name ?? field.replaceAll(/[._]/g, " "));
  const quantity = corner ? "length" : own?.quantity;
  return `${name.charAt(0).toUpperCase() + name.slice(1)} of ${lower(what)} ${inUnits(sentence, quantity, system)}`;
}

/** What a run that was refused told, a line for each thing. */
export function toldLines(text: string, document: FloorDocument, system: System): string {
  return text
    .split("\n")
    .filter(Boolean)
    .map((line) => {
      const cut = line.indexOf(": ");
      return cut < 0 ? line : told({ path: line.slice(0, cut), sentence: line.slice(cut + 2) }, document, system);
    })
    .join("; ");
}
