import { create } from "zustand";
import { fetchOwn } from "../api/entry";
import { saveAs } from "../api/files";

export type Cell = string | number | null;
export type Exported = { title: string; columns: string[]; rows: () => Cell[][] };

/** The table that stands in the ledger, as it is copied and downloaded. */
export const useExported = create<{ table: Exported | null }>(() => ({ table: null }));

/** Offers a table for as long as it stands there; the way to end that. */
export function offered(table: Exported): () => void {
  useExported.setState({ table });
  return () => {
    if (useExported.getState().table === table) useExported.setState({ table: null });
  };
}

/** A cell's text as a spreadsheet reads it: figures as numbers, dashes as nothing. */
export function cellOf(text: string): Cell {
  const plain = text.replace("−", "-").trim();
  if (plain === "" || plain === "–") return null;
  return /^-?\d+(\.\d+)?$/.test(plain) ? Number(plain) : text;
}

export async function copyTable(table: Exported): Promise<void> {
  const lines = [table.columns, ...table.rows()].map((row) => row.map((c) => c ?? "").join("\t"));
  await navigator.clipboard.writeText(lines.join("\n"));
}

/** Has the server write the table as a file, and saves it. */
export async function downloadTable(table: Exported, kind: "csv" | "xlsx"): Promise<string> {
  const answer = await fetchOwn(`/api/table.${kind}`, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify({ title: table.title, columns: table.columns, rows: table.rows() }),
  }).catch(() => null);
  if (!answer?.ok) return "The table could not be written; try again in a moment.";
  saveAs(await answer.blob(), `${table.title.toLowerCase().replace(/[^a-z0-9]+/g, "-")}.${kind}`);
  return "";
}
