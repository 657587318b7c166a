import { useMemo, useState } from "react";
import { checkOf } from "../checks";
import { ReadTable } from "../ledger/ReadTable";
import { type TableView, text } from "../ledger/table";
import { SIGN, use } from "../units/format";
import { reasonOf, type System } from "../units/quantities";
import { type Card, type CheckRow, markOfRow, type Overview, worstFirst } from "./overview";

const WORDS: Record<string, string> = {
  fail: "fails",
  unchecked: "not checked",
  uncovered: "not all covered",
  pass: "passes",
};
type Asked = "all" | "open" | "fail";

/** Every check of every floor in one table. */
export function verdictTable(
  overview: Overview,
  asked: Asked,
  check: string,
  system: System,
  open: (card: Card, row: CheckRow) => void,
): TableView {
  const wanted = (r: CheckRow) =>
    (asked === "all" || (asked === "fail" ? r.status === "fail" : r.status !== "pass")) &&
    (!check || r.check === check);
  const lines = overview.floors.flatMap((card) =>
    worstFirst(card.verdict)
      .filter(wanted)
      .map((row) => {
        const behind = card.known !== card.revision;
        const mark = behind ? "none" : markOfRow(row);
        return {
          key: `${card.id}-${row.check}`,
          cells: [
            text(card.name),
            text(card.level),
            text(checkOf(row.check).title),
            {
              text: `${use(row.utilisation)} ${behind ? "" : SIGN[mark]}`,
              plain: row.utilisation === null ? "" : row.utilisation.toFixed(4),
              sort: row.utilisation ?? -1,
              mark,
            },
            text(behind ? `out of date (${WORDS[row.status] ?? row.status})` : (WORDS[row.status] ?? row.status)),
            text(row.where),
            text(row.combination),
            text(reasonOf(row, system)),
          ],
          opens: null,
          does: () => open(card, row),
        };
      }),
  );
  const column = (name: string, figure = false) => ({ name, figure });
  return {
    title: "Verdicts of the building",
    columns: [
      column("Floor"),
      column("Level"),
      column("Check"),
      column("Use", true),
      column("Status"),
      column("Where"),
      column("Combination"),
      column("Why"),
    ],
    lines,
    empty: "No check of this building is like that.",
  };
}

export function VerdictTable(props: { overview: Overview; system: System; open: (card: Card, row: CheckRow) => void }) {
  const { overview, system, open } = props;
  const [asked, setAsked] = useState<Asked>("all");
  const [check, setCheck] = useState("");
  const checks = [...new Set(overview.floors.flatMap((f) => f.verdict.map((r) => r.check)))];
  const table = useMemo(
    () => verdictTable(overview, asked, check, system, open),
    [overview, asked, check, system, open],
  );
  return (
    <section className="verdict-table" aria-label="Verdicts">
      <div className="button-row">
        <div className="segments" role="radiogroup" aria-label="Which rows">
          {(
            [
              ["all", "All"],
              ["open", "Not passed"],
              ["fail", "Fails"],
            ] as const
          ).map(([key, name]) => (
            <button key={key} type="button" role="radio" aria-checked={asked === key} onClick={() => setAsked(key)}>
              {name}
            </button>
          ))}
        </div>
        <label>
          Check{" "}
          <select value={check} onChange={(e) => setCheck(e.target.value)}>
            <option value="">every</option>
            {checks.map((c) => (
              <option key={c} value={c}>
                {checkOf(c).title}
              </option>
            ))}
          </select>
        </label>
        <span className="quiet">
          {table.lines.length} rows; one that is clicked opens its floor at the worst place of the check.
        </span>
      </div>
      <ReadTable table={table} name="building-verdicts" />
    </section>
  );
}
