import { useVirtualizer } from "@tanstack/react-virtual";
import { type ClipboardEvent, type KeyboardEvent, useCallback, useEffect, useMemo, useRef, useState } from "react";
import { cellText, type Parsed, parsed, pointsBrief } from "../model/cells";
import type { FloorDocument, Labelled } from "../model/floor";
import type { Property } from "../model/property";
import { useSession } from "../session";
import { unitOf, useUnits } from "../units/quantities";
import {
  blockOf,
  blockText,
  type Draft,
  type DraftRead,
  draftRead,
  type Fresh,
  type Pasted,
  pasted,
  pastedText,
  refusedCells,
} from "./block";
import { CellInput } from "./CellInput";
import { cellOf, offered } from "./exported";
import { type Sort, shownRows } from "./sheetRows";

export type CellChange = { id: string; path: string; value: unknown };

const ROW = 25;
/** The row at the end of a table that stands for one that is not there yet. */
const BLANK: Labelled = { id: "" };
/** No label begins with a space: rows that wait are told from those that are there. */
const isDraft = (row: Labelled) => row.id === "" || row.id.startsWith(" ");

/** Rows that wait, by floor and list. */
const WAITING = new Map<string, Draft[]>();
let drafted = 0;
const nextDraft = () => ` new ${++drafted}`;

type Place = { row: number; column: number };
type Wrong = { text: string; told: string };
type Cell = { row: Labelled; property: Property; text: string };

/** The identity of a cell, by which the grid says which one is active. */
const cellId = (row: number, column: number) => `cell-${row}-${column}`;
const key = (r: Labelled, p: Property) => `${r.id}\n${p.path}`;

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
  /** Sets cells and makes rows of values in one step; whether it was done. */
  save: (changes: CellChange[], made: Record<string, unknown>[], line: string) => Promise<boolean>;
  /** What a row of given values would be; a table without it takes no new rows. */
  fresh?: Fresh;
  remove?: (ids: string[]) => void;
  empty: string;
}) {
  const { list, title, rows, properties, document, chosen, choose, save, fresh, remove, empty } = props;
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
  // Rows that wait are not lost where another table is looked at meanwhile.
  const kept = `${useSession((s) => s.floor?.id)} ${list}`;
  const [drafts, setDrafts] = useState<Draft[]>(() => WAITING.get(kept) ?? []);
  useEffect(() => void WAITING.set(kept, drafts), [kept, drafts]);
  /** A pasted block that is shown and waits for a yes. */
  const [coming, setComing] = useState<{ block: string[][]; plan: Pasted } | null>(null);
  const [filter, setFilter] = useState("");
  const [sort, setSort] = useState<Sort | null>(null);
  const body = useRef<HTMLDivElement>(null);
  const input = useRef<HTMLInputElement>(null);

  const found = useMemo(
    () => shownRows(rows, properties, system, filter, sort),
    [rows, properties, system, filter, sort],
  );
  // After the rows that are there stand those that wait for something, those of a block, and a blank one.
  const waiting = useMemo(() => [...drafts, ...(coming?.plan.drafts ?? [])], [drafts, coming]);
  const shown = useMemo(() => {
    if (!fresh || (filter && !coming)) return found;
    return [...found, ...waiting.map((d): Labelled => ({ id: d.id })), ...(coming ? [] : [BLANK])];
  }, [found, fresh, filter, waiting, coming]);
  const read = useCallback(
    (d: Draft): DraftRead =>
      fresh
        ? draftRead(d, properties, fresh, (p, text, item) => parsed(p, text, document, system, item))
        : { values: {}, wrong: {}, missing: [] },
    [fresh, properties, document, system],
  );
  const readings = useMemo(() => new Map(waiting.map((d) => [d.id, read(d)])), [waiting, read]);
  const labels = (some: Labelled[]) => some.filter((r) => !isDraft(r)).map((r) => r.id);
  const textsOf = (row: Labelled) => waiting.find((d) => d.id === row.id)?.texts ?? {};
  const textOf = (row: Labelled, p: Property) =>
    isDraft(row) ? (textsOf(row)[p.path] ?? "") : cellText(p, row, system);

  useEffect(
    () =>
      offered({
        title,
        columns: properties.map((p) => `${p.name} ${p.quantity ? unitOf(p.quantity, system).unit : ""}`.trim()),
        rows: () => found.map((r) => properties.map((p) => cellOf(cellText(p, r, system)))),
      }),
    [title, properties, found, system],
  );

  const last = { row: shown.length - 1, column: properties.length - 1 };
  const range = {
    r0: Math.min(active.row, anchor.row),
    r1: Math.min(last.row, Math.max(active.row, anchor.row)),
    c0: Math.min(active.column, anchor.column),
    c1: Math.min(last.column, Math.max(active.column, anchor.column)),
  };
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

  // All of a pasted block is in sight, as far as it fits, before it is taken.
  useEffect(() => {
    if (coming) scrollTo(Math.min(shown.length, range.r0 + coming.block.length) - 1);
  }, [coming, shown.length, range.r0, scrollTo]);

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

  /** What a text would come to in a cell of a row that is there. */
  function come(row: Labelled, property: Property, text: string): Parsed | null {
    if (property.when && !property.when(row)) return { problem: `${row.id} has no ${property.name.toLowerCase()}` };
    if (text === cellText(property, row, system)) return null;
    if (property.fixed) return { problem: `${property.name} follows from the rest; it is not typed` };
    return parsed(property, text, document, system, row);
  }

  /**
   * Reads texts into cells and makes rows; what cannot be read or is refused stays in its cell with the reason, the rest is set. A row that is
   * `typed` on in waits until it is left.
   */
  async function put(cells: Cell[], line: string, pastedRows: Draft[] = [], typed = false): Promise<void> {
    const next = { ...wrong };
    let changes: (CellChange & { cell: Cell })[] = [];
    const made = new Map(drafts.map((d) => [d.id, d]));
    const touched = new Set<string>();
    for (const d of pastedRows) {
      const id = nextDraft();
      made.set(id, { id, texts: d.texts });
      touched.add(id);
    }
    const blank = nextDraft();
    for (const cell of cells) {
      const { row, property, text } = cell;
      delete next[key(row, property)];
      if (isDraft(row)) {
        if (row === BLANK && !text.trim()) continue;
        const id = row === BLANK ? blank : row.id;
        made.set(id, { id, texts: { ...made.get(id)?.texts, [property.path]: text } });
        touched.add(id);
        continue;
      }
      const result = come(row, property, text);
      if (!result) continue;
      if ("problem" in result) next[key(row, property)] = { text, told: result.problem };
      else changes.push({ id: row.id, path: property.path, value: result.value, cell });
    }
    let ready = [...made.values()].flatMap((draft) => {
      const got = read(draft);
      const empty = Object.values(draft.texts).every((t) => !t.trim());
      if (empty) made.delete(draft.id);
      return touched.has(draft.id) && !typed && !empty && !got.missing.length && !Object.keys(got.wrong).length
        ? [{ draft, values: got.values }]
        : [];
    });
    setWrong(next);
    setDrafts([...made.values()].filter((d) => !ready.some((r) => r.draft.id === d.id)));
    // What the server refuses of a block comes back to its cells, and the rest is sent once more.
    while (changes.length || ready.length) {
      const sent = changes.map(({ cell: _, ...c }) => c);
      if (
        await save(
          sent,
          ready.map((r) => r.values),
          line,
        )
      )
        return;
      const told = refusedCells(
        useSession.getState().problems.map((p) => ({ ...p, sentence: p.told ?? p.sentence })),
        list,
      );
      const after: Record<string, Wrong> = {};
      for (const t of told) {
        const id = rows[t.row]?.id;
        const of = changes.filter((c) => c.id === id);
        const hit = of.find((c) => t.path.startsWith(c.path) || c.path.startsWith(t.path)) ?? of[0];
        if (hit) after[key(hit.cell.row, hit.cell.property)] = { text: hit.cell.text, told: t.sentence };
        const fresher = ready[t.row - rows.length];
        const p = fresher && (properties.find((q) => t.path && q.path.startsWith(t.path)) ?? properties[0]);
        if (fresher && p) after[key(fresher.draft, p)] = { text: fresher.draft.texts[p.path] ?? "", told: t.sentence };
      }
      setWrong((w) => ({ ...w, ...after }));
      const back = ready.filter((r) => properties.some((p) => after[key(r.draft, p)]));
      setDrafts((d) => [...d, ...back.map((r) => r.draft)]);
      const [still, rest] = [changes.length, ready.length];
      changes = changes.filter((c) => !after[key(c.cell.row, c.cell.property)]);
      ready = ready.filter((r) => !back.includes(r));
      if (still === changes.length && rest === ready.length) {
        // Nothing of it belongs to a cell here: what is wrong is told beside the plan, and no row is lost.
        setDrafts((d) => [...d, ...ready.map((r) => r.draft)]);
        return;
      }
      useSession.setState({ problems: [] });
    }
  }

  const cellsOf = (text: (row: Labelled, r: number, c: number) => string | null) => {
    const out: Cell[] = [];
    for (let r = range.r0; r <= range.r1; r++)
      for (let c = range.c0; c <= range.c1; c++) {
        const row = shown[r];
        const property = properties[c];
        const t = row && property ? text(row, r - range.r0, c - range.c0) : null;
        // What is done to many rows makes no new one.
        if (row === BLANK && range.r1 > range.r0) continue;
        if (row && property && t !== null) out.push({ row, property, text: t });
      }
    return out;
  };
  const nameOf = (cells: { row: Labelled; property: Property }[]) => {
    const columns = [...new Set(cells.map((c) => c.property.name.toLowerCase()))];
    const many = new Set(cells.map((c) => c.row.id)).size;
    const what = columns.length > 2 ? `${columns.length} columns` : columns.join(", ");
    if (cells[0] && isDraft(cells[0].row)) return `${title}: a new row`;
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
    const across = then !== null && then.row === active.row;
    await put(cells, `${nameOf(cells)} ${text.trim() || "none"}`, [], across && isDraft(row));
  }

  /** Makes the rows that lack nothing, but for the one that is typed on. */
  function flush(here: string | undefined) {
    const cells = drafts.flatMap((d): Cell[] => {
      const got = readings.get(d.id);
      if (d.id === here || !got || got.missing.length || Object.keys(got.wrong).length) return [];
      // A cell of its own once more: that is how a row is looked at anew.
      const property = properties.find((p) => d.texts[p.path]?.trim());
      return property ? [{ row: { id: d.id }, property, text: d.texts[property.path] ?? "" }] : [];
    });
    if (cells.length) void put(cells, nameOf(cells));
  }
  // biome-ignore lint/correctness/useExhaustiveDependencies: leaving a row makes it, and nothing else does
  useEffect(() => flush(shown[active.row]?.id), [active.row]);

  function keys(event: KeyboardEvent) {
    if (editing !== null) return;
    if (coming) {
      // While a block is shown it is taken or left; nothing else happens to the table.
      if (event.key === "Enter") take();
      else if (event.key === "Escape") setComing(null);
      else if (event.key === "Tab") return;
      event.preventDefault();
      event.stopPropagation();
      return;
    }
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
      if (row && property) setEditing(textOf(row, property).replace("−", "-"));
    } else if (control && event.key.toLowerCase() === "d") {
      const first = shown[range.r0];
      const cells = cellsOf((_, r, c) => {
        const p = properties[range.c0 + c];
        return r === 0 || !first || !p ? null : textOf(first, p);
      });
      if (cells.length) void put(cells, `${nameOf(cells)} filled down`);
    } else if (control && event.key.toLowerCase() === "a") {
      setAnchor({ row: 0, column: active.column });
      setActive({ row: last.row, column: active.column });
      choose(labels(shown), false);
    } else if (event.key === "Delete") {
      if (control || event.shiftKey) {
        const picked = shown.slice(range.r0, range.r1 + 1);
        setDrafts((d) => d.filter((one) => !picked.some((r) => r.id === one.id)));
        const there = labels(picked);
        if (there.length) remove?.(there);
      } else {
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
    const picked = shown.slice(range.r0, range.r1 + 1).filter((r) => !isDraft(r));
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
    const plan = pasted(
      block,
      { row: range.r0, column: range.c0 },
      // A block that begins among rows that wait makes rows of its own.
      found,
      properties,
      fresh !== undefined,
      (row, property, text) => {
        const result = come(row, property, text);
        return { same: result === null, ...(result && "problem" in result ? { told: result.problem } : {}) };
      },
    );
    setComing({ block, plan });
  }

  function take() {
    if (!coming) return;
    const { plan } = coming;
    setComing(null);
    body.current?.focus();
    const rowsMade = plan.drafts.length;
    const named = plan.cells.length ? nameOf(plan.cells) : `${rowsMade} ${title.toLowerCase()}`;
    void put(plan.cells, `${named} pasted`, plan.drafts);
  }

  /** How many of a block's new rows wait for something. */
  const held = (plan: Pasted) =>
    plan.drafts.filter((d) => {
      const got = readings.get(d.id) ?? read(d);
      return got.missing.length > 0 || Object.keys(got.wrong).length > 0;
    }).length;

  /** Why what stands in a cell is not its value. */
  function badOf(row: Labelled, p: Property): Wrong | undefined {
    const held = wrong[key(row, p)];
    if (held) return held;
    const told = readings.get(row.id)?.wrong[p.path];
    return told ? { text: textOf(row, p), told } : undefined;
  }

  const lines = virtual.getVirtualItems();
  const from = lines[0]?.index ?? 0;
  const to = (lines[lines.length - 1]?.index ?? -1) + 1;
  const current = shown[active.row];
  const here = current && properties[active.column];
  const toldHere = current && here ? badOf(current, here)?.told : undefined;
  const needed = current && isDraft(current) ? (readings.get(current.id)?.missing ?? []) : [];
  const wrongs = [
    ...Object.values(wrong).map((w) => w.told),
    ...[...readings.values()].flatMap((r) => Object.values(r.wrong)),
  ];
  const toldNow =
    toldHere ?? (wrongs.length > 1 ? `${wrongs.length} cells could not be read; select one to see why` : wrongs[0]);
  const arriving = new Map((coming?.plan.cells ?? []).map((c) => [key(c.row, c.property), c]));
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
        {coming ? (
          <span className="coming" role="status">
            {pastedText(coming.block, coming.plan, held(coming.plan))}
            <button type="button" className="small accent" onClick={take}>
              Paste <kbd>Enter</kbd>
            </button>
            <button type="button" className="small" onClick={() => setComing(null)}>
              Leave <kbd>Esc</kbd>
            </button>
          </span>
        ) : needed.length && !toldHere ? (
          <span className="quiet">The row waits for {needed.map((p) => p.name).join(", ")}.</span>
        ) : (
          toldNow && (
            <span className="problem" role="alert">
              {toldNow}
              <button
                type="button"
                className="small"
                onClick={() => {
                  setWrong({});
                  setDrafts([]);
                }}
              >
                Drop
              </button>
            </span>
          )
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
        onBlur={(e) => {
          if (!e.currentTarget.contains(e.relatedTarget)) flush(undefined);
        }}
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
              const draft = isDraft(row);
              const got = readings.get(row.id);
              const item = draft && fresh ? fresh(got?.values ?? {}).item : row;
              return (
                <tr
                  role="row"
                  key={row === BLANK ? " blank" : row.id}
                  data-line={row.id}
                  aria-selected={chosen.includes(row.id)}
                  aria-label={row === BLANK ? "a new row" : draft ? "a row that waits" : undefined}
                  className={`${draft ? "blank" : ""} ${draft && coming ? "arriving" : ""} ${chosen.includes(row.id) ? "current" : ""} ${(row.mark as string | undefined) ?? ""}`}
                >
                  {properties.map((p, c) => {
                    const here = r === active.row && c === active.column;
                    const picked =
                      r >= range.r0 && r <= range.r1 && c >= range.c0 && c <= range.c1 && chosen.includes(row.id);
                    const next = arriving.get(key(row, p));
                    const bad = next ? next.told && { text: next.text, told: next.told } : badOf(row, p);
                    const needs = got?.missing.includes(p);
                    const off = row !== BLANK && p.when && !p.when(item);
                    const text = bad
                      ? bad.text
                      : next
                        ? next.text
                        : draft
                          ? textOf(row, p)
                          : p.type === "points"
                            ? pointsBrief(p, row, system)
                            : cellText(p, row, system);
                    return (
                      <td
                        role="gridcell"
                        key={p.path}
                        className={`${p.type === "number" || p.type === "whole" ? "figure" : ""} ${p.fixed ? "follows" : ""} ${here ? "active" : ""} ${picked ? "picked" : ""} ${bad ? "wrong" : ""} ${needs ? "needs" : ""} ${next && !next.same && !bad ? "arriving" : ""} ${off ? "off" : ""}`}
                        title={bad ? bad.told : needs ? `${p.name} is needed before this row is made` : undefined}
                        id={cellId(r, c)}
                        data-cell={`${row.id}/${p.path}`}
                        onMouseDown={(e) => {
                          if ((here && editing !== null) || coming) return;
                          if (editing !== null) void commit(false, null);
                          const next = { row: r, column: c };
                          setActive(next);
                          if (!e.shiftKey) setAnchor(next);
                          const a = e.shiftKey ? Math.min(anchor.row, r) : r;
                          const b = e.shiftKey ? Math.max(anchor.row, r) : r;
                          choose(labels(shown.slice(a, b + 1)), c === 0);
                        }}
                        onDoubleClick={() =>
                          !off && (draft || !p.fixed) && setEditing(textOf(row, p).replace("−", "-"))
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
