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

type Read = { value: unknown } | { problem: string };

/**
 * What of a block lies below the last of `count` rows: the rows that it makes, what of them cannot be read, row by row, and how many of all its
 * cells lie beside the table.
 */
export function newRows(
  block: string[][],
  at: { row: number; column: number },
  count: number,
  properties: Property[],
  read: (property: Property, text: string) => Read,
): { rows: Record<string, unknown>[]; problems: string[]; beside: number } {
  const rows: Record<string, unknown>[] = [];
  const problems: string[] = [];
  let beside = 0;
  block.forEach((line, r) => {
    const made: Record<string, unknown> = {};
    line.forEach((text, c) => {
      const property = properties[at.column + c];
      if (!property) {
        if (text.trim()) beside++;
        return;
      }
      if (at.row + r < count || !text.trim() || property.fixed) return;
      const result = read(property, text);
      if ("problem" in result) problems.push(`new row ${at.row + r - count + 1}, ${property.name}: ${result.problem}`);
      else if (result.value !== undefined) made[property.path] = result.value;
    });
    if (Object.keys(made).length) rows.push(made);
  });
  return { rows, problems, beside };
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
