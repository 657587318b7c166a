import type { Selection } from "../app/session";
import { type FloorDocument, itemsOf, type Kind } from "../model/floor";
import type { Results } from "../model/results";
import type { StepName } from "../route/stepName";
import { markOf, SIGN, shown, use } from "../units/format";

export type Cell = { text: string; sort: number | string; mark?: string };
export type Line = { key: string; cells: Cell[]; opens: Selection; at?: [number, number] | null };
export type TableView = { title: string; columns: { name: string; figure: boolean }[]; lines: Line[]; empty: string };

const text = (value: unknown): Cell => ({ text: value == null ? "–" : String(value), sort: String(value ?? "") });
const figure = (value: number | null | undefined, unit = "", digits?: number): Cell => ({
  text: value == null ? "–" : shown(value, unit, digits),
  sort: value ?? Number.NEGATIVE_INFINITY,
});
const usage = (value: number | null): Cell => ({
  text: `${use(value)} ${SIGN[markOf(value)]}`,
  sort: value ?? -1,
  mark: markOf(value),
});
const columns = (...names: string[]) =>
  names.map((name) => ({ name: name.replace("#", ""), figure: name.startsWith("#") }));
const object = (kind: Kind, id: string): Selection => ({ type: "object", kind, id });

/** What the current step is about, as a table. */
export function tableOf(step: StepName, document: FloorDocument, results: Results | null): TableView {
  const none = "No results yet; they come by themselves when the run ends.";
  switch (step) {
    case "load":
      return {
        title: "Sums of the loads",
        empty: "No loads yet.",
        columns: columns("Load", "Case", "Kind", "Value", "#On the floor kN", "#Lost kN"),
        lines: (document.loads ?? []).map((l) => {
          const sum = results?.loads.find((s) => s.load === l.id && s.case === l.case);
          const value =
            l.kind === "area"
              ? `${shown(l.q_kPa ?? 0, "kPa")} kPa`
              : l.kind === "line"
                ? `${(l.q_kN_m ?? []).map((q) => shown(q, "kN/m", 1)).join(" to ")} kN/m`
                : `${shown(l.F_kN ?? 0, "kN", 1)} kN`;
          return {
            key: l.id,
            cells: [
              text(l.id),
              text(l.case),
              text(l.kind),
              text(value),
              figure(sum?.on_floor_kN, "kN", 1),
              figure(sum?.lost_kN, "kN", 1),
            ],
            opens: object("loads", l.id),
          };
        }),
      };
    case "combine": {
      const cases = (document.load_cases ?? []).map((c) => c.id);
      return {
        title: "Combinations",
        empty: "No combinations yet.",
        columns: [...columns("Combination", "Limit state"), ...cases.map((c) => ({ name: c, figure: true }))],
        lines: (document.combinations ?? []).map((c) => ({
          key: c.id,
          cells: [text(c.id), text(c.limit_state.replace("_", "-")), ...cases.map((k) => figure(c.factors[k], "", 2))],
          opens: object("combinations", c.id),
        })),
      };
    }
    case "arrange":
      return {
        title: "Panels of pattern load",
        empty: results ? "No case has pattern load, so there are no panels." : none,
        columns: columns("Panel", "#Area m²", "#Middle x m", "#Middle y m"),
        lines: (results?.panels ?? []).map((p) => {
          let [a, x, y] = [0, 0, 0];
          p.outline.forEach(([px, py], i) => {
            const [qx, qy] = p.outline[(i + 1) % p.outline.length] as [number, number];
            const c = px * qy - qx * py;
            a += c / 2;
            x += ((px + qx) * c) / 6;
            y += ((py + qy) * c) / 6;
          });
          return {
            key: p.id,
            cells: [text(p.id), figure(Math.abs(a), "", 1), figure(x / a, "", 2), figure(y / a, "", 2)],
            opens: { type: "panel", id: p.id } as Selection,
            at: [x / a, y / a],
          };
        }),
      };
    case "analyse":
      return {
        title: "Reactions and balance",
        empty: none,
        columns: [
          ...columns("Support"),
          ...(results?.equilibrium ?? []).map((e) => ({ name: `${e.case} kN`, figure: true })),
          ...(document.combinations ?? []).map((c) => ({ name: `${c.id} kN`, figure: true })),
        ],
        lines: results
          ? [
              {
                key: "applied",
                cells: [
                  text("Applied on the floor"),
                  ...results.equilibrium.map((e) => figure(e.applied_kN, "kN", 1)),
                  ...(document.combinations ?? []).map((c) =>
                    figure(
                      results.equilibrium.reduce((t, e) => t + (c.factors[e.case] ?? 0) * e.applied_kN, 0),
                      "kN",
                      1,
                    ),
                  ),
                ],
                opens: null,
              },
              {
                key: "reactions",
                cells: [
                  text("Sum of reactions"),
                  ...[...results.equilibrium.map((e) => e.case), ...(document.combinations ?? []).map((c) => c.id)].map(
                    (k) =>
                      figure(
                        results.reactions.reduce((t, r) => t + (r.values[k]?.F_kN ?? 0), 0),
                        "kN",
                        1,
                      ),
                  ),
                ],
                opens: null,
              },
              ...results.reactions.map((r) => ({
                key: r.support,
                cells: [
                  text(r.support),
                  ...[...results.equilibrium.map((e) => e.case), ...(document.combinations ?? []).map((c) => c.id)].map(
                    (k) => figure(r.values[k]?.F_kN, "kN", 1),
                  ),
                ],
                opens: supportSelection(document, r.support),
                at: (document.columns?.find((c) => c.id === r.support)?.at as [number, number] | undefined) ?? null,
              })),
            ]
          : [],
      };
    case "strips":
    case "steel":
      return {
        title: step === "strips" ? "Strips, ultimate moments" : "Steel, worst station of each strip",
        empty: results ? "The supports do not line up, so no strips could be derived." : none,
        columns:
          step === "strips"
            ? columns("Strip", "Bars", "#Span m", "#Width m", "#Greatest M kNm", "#Least M kNm")
            : columns(
                "Strip",
                "Bars",
                "#Bottom required mm²/m",
                "#given mm²/m",
                "#Top required mm²/m",
                "#given mm²/m",
                "#Use",
              ),
        lines: (results?.strips ?? []).map((s) => {
          const row = results?.rows.find((r) => r.check === "flexure" && r.where.endsWith(`, ${s.label}`));
          const worst = (face: "bottom" | "top") => {
            const steel = s[face];
            if (!steel) return [figure(null), figure(null)];
            const i = steel.utilisation.reduce((at, v, k) => (v > (steel.utilisation[at] as number) ? k : at), 0);
            return [figure(steel.required_mm2_m[i], "mm²/m"), figure(steel.provided_mm2_m[i], "mm²/m")];
          };
          const head = [text(s.label), text(s.direction)];
          return {
            key: s.label,
            cells:
              step === "strips"
                ? [
                    ...head,
                    figure(s.span_m, "", 2),
                    figure(Math.max(...s.width_m), "", 2),
                    figure(Math.max(...s.M_kNm[1]), "kNm"),
                    figure(Math.min(...s.M_kNm[0]), "kNm"),
                  ]
                : [...head, ...worst("bottom"), ...worst("top"), usage(row?.utilisation ?? null)],
            opens: row ? ({ type: "row", check: "flexure", where: row.where } as Selection) : null,
            at: row?.at ?? null,
          };
        }),
      };
    case "punching":
      return {
        title: "Punching zones",
        empty: results ? "There are no columns that can punch." : none,
        columns: columns(
          "Column",
          "Place",
          "Around",
          "#V_Ed kN",
          "#M_x kNm",
          "#M_y kNm",
          "#β",
          "#u m",
          "#d mm",
          "#v_Ed kPa",
          "#v_Rd,c kPa",
          "#Use",
        ),
        lines: (results?.zones ?? []).map((z) => ({
          key: z.column + z.around,
          cells: [
            text(z.column),
            text(z.place),
            text(z.around),
            figure(z.V_Ed_kN, "kN"),
            figure(z.M_x_kNm, "kNm"),
            figure(z.M_y_kNm, "kNm"),
            figure(z.beta, "", 2),
            figure(z.u_m, "", 2),
            figure(z.d_mm, "", 0),
            figure(z.v_Ed_kPa, "", 0),
            figure(z.v_Rd_c_kPa, "", 0),
            usage(z.utilisation),
          ],
          opens: { type: "row", check: "punching", where: z.column } as Selection,
          at: z.at,
        })),
      };
    default:
      return {
        title: "Sag between supports, quasi-permanent",
        empty: results ? "There is no quasi-permanent combination; add one." : none,
        columns: columns("Line", "#Span m", "#Sag mm", "#Limit mm", "Combination", "#Use"),
        lines: (results?.sags ?? []).map((s, i) => ({
          key: `${s.where}${i}`,
          cells: [
            text(s.where),
            figure(s.span_m, "", 2),
            figure(s.sag_mm, "mm"),
            figure(s.limit_mm, "mm"),
            text(s.combination),
            usage(s.utilisation),
          ],
          opens: { type: "row", check: "deflection", where: s.where } as Selection,
          at: s.at,
        })),
      };
  }
}

function supportSelection(document: FloorDocument, id: string): Selection {
  for (const kind of ["columns", "walls", "supports"] as Kind[])
    if (itemsOf(document, kind).some((i) => i.id === id)) return object(kind, id);
  return null;
}
