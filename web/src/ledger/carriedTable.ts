import type { components } from "../api/generated";
import type { Selection } from "../session";
import type { System } from "../units/quantities";
import { inUnits, type Line, object, type TableView, text } from "./table";

export type Carried = components["schemas"]["CarriedState"];

type Foot = Carried["feet"][number];

const LISTS: Record<string, string> = { columns: "column", walls: "wall", supports: "support" };

/** What a column of the table tells: forces by load case, in the combinations of a limit state, or along walls. */
export type Shown = "cases" | "along" | `in ${string}`;

const STATE = /^in /;

/** What can be shown of it, with its name. */
export function choices(carried: Carried): [Shown, string][] {
  const states = [...new Set(Object.values(carried.combinations))];
  const walls = carried.feet.some((f) => Object.keys(f.along_kN_m).length > 0);
  return [
    ["cases", "by load case"],
    ...states.map((s): [Shown, string] => [`in ${s}`, `in ${s.replace("_", "-")} combinations`]),
    ...(walls ? ([["along", "along walls"]] as [Shown, string][]) : []),
  ];
}

/** Every column and wall from the top down with what comes to its foot; sums of the building above them. */
export function carriedTable(
  carried: Carried,
  floor: number | undefined,
  system: System,
  shown: Shown = "cases",
): TableView {
  const { word, column, figure } = inUnits(system);
  const named = (f: Foot) => [
    text(f.level),
    text(`${LISTS[f.list] ?? f.list} ${f.id}`),
    text(f.on ? `${f.on}${f.planted ? ", planted" : ""}` : "the ground"),
  ];
  const line = (f: Foot, cells: Line["cells"]): Line => ({
    key: `${f.floor}-${f.list}-${f.id}`,
    cells: [...named(f), ...cells],
    opens: f.floor === floor && f.list !== "supports" ? (object(f.list as "columns", f.id) as Selection) : null,
    at: f.floor === floor ? (f.at as [number, number]) : null,
  });
  const head = {
    title: "Carried down",
    empty: carried.awaited.length
      ? `Results of ${carried.awaited.join(", ")} are awaited; without them nothing can be summed.`
      : "No floor of this project has a level. Give floors their levels to carry loads down.",
  };
  const first = [word("Level"), word("Carries"), word("Stands on")];
  if (STATE.test(shown)) {
    const names = Object.keys(carried.combinations).filter((c) => `in ${carried.combinations[c]}` === shown);
    const sorted = (f: Foot) =>
      names
        .map((c): [string, number | undefined] => [c, f.combined_kN[c]])
        .filter((pair): pair is [string, number] => pair[1] !== undefined)
        .sort((a, b) => b[1] - a[1]);
    return {
      ...head,
      columns: [
        ...first,
        column("Greatest", "kN"),
        word("in"),
        column("Least", "kN"),
        word("in"),
        ...names.map((c) => column(c, "kN")),
      ],
      lines: carried.feet.map((f) => {
        const found = sorted(f);
        const [most, least] = [found[0], found.at(-1)];
        return line(f, [
          figure(most?.[1], "kN"),
          text(most?.[0] ?? ""),
          figure(least?.[1], "kN"),
          text(least?.[0] ?? ""),
          ...names.map((c) => figure(f.combined_kN[c], "kN")),
        ]);
      }),
    };
  }
  if (shown === "along")
    return {
      ...head,
      columns: [...first, ...carried.cases.flatMap((c) => [column(c, "kN/m", "start"), column(c, "kN/m", "end")])],
      lines: carried.feet
        .filter((f) => Object.keys(f.along_kN_m).length > 0)
        .map((f) =>
          line(
            f,
            carried.cases.flatMap((c) => [0, 1].map((k) => figure(f.along_kN_m[c]?.[k], "kN/m"))),
          ),
        ),
    };
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
    ...head,
    columns: [
      ...first,
      ...carried.cases.map((c) => column(c, "kN")),
      ...live.flatMap((c) => [column("Area", "m²", c), column("Factor", "", c), column(c, "kN", "reduced")]),
    ],
    lines: carried.feet.length
      ? [
          sum("loads", "Loads of all floors", (s) => s.loads_kN),
          sum("ground", "To the ground", (s) => s.ground_kN),
          ...(open ? [sum("open", "Not yet a load of its floor", (s) => s.open_kN)] : []),
          ...carried.feet.map((f) =>
            line(f, [
              ...carried.cases.map((c) => figure(f.total_kN[c] ?? 0, "kN")),
              ...live.flatMap((c) => [
                figure(f.area_m2[c], "m²"),
                figure(f.reductions[c]?.factor, "", 3),
                figure(f.reductions[c] ? f.reduced_kN[c] : undefined, "kN"),
              ]),
            ]),
          ),
        ]
      : [],
  };
}
