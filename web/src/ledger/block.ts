import type { Problem } from "../api/client";
import { cellText, type Parsed } from "../model/cells";
import type { Labelled } from "../model/floor";
import type { Property } from "../model/property";
import type { System } from "../units/quantities";

/** A block of cells as spreadsheets put it on the clipboard: lines, cells parted by tabs. */
export function blockOf(text: string): string[][] {
  return text
    .replace(/\r/g, "")
    .replace(/\n$/, "")
    .split("\n")
    .map((l) => l.split("\t"));
}

/** Cells as such a block; a minus is written as spreadsheets read it. */
export function blockText(rows: Labelled[], properties: Property[], system: System): string {
  return rows.map((r) => properties.map((p) => cellText(p, r, system).replace("−", "-")).join("\t")).join("\n");
}

/** A row that is not there yet: what was typed or pasted into it, by the path of the cell. */
export type Draft = { id: string; texts: Record<string, string> };

/** What a row of these values would be, and which values it waits for. */
export type Fresh = (values: Record<string, unknown>) => { item: Labelled; missing: Property[] };

export type DraftRead = {
  values: Record<string, unknown>;
  /** Why cells of it cannot be read, by path. */
  wrong: Record<string, string>;
  missing: Property[];
};

/** The values of a draft, and what keeps it from becoming a row. */
export function draftRead(
  draft: Draft,
  properties: Property[],
  fresh: Fresh,
  read: (property: Property, text: string, item: Labelled) => Parsed,
): DraftRead {
  const values: Record<string, unknown> = {};
  const wrong: Record<string, string> = {};
  let item = fresh(values).item;
  // What an object is comes first: it decides which other values there are, and where one may come from.
  const order = [...properties].sort((a, b) => Number(b.path === "kind") - Number(a.path === "kind"));
  for (const p of order) {
    const text = draft.texts[p.path]?.trim();
    if (!text) continue;
    const result: Parsed =
      p.fixed && p.path !== "kind"
        ? { problem: `${p.name} follows from the rest; it is not typed` }
        : p.when && !p.when(item)
          ? { problem: `such a row has no ${p.name.toLowerCase()}` }
          : read(p, text, item);
    if ("problem" in result) wrong[p.path] = result.problem;
    else if (result.value !== undefined) values[p.path] = result.value;
    item = fresh(values).item;
  }
  return { values, wrong, missing: fresh(values).missing.filter((p) => !(p.path in wrong)) };
}

/** A cell of a row that is there, and what it would come to. */
export type Coming = { row: Labelled; property: Property; text: string; told?: string; same: boolean };

export type Pasted = {
  cells: Coming[];
  /** Rows that the lines below the last one make. */
  drafts: Draft[];
  /** Cells that lie beside the table, or below a table that takes no rows. */
  beside: number;
};

/** What a block would do to the rows shown, put down at a row and a column: nothing is done yet. */
export function pasted(
  block: string[][],
  at: { row: number; column: number },
  shown: Labelled[],
  properties: Property[],
  appends: boolean,
  come: (row: Labelled, property: Property, text: string) => { told?: string; same: boolean },
): Pasted {
  const out: Pasted = { cells: [], drafts: [], beside: 0 };
  block.forEach((line, r) => {
    const row = shown[at.row + r];
    const texts: Record<string, string> = {};
    line.forEach((text, c) => {
      const property = properties[at.column + c];
      if (property && row) out.cells.push({ row, property, text, ...come(row, property, text) });
      else if (property && appends && text.trim()) texts[property.path] = text;
      else if (text.trim()) out.beside++;
    });
    if (Object.keys(texts).length) out.drafts.push({ id: ` pasted ${r}`, texts });
  });
  return out;
}

const count = (n: number, one: string, many = `${one}s`) => `${n} ${n === 1 ? one : many}`;

/** What a block does, in one line; `waiting` of its new rows cannot be made yet. */
export function pastedText(block: string[][], plan: Pasted, waiting: number): string {
  const wide = Math.max(...block.map((l) => l.length));
  const same = plan.cells.filter((c) => c.same).length;
  const refused = plan.cells.filter((c) => c.told).length;
  const set = plan.cells.length - same - refused;
  const parts = [
    ...(set ? [`${count(set, "cell")} set`] : []),
    ...(same ? [`${same} as they are`] : []),
    ...(refused ? [`${count(refused, "cell")} refused`] : []),
    ...(plan.drafts.length - waiting ? [`${count(plan.drafts.length - waiting, "new row")}`] : []),
    ...(waiting ? [`${count(waiting, "row waits", "rows wait")} for what is marked`] : []),
    ...(plan.beside ? [`${count(plan.beside, "cell lies", "cells lie")} beside the table`] : []),
  ];
  return `${count(block.length, "row")} of ${count(wide, "cell")}: ${parts.join(", ") || "nothing to set"}.`;
}

/** Which cells the server refused, from the paths it tells: `columns[3].at[0]` is cell `at.0` of the fourth column. `row` counts within the list. */
export function refusedCells(problems: Problem[], list: string) {
  return problems.flatMap((p) => {
    const match = /^(?:[^:]*: )?(\w+)\[(\d+)\]\.?(.*)$/.exec(p.path);
    return match?.[1] === list
      ? [{ row: Number(match[2]), path: (match[3] ?? "").replace(/\[(\d+)\]/g, ".$1"), sentence: p.sentence }]
      : [];
  });
}
