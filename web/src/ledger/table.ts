import type { FloorDocument, Kind } from "../model/floor";
import { itemsOf } from "../model/floor";
import type { Results } from "../model/results";
import type { PlaceValues } from "../readings/places";
import type { Catalogue, Chosen, Diagram, ReactionTable, RunList } from "../readings/readings";
import type { Selection } from "../session";
import { markOf, SIGN, shown, use } from "../units/format";
import type { System } from "../units/quantities";
import { figureOf, toldUnit } from "../units/results";

export type Cell = {
  text: string;
  sort: number | string;
  mark?: string;
  /** What goes to a spreadsheet. */
  plain?: string;
};
export type Line = {
  key: string;
  cells: Cell[];
  opens: Selection;
  /** What a line does that opens nothing of the open floor. */
  does?: () => void;
  at?: [number, number] | null;
  /** How much of the plan (m) its place fills. */
  wide?: number;
  /** Sums stay on top however the table is sorted. */
  fixed?: boolean;
};
/** A column: its symbol or name, what is set low behind it, its unit as the project has it. */
export type Column = { name: string; low?: string; unit?: string; figure: boolean };
export type TableView = {
  title: string;
  /** What the table is of. */
  told?: string;
  columns: Column[];
  lines: Line[];
  empty: string;
  /** What lines that fail are; without words a utilisation over 1. */
  failing?: string;
  /** Number of the column by which it is sorted at first, greatest on top. */
  sorted?: number;
};

/** Everything that tables of results are made from. */
export type Sources = {
  document: FloorDocument;
  results: Results | null;
  system: System;
  chosen: Chosen | null;
  reactions: ReactionTable | null;
  diagrams: Record<string, Diagram | string | undefined>;
  places: Record<string, PlaceValues>;
  runs: RunList;
  catalogue: Catalogue | null;
  /** What the floor is compared with. */
  beside: { name: string; results: Results } | null;
};

export const text = (value: unknown): Cell => ({
  text: value == null ? "–" : String(value),
  sort: String(value ?? ""),
});
export const usage = (value: number | null): Cell => ({
  text: `${use(value)} ${SIGN[markOf(value)]}`,
  plain: value === null ? "" : value.toFixed(4),
  sort: value ?? -1,
  mark: markOf(value),
});
export const object = (kind: Kind, id: string): Selection => ({ type: "object", kind, id });
export const NONE = "No results yet; they come by themselves when the run ends.";

/** Columns and figures in the units of a project. `unit` is that of the results: kN, kNm/m, `stress`. */
export function inUnits(system: System) {
  return {
    word: (name: string): Column => ({ name, figure: false }),
    column: (name: string, unit = "", low?: string): Column => ({
      name,
      low,
      figure: true,
      ...(unit ? { unit: toldUnit(unit, system).unit } : {}),
    }),
    figure: (value: number | null | undefined, unit = "", digits?: number): Cell => ({
      text: value == null ? "–" : unit ? figureOf(value, unit, system, digits) : shown(value, "", digits),
      sort: value ?? Number.NEGATIVE_INFINITY,
    }),
  };
}

export function supportSelection(document: FloorDocument, id: string): Selection {
  for (const kind of ["columns", "walls", "supports"] as Kind[])
    if (itemsOf(document, kind).some((i) => i.id === id)) return object(kind, id);
  return null;
}
