import type { Problem } from "../api/client";
import { cellText } from "../model/cells";
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

/** Which cells the server refused, from the paths it tells: `columns[3].at[0]` is cell `at.0` of the fourth column. */
export function refusedCells(problems: Problem[], list: string, rows: Labelled[]) {
  return problems.flatMap((p) => {
    const match = /^(?:[^:]*: )?(\w+)\[(\d+)\]\.?(.*)$/.exec(p.path);
    const row = match?.[1] === list ? rows[Number(match[2])] : undefined;
    return row && match
      ? [{ id: row.id, path: (match[3] ?? "").replace(/\[(\d+)\]/g, ".$1"), sentence: p.sentence }]
      : [];
  });
}
