import { useMemo } from "react";
import { nameOf } from "../kinds";
import { added, mapped, relabelled, removed } from "../kinds/edits";
import type { Combination, FloorDocument, Labelled } from "../model/floor";
import { type Property, withValue } from "../model/property";
import { usePicked } from "../session";
import { type CellChange, Sheet } from "./Sheet";

const STATES = [
  "ultimate",
  "accidental",
  "fire",
  "construction",
  "characteristic",
  "frequent",
  "quasi_permanent",
  "service",
  "sustained",
  "transfer",
];

/** A combination with one cell changed; a generated row is marked as edited by it. */
function withFactor(row: Combination, path: string, value: unknown): Combination {
  const out = withValue(row, path, value) as Combination;
  return row.rule ? { ...out, edited: true } : out;
}

/** A row typed or pasted at the end: ultimate unless it says otherwise. */
function fresh(values: Record<string, unknown>): { item: Labelled; missing: Property[] } {
  const start: Combination = { id: "", limit_state: "ultimate", factors: {} };
  return {
    item: Object.entries(values).reduce((row, [path, value]) => withFactor(row, path, value), start),
    missing: [],
  };
}

/** Rows combinations, columns cases: edited like a spreadsheet, the rule behind each row beside it. */
export function CombinationSheet(props: { document: FloorDocument }) {
  const { document } = props;
  const { chosen, choose, edit } = usePicked("chosen", "choose", "edit");
  const cases = document.load_cases ?? [];
  const rows = (document.combinations ?? []) as Labelled[];
  const properties = useMemo<Property[]>(
    () => [
      { path: "id", name: "Combination", type: "text" },
      { path: "limit_state", name: "Limit state", type: "choice", choices: () => STATES },
      ...cases.map<Property>((c) => ({
        path: `factor:${c.id}`,
        name: c.id,
        type: "number",
        quantity: "none",
        empty: true,
        narrow: true,
      })),
      { path: "origin", name: "Rule", type: "text", wide: true, fixed: true },
    ],
    [cases],
  );
  const ids = useMemo(() => chosen.filter((r) => r.kind === "combinations").map((r) => r.id), [chosen]);
  const shown = useMemo(
    () =>
      rows.map((r) => ({
        ...r,
        origin: `${r.edited ? "edited: " : ""}${(r.rule as string | undefined) ?? "own row"}`,
        mark: r.edited ? "edited" : r.rule ? "" : "own",
      })),
    [rows],
  );
  const changed = (d: FloorDocument, changes: CellChange[]): FloorDocument => {
    let out = d;
    for (const c of [...changes.filter((x) => x.path !== "id"), ...changes.filter((x) => x.path === "id")])
      out =
        c.path === "id"
          ? relabelled(out, { kind: "combinations", id: c.id }, String(c.value))
          : mapped(out, [{ kind: "combinations", id: c.id }], (i) => withFactor(i as Combination, c.path, c.value));
    return out;
  };
  return (
    <Sheet
      list="combinations"
      title="Combinations"
      rows={shown}
      properties={properties}
      document={document}
      chosen={ids}
      choose={(picked) => choose(picked.map((id) => ({ kind: "combinations", id })))}
      save={(changes, made, line) => {
        const items = made.map((values) => fresh(values).item);
        const { refs } = added(document, "combinations", items);
        return edit({
          line: items.length && !changes.length ? `${nameOf(refs)} added` : line,
          change: (d) => added(changed(d, changes), "combinations", items).document,
        });
      }}
      fresh={fresh}
      remove={(gone) => {
        const refs = gone.map((id) => ({ kind: "combinations" as const, id }));
        void edit({ line: `${nameOf(refs)} deleted`, change: (d) => removed(d, refs), picks: [] });
      }}
      empty="No combinations yet. Generate the standard's in the inspector, or read them from a table."
    />
  );
}
