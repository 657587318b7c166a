import { useVirtualizer } from "@tanstack/react-virtual";
import { type KeyboardEvent, useEffect, useMemo, useRef, useState } from "react";
import { type Selection, usePicked } from "../session";
import { cellOf, offered } from "./exported";
import type { Column, Line, TableView } from "./table";

/** Height of a row, px. */
const ROW = 25;

const same = (a: Selection, b: Selection) => a !== null && b !== null && JSON.stringify(a) === JSON.stringify(b);

/** A table of results: sorted by any column, walked by arrow keys, its selection the plan's. */
export function ReadTable(props: { table: TableView; name: string }) {
  const { table, name } = props;
  const { selection, select, flyTo } = usePicked("selection", "select", "flyTo");
  const [sort, setSort] = useState<{ name: string; column: number; down: boolean } | null>(null);
  const body = useRef<HTMLDivElement>(null);
  const first = table.sorted;
  const by = sort?.name === name ? sort : first === undefined ? null : { column: first, down: true };
  const lines = useMemo(() => {
    if (!by) return table.lines;
    const fixed = table.lines.filter((l) => l.fixed);
    const free = table.lines.filter((l) => !l.fixed);
    return [
      ...fixed,
      ...free.sort((a, b) => {
        const [p, q] = [a.cells[by.column]?.sort ?? "", b.cells[by.column]?.sort ?? ""];
        const order =
          typeof p === "number" && typeof q === "number"
            ? p - q
            : String(p).localeCompare(String(q), "en", { numeric: true });
        return by.down ? -order : order;
      }),
    ];
  }, [table, by]);
  // Lines that open nothing of the plan have a place of their own.
  const [at, setAt] = useState<string | null>(null);
  const current = lines.findIndex((l) => (l.does ? l.key === at : same(l.opens, selection)));
  const rows = useVirtualizer({
    count: lines.length,
    getScrollElement: () => body.current,
    estimateSize: () => ROW,
    overscan: 8,
  });
  const shown = rows.getVirtualItems();
  const [before, after] = [shown[0]?.start ?? 0, rows.getTotalSize() - (shown[shown.length - 1]?.end ?? 0)];
  const { scrollToIndex } = rows;
  useEffect(() => {
    if (current >= 0) scrollToIndex(current, { align: "auto" });
  }, [current, scrollToIndex]);
  useEffect(
    () =>
      offered({
        title: table.title,
        columns: table.columns.map((c) => [`${c.name}${c.low ?? ""}`, c.unit].filter(Boolean).join(" ")),
        rows: () => lines.map((l) => l.cells.map((c) => cellOf(c.plain ?? c.text))),
      }),
    [table, lines],
  );

  const choose = (line: Line | undefined, fly: boolean) => {
    if (line?.does) {
      setAt(line.key);
      if (fly) line.does();
      return;
    }
    if (!line?.opens) return;
    select(line.opens);
    if (fly && line.at) flyTo(line.at, line.wide);
  };
  const keys = (event: KeyboardEvent) => {
    if (event.shiftKey) return;
    const move = { ArrowDown: 1, ArrowUp: -1, PageDown: 8, PageUp: -8, Home: -1e6, End: 1e6 }[event.key];
    if (move !== undefined) {
      const next = Math.max(0, Math.min(lines.length - 1, (current < 0 ? -Math.sign(move) : current) + move));
      choose(lines[next], false);
      event.preventDefault();
    } else if (event.key === "Enter") choose(lines[current], true);
  };
  return (
    <div className="rows" ref={body} tabIndex={0} onKeyDown={keys} role="grid" aria-label={`${table.title} table`}>
      {lines.length > 0 ? (
        <table role="presentation">
          <thead role="rowgroup">
            <tr role="row">
              {table.columns.map((c, i) => (
                <th
                  role="columnheader"
                  key={`${c.name}${c.low ?? ""}${String(i)}`}
                  className={c.figure ? "figure" : ""}
                  aria-sort={by?.column === i ? (by.down ? "descending" : "ascending") : "none"}
                >
                  <button
                    type="button"
                    onClick={() => setSort({ name, column: i, down: by?.column === i ? !by.down : c.figure })}
                  >
                    <Heading column={c} />
                    {by?.column === i ? (by.down ? " ↓" : " ↑") : ""}
                  </button>
                </th>
              ))}
            </tr>
          </thead>
          <tbody role="rowgroup">
            {before > 0 && (
              <tr role="presentation" style={{ height: before }}>
                <td role="presentation" colSpan={table.columns.length} />
              </tr>
            )}
            {shown.map(({ index: k }) => {
              const line = lines[k] as Line;
              return (
                <tr
                  role="row"
                  key={line.key}
                  aria-selected={k === current}
                  className={`${k === current ? "current" : ""} ${line.fixed ? "sum" : ""}`}
                  onClick={() => choose(line, true)}
                  onKeyDown={() => undefined}
                  data-line={line.key}
                >
                  {line.cells.map((c, i) => (
                    <td
                      role="gridcell"
                      // biome-ignore lint/suspicious/noArrayIndexKey: columns keep their order
                      key={i}
                      className={`${table.columns[i]?.figure ? "figure" : ""} ${c.mark ?? ""}`}
                    >
                      {c.text}
                    </td>
                  ))}
                </tr>
              );
            })}
            {after > 0 && (
              <tr role="presentation" style={{ height: after }}>
                <td role="presentation" colSpan={table.columns.length} />
              </tr>
            )}
          </tbody>
        </table>
      ) : (
        <p className="empty">{table.empty}</p>
      )}
    </div>
  );
}

/** A heading with what is set low behind it, and its unit. */
function Heading(props: { column: Column }) {
  const { name, low, unit } = props.column;
  return (
    <>
      {name}
      {low && <sub>{low}</sub>}
      {unit && ` ${unit}`}
    </>
  );
}
