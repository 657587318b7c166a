import type { components } from "../api/generated";
import type { Selection } from "../session";
import type { System } from "../units/quantities";
import { inUnits, type Line, object, type TableView, text } from "./table";

export type Carried = components["schemas"]["CarriedState"];

const LISTS: Record<string, string> = { columns: "column", walls: "wall", supports: "support" };

/** Every column and wall from the top down with what comes to its foot; sums of the building above them. */
export function carriedTable(carried: Carried, floor: number | undefined, system: System): TableView {
  const { word, column, figure } = inUnits(system);
  const live = [...new Set(carried.feet.flatMap((f) => Object.keys(f.reductions)))];
  const sum = (key: string, name: string, of: (s: Carried["sums"][number]) => number): Line => ({
    key,
    fixed: true,
    opens: null,
    cells: [
      text(name),
      text(""),
      text(""),
      ...carried.cases.map((c) => {
        const found = carried.sums.find((s) => s.case === c);
        return figure(found && of(found), "kN");
      }),
      ...live.flatMap(() => [text(""), text(""), text("")]),
    ],
  });
  const open = carried.sums.some((s) => Math.abs(s.open_kN) > 1e-3);
  return {
    title: "Carried down",
    empty: carried.awaited.length
      ? `Results of ${carried.awaited.join(", ")} are awaited; without them nothing can be summed.`
      : "No floor of this project has a level. Give floors their levels to carry loads down.",
    columns: [
      word("Level"),
      word("Carries"),
      word("Stands on"),
      ...carried.cases.map((c) => column(c, "kN")),
      ...live.flatMap((c) => [column("Area", "m²", c), column("Factor", "", c), column(c, "kN", "reduced")]),
    ],
    lines: carried.feet.length
      ? [
          sum("loads", "Loads of all floors", (s) => s.loads_kN),
          sum("ground", "To the ground", (s) => s.ground_kN),
          ...(open ? [sum("open", "Not yet a load of its floor", (s) => s.open_kN)] : []),
          ...carried.feet.map(
            (f): Line => ({
              key: `${f.floor}-${f.list}-${f.id}`,
              cells: [
                text(f.level),
                text(`${LISTS[f.list] ?? f.list} ${f.id}`),
                text(f.on ? `${f.on}${f.planted ? ", planted" : ""}` : "the ground"),
                ...carried.cases.map((c) => figure(f.total_kN[c] ?? 0, "kN")),
                ...live.flatMap((c) => [
                  figure(f.area_m2[c], "m²"),
                  figure(f.reductions[c]?.factor, "", 3),
                  figure(f.reductions[c] ? f.reduced_kN[c] : undefined, "kN"),
                ]),
              ],
              opens:
                f.floor === floor && f.list !== "supports" ? (object(f.list as "columns", f.id) as Selection) : null,
              at: f.floor === floor ? (f.at as [number, number]) : null,
            }),
          ),
        ]
      : [],
  };
}
