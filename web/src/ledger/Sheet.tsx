import { useVirtualizer } from "@tanstack/react-virtual";
import { type ClipboardEvent, type KeyboardEvent, useCallback, useEffect, useMemo, useRef, useState } from "react";
import { cellText, parsed, pointsBrief } from "../model/cells";
import type { FloorDocument, Labelled } from "../model/floor";
import type { Property } from "../model/property";
import { useSession } from "../session";
import { unitOf, useUnits } from "../units/quantities";
import { blockOf, blockText, newRows, refusedCells } from "./block";
import { CellInput } from "./CellInput";
import { cellOf, useExported } from "./exported";
import { type Sort, shownRows } from "./sheetRows";

export type CellChange = { id: string; path: string; value: unknown };

const ROW = 25;
/** The row at the end of a table that stands for one that is not there yet. */
const BLANK: Labelled = { id: "" };

type Place = { row: number; column: number };
type Wrong = { text: string; told: string };

/** The identity of a cell, by which the grid says which one is active. */
const cellId = (row: number, column: number) => `cell-${row}-${column}`;

/** A table that is edited like a spreadsheet: typing, filling down, setting a range, pasting a block. */
export function Sheet(props: {
  /** Name of the list in the floor file, by which the server tells of a value that it refuses. */
  list: string;
  title: string;
  rows: Labelled[];
  properties: Property[];
  document: FloorDocument;
  chosen: string[];
  choose: (ids: string[], fly: boolean) => void;
  set: (changes: CellChange[], line: string) => Promise<boolean>;
  /** Makes rows of the pasted values that reach beyond the last one. */
  append?: (rows: Record<string, unknown>[]) => Promise<boolean>;
  remove?: (ids: string[]) => void;
  empty: string;
}) {
  const { list, title, rows, properties, document, chosen, choose, set, append, remove, empty } = props;
  const system = useUnits((u) => u.system);
  const [active, setActive] = useState<Place>({ row: 0, column: 0 });
  const [anchor, setAnchor] = useState<Place>({ row: 0, column: 0 });
  const [editing, setEditingText] = useState<string | null>(null);
  /** Whether the cell is still being edited: taking its field away makes it lose the focus, which must not commit again. */
  const open = useRef(false);
  const setEditing = (text: string | null) => {
    open.current = text !== null;
    setEditingText(text);
  };
  const [wrong, setWrong] = useState<Record<string, Wrong>>({});
  const [filter, setFilter] = useState("");
  const [sort, setSort] = useState<Sort | null>(null);
  const body = useRef<HTMLDivElement>(null);
  const input = useRef<HTMLInputElement>(null);

  const appends = append !== undefined;
  // The last row is blank: what is typed there makes a new one.
  const shown = useMemo(() => {
    const found = shownRows(rows, properties, system, filter, sort);
    return appends && !filter ? [...found, BLANK] : found;
  }, [rows, properties, filter, sort, system, appends]);
  const labels = (some: Labelled[]) => some.filter((r) => r !== BLANK).map((r) => r.id);

  useEffect(() => {
    useExported.setState({
      table: {
        title,
        columns: properties.map((p) => `${p.name} ${p.quantity ? unitOf(p.quantity, system).unit : ""}`.trim()),
        rows: () => shown.filter((r) => r !== BLANK).map((r) => properties.map((p) => cellOf(cellText(p, r, system)))),
      },
    });
  }, [title, properties, shown, system]);

  const last = { row: shown.length - 1, column: properties.length - 1 };
  const range = {
    r0: Math.min(active.row, anchor.row),
    r1: Math.min(last.row, Math.max(active.row, anchor.row)),
    c0: Math.min(active.column, anchor.column),
    c1: Math.min(last.column, Math.max(active.column, anchor.column)),
  };
  const key = (r: Labelled, p: Property) => `${r.id}\n${p.path}`;

  useEffect(() => {
    if (editing !== null) input.current?.focus();
  }, [editing]);

  const virtual = useVirtualizer({
    count: shown.length,
    getScrollElement: () => body.current,
    estimateSize: () => ROW,
    overscan: 6,
    // The head takes the height of a row above them.
    scrollPaddingEnd: ROW,
  });
  const scrollTo = useCallback((row: number) => virtual.scrollToIndex(row), [virtual]);

  // What is selected on the plan becomes the current row.
  const lastChosen = chosen[chosen.length - 1];
  useEffect(() => {
    const row = shown.findIndex((r) => r.id === lastChosen);
    if (row < 0) return;
    setActive((a) => (a.row === row ? a : { row, column: a.column }));
    setAnchor((a) => (shown[a.row] && chosen.includes((shown[a.row] as Labelled).id) ? a : { row, column: a.column }));
    scrollTo(row);
  }, [lastChosen, shown, chosen, scrollTo]);

  function go(to: Place, extend: boolean) {
    const next = {
      row: Math.max(0, Math.min(last.row, to.row)),
      column: Math.max(0, Math.min(last.column, to.column)),
    };
    setActive(next);
    const from = extend ? anchor : next;
    if (!extend) setAnchor(next);
    scrollTo(next.row);
    const [a, b] = [Math.min(from.row, next.row), Math.max(from.row, next.row)];
    choose(labels(shown.slice(a, b + 1)), false);
  }

  /** Reads texts into cells; what cannot be read stays in its cell with the reason, the rest is set. */
  async function put(cells: { row: Labelled; property: Property; text: string }[], line: string): Promise<void> {
    const next = { ...wrong };
    const changes: CellChange[] = [];
    const made: Record<string, unknown> = {};
    for (const { row, property, text } of cells) {
      const k = key(row, property);
      delete next[k];
      if (row === BLANK) {
        if (!text.trim()) continue;
        const result = property.fixed
          ? { problem: `${property.name} follows from the rest; it is not typed` }
          : parsed(property, text, document, system);
        if ("problem" in result) next[k] = { text, told: result.problem };
        else if (result.value !== undefined) made[property.path] = result.value;
        continue;
      }
      if (property.when && !property.when(row)) {
        next[k] = { text, told: `${row.id} has no ${property.name.toLowerCase()}` };
        continue;
      }
      if (text === cellText(property, row, system)) continue;
      if (property.fixed) {
        next[k] = { text, told: `${property.name} follows from the rest; it is not typed` };
        continue;
      }
      const result = parsed(property, text, document, system, row);
      if ("problem" in result) next[k] = { text, told: result.problem };
      else changes.push({ id: row.id, path: property.path, value: result.value });
    }
    setWrong(next);
    if (Object.keys(made).length && append) await append([made]);
    if (!changes.length || (await set(changes, line))) return;
    const refused = useSession.getState().problems.map((p) => ({ ...p, sentence: p.told ?? p.sentence }));
    const told = refusedCells(refused, list, rows);
    if (told.length) {
      const after = { ...next };
      for (const t of told) {
        const cell = cells.find(
          (c) =>
            c.row.id === t.id &&
            (c.property.path === t.path || t.path.startsWith(c.property.path) || c.property.path.startsWith(t.path)),
        );
        const c = cell ?? cells[0];
        if (c) after[key(c.row, c.property)] = { text: c.text, told: t.sentence };
      }
      setWrong(after);
      useSession.setState({ problems: [] });
    }
  }

  const cellsOf = (text: (row: Labelled, r: number, c: number) => string | null) => {
    const out: { row: Labelled; property: Property; text: string }[] = [];
    for (let r = range.r0; r <= range.r1; r++)
      for (let c = range.c0; c <= range.c1; c++) {
        const row = shown[r];
        const property = properties[c];
        const t = row && property ? text(row, r - range.r0, c - range.c0) : null;
        if (row && property && t !== null) out.push({ row, property, text: t });
      }
    return out;
  };
  const nameOf = (cells: { row: Labelled; property: Property }[]) => {
    const columns = [...new Set(cells.map((c) => c.property.name.toLowerCase()))];
    const many = new Set(cells.map((c) => c.row.id)).size;
    const what = columns.length > 2 ? `${columns.length} columns` : columns.join(", ");
    if (cells[0]?.row === BLANK) return `${title}: a new row`;
    return many === 1 ? `${cells[0]?.row.id}: ${what}` : `${title}: ${what} of ${many}`;
  };

  async function commit(all: boolean, then: Place | null) {
    if (!open.current) return;
    const row = shown[active.row];
    const property = properties[active.column];
    const text = editing;
    setEditing(null);
    if (then) go(then, false);
    body.current?.focus();
    if (!row || !property || text === null) return;
    const cells = all
      ? cellsOf((_, __, c) => (c === active.column - range.c0 ? text : null))
      : [{ row, property, text }];
    await put(cells, `${nameOf(cells)} ${text.trim() || "none"}`);
  }

  function keys(event: KeyboardEvent) {
    if (editing !== null) return;
    const control = event.ctrlKey || event.metaKey;
    const step: Record<string, [number, number]> = {
      ArrowDown: [1, 0],
      ArrowUp: [-1, 0],
      ArrowRight: [0, 1],
      ArrowLeft: [0, -1],
      PageDown: [8, 0],
      PageUp: [-8, 0],
      Home: [0, -1e6],
      End: [0, 1e6],
    };
    const by = step[event.key];
    const property = properties[active.column];
    const row = shown[active.row];
    if (by) {
      const far = control && event.key.startsWith("Arrow") ? 1e6 : 1;
      go({ row: active.row + by[0] * far, column: active.column + by[1] * far }, event.shiftKey);
    } else if (event.key === "Enter" || event.key === "F2") {
      if (row && property) setEditing(row === BLANK ? "" : cellText(property, row, system).replace("−", "-"));
    } else if (control && event.key.toLowerCase() === "d") {
      const first = shown[range.r0];
      const cells = cellsOf((_, r, c) => {
        const p = properties[range.c0 + c];
        return r === 0 || !first || !p ? null : cellText(p, first, system);
      });
      if (cells.length) void put(cells, `${nameOf(cells)} filled down`);
    } else if (control && event.key.toLowerCase() === "a") {
      setAnchor({ row: 0, column: active.column });
      setActive({ row: last.row, column: active.column });
      choose(labels(shown), false);
    } else if (event.key === "Delete") {
      if (control || event.shiftKey) remove?.(labels(shown.slice(range.r0, range.r1 + 1)));
      else {
        const cells = cellsOf(() => "").filter((c) => c.row !== BLANK);
        if (cells.length) void put(cells, `${nameOf(cells)} cleared`);
      }
    } else if (event.key === "Escape") {
      choose([], false);
      body.current?.blur();
    } else if (event.key.length === 1 && !control && !event.altKey) setEditing(event.key);
    else return;
    event.preventDefault();
    event.stopPropagation();
  }

  function copy(event: ClipboardEvent) {
    if (editing !== null) return;
    const picked = shown.slice(range.r0, range.r1 + 1).filter((r) => r !== BLANK);
    event.clipboardData.setData("text/plain", blockText(picked, properties.slice(range.c0, range.c1 + 1), system));
    event.preventDefault();
  }

  function paste(event: ClipboardEvent) {
    if (editing !== null) return;
    event.preventDefault();
    const block = blockOf(event.clipboardData.getData("text/plain"));
    const single = block.length === 1 && block[0]?.length === 1;
    if (single) {
      const text = block[0]?.[0] ?? "";
      const cells = cellsOf(() => text);
      void put(cells, `${nameOf(cells)} pasted`);
      return;
    }
    const cells: { row: Labelled; property: Property; text: string }[] = [];
    const fresh = newRows(
      block,
      { row: range.r0, column: range.c0 },
      labels(shown).length,
      properties,
      (property, text) => parsed(property, text, document, system),
    );
    block.forEach((line, r) => {
      const row = shown[range.r0 + r];
      if (!row || row === BLANK) return;
      line.forEach((text, c) => {
        const property = properties[range.c0 + c];
        if (property) cells.push({ row, property, text });
      });
    });
    // Nothing is lost without a word: neither cells beside the table, nor rows that the table cannot take.
    const lost = [
      ...(fresh.beside ? [`${fresh.beside} cells lie beside the table and were not taken`] : []),
      ...(fresh.rows.length && !append
        ? [`${fresh.rows.length} rows are more than the table has and were not taken`]
        : []),
      ...fresh.problems,
    ];
    const adds = append && !fresh.problems.length ? fresh.rows.length : 0;
    void (async () => {
      if (cells.length) await put(cells, `${nameOf(cells)} pasted`);
      if (adds) await append?.(fresh.rows);
      const done = [
        ...(cells.length ? [`${cells.length} cells set`] : []),
        ...(adds ? [`${adds} ${adds === 1 ? "row" : "rows"} added`] : []),
        ...lost,
      ];
      useSession.getState().say(`${done.join("; ")}.`, lost.length > 0);
    })();
  }

  const lines = virtual.getVirtualItems();
  const from = lines[0]?.index ?? 0;
  const to = (lines[lines.length - 1]?.index ?? -1) + 1;
  const current = shown[active.row];
  const wrongHere =
    current && properties[active.column] ? wrong[key(current, properties[active.column] as Property)] : undefined;
  const wrongs = Object.keys(wrong).length;
  return (
    <div className="sheet-frame">
      <div className="sheet-tools">
        <input
          className="filter"
          value={filter}
          placeholder={`Filter ${title.toLowerCase()}`}
          aria-label={`Filter ${title.toLowerCase()}`}
          onChange={(e) => setFilter(e.target.value)}
        />
        {labels(shown).length < rows.length && (
          <span className="quiet">
            {labels(shown).length} of {rows.length}
          </span>
        )}
        {wrongs > 0 && (
          <span className="problem" role="alert">
            {wrongHere
              ? wrongHere.told
              : `${wrongs} cell${wrongs > 1 ? "s" : ""} could not be read; select one to see why`}
            <button type="button" className="small" onClick={() => setWrong({})}>
              Drop
            </button>
          </span>
        )}
      </div>
      <div
        className="sheet"
        ref={body}
        role="grid"
        tabIndex={0}
        aria-label={`${title} table`}
        aria-rowcount={shown.length}
        aria-activedescendant={shown.length ? cellId(active.row, active.column) : undefined}
        onKeyDown={keys}
        onCopy={copy}
        onPaste={paste}
      >
        <table role="presentation">
          <thead role="rowgroup">
            <tr role="row">
              {properties.map((p) => {
                const unit = p.quantity ? unitOf(p.quantity, system).unit : "";
                const mine = sort?.path === p.path;
                return (
                  <th
                    role="columnheader"
                    key={p.path}
                    className={p.type === "number" || p.type === "whole" ? "figure" : ""}
                    aria-sort={mine ? (sort.down ? "descending" : "ascending") : "none"}
                  >
                    <button
                      type="button"
                      tabIndex={-1}
                      onClick={() => setSort(mine && sort.down ? null : { path: p.path, down: mine })}
                    >
                      {p.name} <span className="quiet">{unit}</span>
                      {mine ? (sort.down ? " ↓" : " ↑") : ""}
                    </button>
                  </th>
                );
              })}
            </tr>
          </thead>
          <tbody role="rowgroup">
            {from > 0 && (
              <tr role="presentation" style={{ height: from * ROW }}>
                <td role="presentation" colSpan={properties.length} />
              </tr>
            )}
            {shown.slice(from, to).map((row, k) => {
              const r = from + k;
              return (
                <tr
                  role="row"
                  key={row === BLANK ? "\u0000blank" : row.id}
                  data-line={row.id}
                  aria-selected={chosen.includes(row.id)}
                  aria-label={row === BLANK ? "a new row" : undefined}
                  className={`${row === BLANK ? "blank" : ""} ${chosen.includes(row.id) ? "current" : ""} ${(row.mark as string | undefined) ?? ""}`}
                >
                  {properties.map((p, c) => {
                    const here = r === active.row && c === active.column;
                    const picked =
                      r >= range.r0 && r <= range.r1 && c >= range.c0 && c <= range.c1 && chosen.includes(row.id);
                    const bad = wrong[key(row, p)];
                    const off = row !== BLANK && p.when && !p.when(row);
                    const text = bad
                      ? bad.text
                      : row === BLANK
                        ? ""
                        : p.type === "points"
                          ? pointsBrief(p, row, system)
                          : cellText(p, row, system);
                    return (
                      <td
                        role="gridcell"
                        key={p.path}
                        className={`${p.type === "number" || p.type === "whole" ? "figure" : ""} ${p.fixed ? "follows" : ""} ${here ? "active" : ""} ${picked ? "picked" : ""} ${bad ? "wrong" : ""} ${off ? "off" : ""}`}
                        title={bad?.told}
                        id={cellId(r, c)}
                        data-cell={`${row.id}/${p.path}`}
                        onMouseDown={(e) => {
                          if (here && editing !== null) return;
                          if (editing !== null) void commit(false, null);
                          const next = { row: r, column: c };
                          setActive(next);
                          if (!e.shiftKey) setAnchor(next);
                          const a = e.shiftKey ? Math.min(anchor.row, r) : r;
                          const b = e.shiftKey ? Math.max(anchor.row, r) : r;
                          choose(labels(shown.slice(a, b + 1)), c === 0);
                        }}
                        onDoubleClick={() =>
                          !off &&
                          !p.fixed &&
                          setEditing(row === BLANK ? "" : cellText(p, row, system).replace("−", "-"))
                        }
                      >
                        {here && editing !== null ? (
                          <CellInput
                            field={input}
                            property={p}
                            row={row}
                            document={document}
                            text={editing}
                            edit={setEditing}
                            commit={(all, by) => void commit(all, by && { row: r + by.rows, column: c + by.columns })}
                            drop={() => {
                              setEditing(null);
                              body.current?.focus();
                            }}
                          />
                        ) : (
                          text
                        )}
                      </td>
                    );
                  })}
                </tr>
              );
            })}
            {to < shown.length && (
              <tr role="presentation" style={{ height: (shown.length - to) * ROW }}>
                <td role="presentation" colSpan={properties.length} />
              </tr>
            )}
          </tbody>
        </table>
        {rows.length === 0 && <p className="empty">{empty}</p>}
        {rows.length > 0 && labels(shown).length === 0 && <p className="empty">Nothing matches “{filter}”.</p>}
      </div>
    </div>
  );
}
