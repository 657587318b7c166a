import { useMemo } from "react";
import { nameOf, plural, singular } from "../kinds";
import { added, mapped, relabelled, removed } from "../kinds/edits";
import { propertiesOfKind } from "../kinds/properties";
import { type FloorDocument, itemsOf, type Kind, type Labelled, type Vertex } from "../model/floor";
import { type Property, valueAt, withValue } from "../model/property";
import { withStrand } from "../model/tendons";
import { storeysHere } from "../plan/tools/gesture";
import { usePicked } from "../session";
import { freshOf, startsOf } from "./freshRows";
import { type CellChange, Sheet } from "./Sheet";

export function withCells(document: FloorDocument, kind: Kind, changes: CellChange[]): FloorDocument {
  let out = document;
  // Labels last, so that the other cells of a row still find it.
  for (const c of [...changes.filter((x) => x.path !== "id"), ...changes.filter((x) => x.path === "id")]) {
    const ref = { kind, id: c.id };
    out =
      c.path === "id"
        ? relabelled(out, ref, String(c.value))
        : mapped(out, [ref], (i) => withValue(i, c.path, c.value));
  }
  return out;
}

/** The table of one kind of the floor's objects. */
export function FloorSheet(props: { document: FloorDocument; kind: Kind }) {
  const { document, kind } = props;
  const { chosen, choose, edit, flyTo } = usePicked("chosen", "choose", "edit", "flyTo");
  const rows = itemsOf(document, kind);
  // Only columns that some row has; a wall table of straight walls needs no far end above.
  const properties = useMemo<Property[]>(() => {
    const told = kind === "supports" || kind === "loads";
    const [name, ...others] = propertiesOfKind(kind);
    const all = told
      ? [name as Property, kindColumn(kind), ...others.filter((p) => p.path !== "kind")]
      : propertiesOfKind(kind);
    // What rows have, what one needs, and what a new one would begin with; a table without rows shows what the first one could have.
    const starts = startsOf(kind, document, storeysHere());
    const has = (p: Property, i: Labelled) => (p.when as (i: Labelled) => boolean)(i);
    return all
      .filter(
        (p) =>
          !p.when ||
          p.required ||
          rows.some((r) => has(p, r)) ||
          starts.some((s) => has(p, s) && (rows.length === 0 || valueAt(s, p.path) !== undefined)),
      )
      .filter((p) => p.path !== "kind" || told || kind === "thickenings");
  }, [kind, rows, document]);
  const ids = useMemo(() => chosen.filter((r) => r.kind === kind).map((r) => r.id), [chosen, kind]);
  const fresh = useMemo(() => freshOf(kind, document, storeysHere()), [kind, document]);
  return (
    <Sheet
      key={kind}
      list={kind}
      title={plural(kind)}
      rows={rows}
      properties={properties}
      document={document}
      chosen={ids}
      choose={(picked, fly) => {
        choose(picked.map((id) => ({ kind, id })));
        const item = fly && picked.length === 1 ? rows.find((r) => r.id === picked[0]) : undefined;
        const at = item && placeOf(item);
        if (at) flyTo(at);
      }}
      save={(changes, made, line) => {
        const items = made.map((values) => fresh(values).item);
        const { refs } = added(document, kind, items);
        return edit({
          line: items.length && !changes.length ? `${nameOf(refs)} added` : line,
          change: (d) =>
            added(withCells(items.length && kind === "tendons" ? withStrand(d) : d, kind, changes), kind, items)
              .document,
          ...(items.length ? { picks: refs } : {}),
        });
      }}
      fresh={fresh}
      remove={(gone) => {
        const refs = gone.map((id) => ({ kind, id }));
        void edit({ line: `${nameOf(refs)} deleted`, change: (d) => removed(d, refs), picks: [] });
      }}
      empty={`No ${singular(kind).toLowerCase()} on this floor yet. Draw one on the plan.`}
    />
  );
}

/** What an object is: chosen for a new row, and not changed any more. */
const kindColumn = (kind: Kind): Property => ({
  path: "kind",
  name: "Kind",
  type: "choice",
  choices: propertiesOfKind(kind).find((p) => p.path === "kind")?.choices,
  required: true,
  fixed: true,
});

function placeOf(item: Labelled): [number, number] | null {
  const list = (item.at ? [item.at] : (item.outline ?? item.line)) as Vertex[] | undefined | null;
  if (!list?.length) return null;
  const n = list.length;
  return [list.reduce((t, v) => t + (v[0] ?? 0), 0) / n, list.reduce((t, v) => t + (v[1] ?? 0), 0) / n];
}
