import { type KeyboardEvent, type PointerEvent, useEffect, useMemo, useRef, useState } from "react";
import { type Selection, useSession } from "../app/session";
import { itemsOf, type Kind, PLURAL } from "../model/floor";
import { useGesture } from "../plan/tools/gesture";
import { SectionView } from "../space/SectionView";
import { FloorSheet } from "./FloorSheet";
import { type ProjectList, ProjectSheet } from "./ProjectSheet";
import { type Line, tableOf } from "./tables";

const same = (a: Selection, b: Selection) => a !== null && b !== null && JSON.stringify(a) === JSON.stringify(b);

/** The table under the plan; its selection is the plan's. */
export function Ledger() {
  const { document, results, step, selection, select, flyTo } = useSession();
  const [height, setHeight] = useState(228);
  const [folded, setFolded] = useState(false);
  const [kind, setKind] = useState<Kind>("columns");
  const [list, setList] = useState<ProjectList>("levels");
  const [loading, setLoading] = useState<"loads" | "load_cases" | "sums">("loads");
  const section = useGesture((g) => g.kept?.tool === "section");
  const [sort, setSort] = useState<{ step: string; column: number; down: boolean } | null>(null);
  const body = useRef<HTMLDivElement>(null);

  useEffect(() => {
    if (step === "build" && selection?.type === "object" && BUILD_KINDS.includes(selection.kind))
      setKind(selection.kind);
    if (
      step === "setout" &&
      selection?.type === "object" &&
      (selection.kind === "concretes" || selection.kind === "rebars")
    )
      setList(selection.kind);
  }, [selection, step]);

  const table = useMemo(
    () =>
      document && !["build", "setout"].includes(step) && !(step === "load" && loading !== "sums")
        ? tableOf(step, document, results)
        : null,
    [step, document, results, loading],
  );
  const last = (table?.columns.length ?? 1) - 1;
  const by =
    sort?.step === step + kind ? sort : table?.columns[last]?.name === "Use" ? { column: last, down: true } : null;
  const lines = useMemo(() => {
    if (!table || !by) return table?.lines ?? [];
    return [...table.lines].sort((a, b) => {
      const [p, q] = [a.cells[by.column]?.sort ?? "", b.cells[by.column]?.sort ?? ""];
      const order =
        typeof p === "number" && typeof q === "number"
          ? p - q
          : String(p).localeCompare(String(q), "en", { numeric: true });
      return by.down ? -order : order;
    });
  }, [table, by]);
  const current = lines.findIndex((l) => same(l.opens, selection));

  useEffect(() => {
    body.current?.querySelector("[aria-selected=true]")?.scrollIntoView({ block: "nearest" });
  }, []);
  useEffect(() => {
    if (current >= 0) body.current?.querySelectorAll("tbody tr")[current]?.scrollIntoView({ block: "nearest" });
  }, [current]);

  const choose = (line: Line | undefined, fly: boolean) => {
    if (!line?.opens) return;
    select(line.opens);
    if (fly && line.at) flyTo(line.at);
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
  const drag = (event: PointerEvent<HTMLButtonElement>) => {
    const start = { y: event.clientY, height };
    const target = event.currentTarget;
    target.setPointerCapture(event.pointerId);
    const move = (e: globalThis.PointerEvent) =>
      setHeight(Math.max(80, Math.min(window.innerHeight - 320, start.height + start.y - e.clientY)));
    target.addEventListener("pointermove", move);
    target.addEventListener("pointerup", () => target.removeEventListener("pointermove", move), { once: true });
  };

  const failing = lines.filter((l) => l.cells.some((c) => c.mark === "fail")).length;
  return (
    <section className="ledger" style={{ height: folded ? 36 : height }} aria-label="Ledger">
      <button
        type="button"
        className="handle"
        aria-label="Height of the ledger; arrow keys change it"
        onPointerDown={drag}
        onKeyDown={(e) => {
          if (e.key === "ArrowUp") setHeight((h) => h + 24);
          if (e.key === "ArrowDown") setHeight((h) => Math.max(80, h - 24));
        }}
      />
      <header>
        <h2>
          {table?.title ??
            (step === "build" ? PLURAL[kind] : step === "load" ? "Loading" : step === "setout" ? "Project" : "Ledger")}
        </h2>
        {table && <span className="chip">{lines.length}</span>}
        {failing > 0 && <span className="chip fail">{failing} over 1</span>}
        {step === "build" && document && (
          <div className="tabs" role="tablist">
            {BUILD_KINDS.map((k) => (
              <button type="button" role="tab" key={k} aria-selected={k === kind} onClick={() => setKind(k)}>
                {PLURAL[k]} <span className="quiet">{itemsOf(document, k).length || ""}</span>
              </button>
            ))}
          </div>
        )}
        {step === "load" && (
          <div className="tabs" role="tablist">
            {(["loads", "load_cases", "sums"] as const).map((k) => (
              <button type="button" role="tab" key={k} aria-selected={k === loading} onClick={() => setLoading(k)}>
                {k === "sums" ? "Sums" : PLURAL[k]}
              </button>
            ))}
          </div>
        )}
        {step === "setout" && (
          <div className="tabs" role="tablist">
            {PROJECT_LISTS.map(([key, name]) => (
              <button type="button" role="tab" key={key} aria-selected={key === list} onClick={() => setList(key)}>
                {name}
              </button>
            ))}
          </div>
        )}
        <span className="space" />
        <button type="button" className="small" onClick={() => setFolded(!folded)} aria-expanded={!folded}>
          {folded ? "Unfold" : "Fold"}
        </button>
      </header>
      {section && !folded && <SectionView />}
      {document && step === "build" && !section && <FloorSheet document={document} kind={kind} />}
      {document && step === "setout" && <ProjectSheet list={list} document={document} />}
      {document && step === "load" && loading !== "sums" && <FloorSheet document={document} kind={loading} />}
      {step !== "build" && step !== "setout" && !(step === "load" && loading !== "sums") && (
        <div className="rows" ref={body} tabIndex={0} onKeyDown={keys} role="grid" aria-label={`${table?.title} table`}>
          {table && lines.length > 0 ? (
            <table>
              <thead>
                <tr>
                  {table.columns.map((c, i) => (
                    <th
                      key={c.name + String(i)}
                      className={c.figure ? "figure" : ""}
                      aria-sort={by?.column === i ? (by.down ? "descending" : "ascending") : "none"}
                    >
                      <button
                        type="button"
                        onClick={() =>
                          setSort({ step: step + kind, column: i, down: by?.column === i ? !by.down : c.figure })
                        }
                      >
                        {heading(c.name)}
                        {by?.column === i ? (by.down ? " ↓" : " ↑") : ""}
                      </button>
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {lines.map((line, k) => (
                  <tr
                    key={line.key}
                    aria-selected={k === current}
                    className={k === current ? "current" : ""}
                    onClick={() => choose(line, true)}
                    onKeyDown={() => undefined}
                    data-line={line.key}
                  >
                    {line.cells.map((c, i) => (
                      <td
                        // biome-ignore lint/suspicious/noArrayIndexKey: columns keep their order
                        key={i}
                        className={`${table.columns[i]?.figure ? "figure" : ""} ${c.mark ?? ""}`}
                      >
                        {c.text}
                      </td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
          ) : (
            <p className="empty">{table?.empty ?? "Open a floor."}</p>
          )}
        </div>
      )}
    </section>
  );
}

const BUILD_KINDS: Kind[] = [
  "slabs",
  "openings",
  "thickenings",
  "beams",
  "columns",
  "walls",
  "supports",
  "one_way_areas",
  "stiffness_areas",
  "mats",
  "probes",
];
const PROJECT_LISTS: [ProjectList, string][] = [
  ["levels", "Levels"],
  ["grid_sets", "Grid"],
  ["concretes", "Concretes"],
  ["rebars", "Steels"],
];

/** A heading with its subscripts set low and its unit quiet. */
function heading(name: string) {
  const [symbol = "", ...rest] = name.split(" ");
  const [base, low] = symbol.split("_");
  return (
    <>
      {base}
      {low && <sub>{low}</sub>}
      {rest.length > 0 && ` ${rest.join(" ")}`}
    </>
  );
}
