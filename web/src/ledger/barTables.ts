import { diameter, lacking, lies, sized, strokes } from "../model/bars";
import type { Selection } from "../session";
import { resultOf } from "../units/results";
import { inUnits, type Line, NONE, type Sources, type TableView, text, usage } from "./table";

/** All bars by mark, the total on top. */
export function barTable({ results, system }: Sources): TableView {
  const { word, column, figure } = inUnits(system);
  const bars = results?.bars ?? [];
  const total = results?.steel;
  const lines = bars.map(
    (b, i): Line => ({
      key: `${b.mark}-${i}`,
      cells: [
        text(b.mark),
        text(lies(b)),
        text(sized(b, system)),
        figure(b.count, "", 0),
        figure(b.length_m, "m"),
        text(b.shape === "straight" ? "straight" : b.shape === "hook" ? "one end bent" : "both ends bent"),
        figure(b.mass_kg, "kg", 1),
        b.shortfall
          ? {
              ...figure(lacking(b.shortfall).beside, "mm²/m"),
              mark: lacking(b.shortfall).still > 0 ? "fail" : undefined,
            }
          : text(""),
        text(b.origin === "mat" ? "mat" : b.locked ? `${b.origin}, locked` : b.origin),
        text([...new Set(b.why.map((w) => w.provision.replaceAll("_", " ")))].join(", ")),
      ],
      opens:
        b.origin === "mat"
          ? { type: "object", kind: "mats", id: b.mark }
          : ({ type: "bars", mark: b.mark } as Selection),
      at: strokes(b).middle,
    }),
  );
  return {
    title: "Bars",
    told: total
      ? `${resultOf(total.mass_kg, "kg", system, 0)}, ${resultOf(total.kg_m2, "kg/m²", system)}, of which laps ${resultOf(total.laps_kg, "kg", system, 0)}; ${Object.entries(
          total.by_bar_kg,
        )
          .map(([bar, kg]) => `${diameter(Number(bar), system)} ${resultOf(kg, "kg", system, 0)}`)
          .join(", ")}`
      : undefined,
    failing: "short",
    empty: results ? "There are no bars: add mats, or let bars be designed." : NONE,
    columns: [
      word("Mark"),
      word("Lies"),
      word("Bar"),
      column("Count"),
      column("Length", "m"),
      word("Shape"),
      column("Mass", "kg"),
      column("Shortfall", "mm²/m"),
      word("Origin"),
      word("Asked by"),
    ],
    lines,
  };
}

export function shearTable({ results, system }: Sources): TableView {
  const { word, column, figure } = inUnits(system);
  const verdict = results?.verdict.find((r) => r.check === "shear");
  return {
    title: "One-way shear beside walls, lines, beams and thick regions",
    empty: results
      ? verdict?.reason
        ? `Not checked: ${verdict.reason}.`
        : "Nothing carries this floor along a line."
      : NONE,
    sorted: 5,
    columns: [
      word("Beside"),
      column("v", "kN/m", "Ed"),
      column("v", "kN/m", "Rd,c"),
      word("Combination"),
      word("Links"),
      column("Utilisation"),
    ],
    lines: (results?.shear ?? []).map((u) => ({
      key: u.row,
      cells: [
        text(u.where),
        figure(u.v_Ed_kN_m, "kN/m"),
        figure(u.v_Rd_c_kN_m, "kN/m"),
        text(u.combination),
        text(
          u.links
            ? `${diameter(u.links.bar_mm, system)} at ${resultOf(u.links.along_mm, "mm", system, 0)} by ${resultOf(u.links.across_mm, "mm", system, 0)}, ${resultOf(u.links.reach_m, "m", system)} from the face`
            : u.v_Ed_kN_m > u.v_Rd_c_kN_m
              ? "none"
              : "",
        ),
        usage(u.utilisation),
      ],
      opens: { type: "row", key: u.row } as Selection,
      at: u.at as [number, number],
    })),
  };
}

export function beamTable({ results, system }: Sources): TableView {
  const { word, column, figure } = inUnits(system);
  const most = (v: number[]) => Math.max(...v);
  return {
    title: "Beams, each span",
    empty: results ? "This floor has no beams." : NONE,
    sorted: 10,
    columns: [
      word("Beam"),
      column("Span"),
      column("M", "kNm", "max"),
      column("M", "kNm", "min"),
      column("V", "kN", "Ed"),
      column("T", "kNm", "Ed"),
      column("b", "m", "eff"),
      word("Bottom"),
      word("Top"),
      word("Links"),
      column("Utilisation"),
    ],
    lines: (results?.beams ?? []).map((b) => ({
      key: b.row,
      cells: [
        text([b.id, ...(b.pieces ?? [])].join(" + ")),
        figure(b.span, "", 0),
        figure(most(b.M_kNm[1]), "kNm"),
        figure(Math.min(...b.M_kNm[0]), "kNm"),
        figure(most(b.V_Ed_kN), "kN"),
        figure(most(b.T_Ed_kNm), "kNm"),
        figure(most(b.flange_m), "m"),
        text(b.bottom),
        text(b.top),
        text(b.links),
        usage(most(b.utilisation)),
      ],
      opens: { type: "row", key: b.row } as Selection,
      at: b.at[Math.floor(b.at.length / 2)] ?? null,
    })),
  };
}
