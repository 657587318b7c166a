import type { Selection } from "../app/session";
import { type FloorDocument, itemsOf, type Kind, type Load, type Slice } from "../model/floor";
import { loadText } from "../model/loads";
import type { Results } from "../model/results";
import { chosenText } from "../plan/display";
import type { Catalogue, Chosen, Diagram, ReactionTable, RunEntry } from "../readings/readings";
import { markOf, SIGN, shown, use } from "../units/format";
import type { System } from "../units/quantities";
import { figureOf, toldUnit } from "../units/results";

export type Cell = {
  text: string;
  sort: number | string;
  mark?: string /** What goes to a spreadsheet. */;
  plain?: string;
};
export type Line = {
  key: string;
  cells: Cell[];
  opens: Selection;
  at?: [number, number] | null;
  /** Sums stay on top however the table is sorted. */
  fixed?: boolean;
};
export type TableView = {
  title: string;
  /** What the table is of. */
  told?: string;
  columns: { name: string; figure: boolean }[];
  lines: Line[];
  empty: string;
};

/** Everything that tables of results are made from. */
export type Sources = {
  document: FloorDocument;
  results: Results | null;
  system: System;
  chosen: Chosen | null;
  reactions: ReactionTable | null;
  diagrams: Record<string, Diagram | string | undefined>;
  runs: RunEntry[];
  catalogue: Catalogue | null;
};

const text = (value: unknown): Cell => ({ text: value == null ? "–" : String(value), sort: String(value ?? "") });
const usage = (value: number | null): Cell => ({
  text: `${use(value)} ${SIGN[markOf(value)]}`,
  plain: value === null ? "" : value.toFixed(4),
  sort: value ?? -1,
  mark: markOf(value),
});
const object = (kind: Kind, id: string): Selection => ({ type: "object", kind, id });
const NONE = "No results yet; they come by themselves when the run ends.";

/** The tables of results, by the key of the ledger's tab. */
export function tableOf(tab: string, sources: Sources): TableView {
  const { document, results, system, chosen, reactions, diagrams, runs, catalogue } = sources;
  // A heading such as `#Span m` is that of a figure in metres, told in the project's unit.
  const columns = (...names: string[]) =>
    names.map((name) => {
      const figure = name.startsWith("#");
      const words = name.replace("#", "").split(" ");
      const unit = figure && words.length > 1 ? words[words.length - 1] : undefined;
      const told = unit ? [...words.slice(0, -1), toldUnit(unit, system).unit.replace("stress", "kPa")] : words;
      return { name: told.join(" "), figure };
    });
  const figure = (value: number | null | undefined, unit = "", digits?: number): Cell => ({
    text: value == null ? "–" : unit ? figureOf(value, unit, system, digits) : shown(value, "", digits),
    sort: value ?? Number.NEGATIVE_INFINITY,
  });
  switch (tab) {
    case "sums":
      return sumsTable(sources, columns, figure);
    case "arrangements":
      return {
        title: "Arrangements of the live load",
        empty: results ? "No case has pattern load, so there is nothing to arrange." : NONE,
        columns: columns("Arrangement", "#Panels", "Loaded", "Asked for by the standard"),
        lines: (results?.arrangements ?? []).map((a) => ({
          key: a.name,
          cells: [
            text(a.name),
            figure(a.panels.length, "", 0),
            text(a.panels.join(" ")),
            text(a.required ? "yes" : ""),
          ],
          opens: { type: "arrangement", name: a.name } as Selection,
        })),
      };
    case "derived":
      return {
        title: "Panels of pattern load",
        told: document.panels?.length ? "the floor's own" : "derived from the lines of supports",
        empty: results ? "No case has pattern load, so there are no panels." : NONE,
        columns: columns("Panel", "#Area m²", "#Middle_x m", "#Middle_y m"),
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
            cells: [text(p.id), figure(Math.abs(a), "m²"), figure(x / a, "m"), figure(y / a, "m")],
            opens: { type: "panel", id: p.id } as Selection,
            at: [x / a, y / a],
          };
        }),
      };
    case "reactions": {
      const at = new Map(results?.supports.map((s) => [s.id, s.at]));
      const sums: Line[] =
        reactions && reactions.sum_kN !== null && reactions.sum_kN !== undefined
          ? [
              {
                key: "applied",
                fixed: true,
                cells: [text("Load on the floor"), figure(reactions.applied_kN, "kN"), text(""), text("")],
                opens: null,
              },
              {
                key: "reactions",
                fixed: true,
                cells: [text("Sum of reactions"), figure(reactions.sum_kN, "kN"), text(""), text("")],
                opens: null,
              },
            ]
          : [];
      return {
        title: "Reactions",
        told: chosen
          ? `${chosenText(chosen)}${sums.length ? "" : "; each component by itself, so they have no sum"}`
          : "",
        empty: NONE,
        columns: columns("Support", "#F kN", "#M_x kNm", "#M_y kNm"),
        lines: reactions
          ? [
              ...sums,
              ...reactions.rows.map((r) => ({
                key: r.support,
                cells: [text(r.support), figure(r.F_kN, "kN"), figure(r.Mx_kNm, "kNm"), figure(r.My_kNm, "kNm")],
                opens: supportSelection(document, r.support),
                at: at.get(r.support) ?? null,
              })),
            ]
          : [],
      };
    }
    case "slices":
      return {
        title: "Slices",
        told: chosen?.of ?? "",
        empty: "No slices yet. Press 4 and point out two ends of one across the floor.",
        columns: columns(
          "Slice",
          "Quantity",
          "Unit",
          "#Least",
          "#at m",
          "#Greatest",
          "#at m",
          "#Area",
          "#Mean",
          "#Over m",
        ),
        lines: ((document.slices ?? []) as Slice[]).map((s) => {
          const d = diagrams[s.id];
          const q = catalogue?.quantities.find((k) => k.key === (s.quantity ?? "mn"));
          const [a = [0, 0], b = [0, 0]] = s.line;
          const at: [number, number] = [((a[0] ?? 0) + (b[0] ?? 0)) / 2, ((a[1] ?? 0) + (b[1] ?? 0)) / 2];
          const opens = object("slices", s.id);
          if (typeof d !== "object")
            return {
              key: s.id,
              cells: [text(s.id), text(d ?? "reading"), ...Array.from({ length: 8 }, () => text(""))],
              opens,
              at,
            };
          return {
            key: s.id,
            cells: [
              text(s.id),
              text(`${q?.name ?? d.quantity}${s.width_m ? `, mean over ${figureOf(s.width_m, "m", system)}` : ""}`),
              text(toldUnit(d.unit, system).unit),
              figure(d.low.value, d.unit),
              figure(d.low.at_m, "m"),
              figure(d.high.value, d.unit),
              figure(d.high.at_m, "m"),
              figure(d.area, areaUnit(d.unit)),
              figure(d.mean, d.unit),
              figure(d.length_m, "m"),
            ],
            opens,
            at,
          };
        }),
      };
    case "read_probes": {
      const of = chosen?.of ?? "";
      return {
        title: "Probes",
        told: of && `${of}, all live load`,
        empty: "No probes yet. Press Q and point one out; its values follow every run.",
        columns: columns("Probe", "#w mm", "#m_x kNm/m", "#m_y kNm/m", "#m_xy kNm/m", "#v_x kN/m", "#v_y kN/m"),
        lines: (document.probes ?? []).map((p) => {
          const v = results?.probes.find((r) => r.id === p.id)?.values[of];
          return {
            key: p.id,
            cells: [
              text(p.id),
              figure(v?.w_mm, "mm"),
              figure(v?.mx_kNm_m, "kNm/m"),
              figure(v?.my_kNm_m, "kNm/m"),
              figure(v?.mxy_kNm_m, "kNm/m"),
              figure(v?.vx_kN_m, "kN/m"),
              figure(v?.vy_kN_m, "kN/m"),
            ],
            opens: object("probes", p.id),
            at: [p.at[0] ?? 0, p.at[1] ?? 0],
          };
        }),
      };
    }
    case "runs":
      return {
        title: "Runs",
        empty: "No runs yet.",
        columns: columns(
          "Run",
          "#Revision",
          "What changed",
          "State",
          "Begun",
          "#Seconds",
          "#Warnings",
          "Computed anew",
        ),
        lines: runs.map((r) => ({
          key: String(r.id),
          cells: [
            text(r.id),
            figure(r.revision, "", 0),
            text(r.line),
            text(r.state),
            text(new Date(r.begun).toLocaleTimeString("en-GB")),
            figure(r.seconds, "", 2),
            figure(r.messages.filter((m) => m.severity === "warning").length, "", 0),
            text(
              Object.entries(r.stages)
                .filter(([k, s]) => k !== "total" && s > 0.005)
                .map(([k, s]) => `${k} ${s.toFixed(2)}`)
                .join(", ") || r.told,
            ),
          ],
          opens: { type: "run", id: r.id } as Selection,
        })),
      };
    case "strips":
    case "steel":
      return {
        title: tab === "strips" ? "Strips, ultimate moments" : "Steel, worst station of each strip",
        empty: results ? "The supports do not line up, so no strips could be derived." : NONE,
        columns:
          tab === "strips"
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
              tab === "strips"
                ? [
                    ...head,
                    figure(s.span_m, "m"),
                    figure(Math.max(...s.width_m), "m"),
                    figure(Math.max(...s.M_kNm[1]), "kNm"),
                    figure(Math.min(...s.M_kNm[0]), "kNm"),
                  ]
                : [...head, ...worst("bottom"), ...worst("top"), usage(row?.utilisation ?? null)],
            opens: row ? ({ type: "row", check: "flexure", where: row.where } as Selection) : null,
            at: row?.at ?? null,
          };
        }),
      };
    case "zones":
      return {
        title: "Punching zones",
        empty: results ? "There are no columns that can punch." : NONE,
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
          "#v_Ed stress",
          "#v_Rd,c stress",
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
            figure(z.u_m, "m"),
            figure(z.d_mm, "mm", system === "US" ? 2 : 0),
            figure(z.v_Ed_kPa, "stress"),
            figure(z.v_Rd_c_kPa, "stress"),
            usage(z.utilisation),
          ],
          opens: { type: "row", check: "punching", where: z.column } as Selection,
          at: z.at,
        })),
      };
    default:
      return {
        title: "Sag between supports under lasting load",
        empty: results ? "There is no quasi-permanent or sustained combination; add one." : NONE,
        columns: columns("Line", "#Span m", "#Sag mm", "#Limit mm", "Combination", "#Use"),
        lines: (results?.sags ?? []).map((s, i) => ({
          key: `${s.where}${i}`,
          cells: [
            text(s.where),
            figure(s.span_m, "m"),
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

/** The unit of a diagram's integral along its slice. */
function areaUnit(unit: string): string {
  if (unit === "kNm/m") return "kNm";
  return unit === "kN/m" ? "kN" : "";
}

/** Sums per load, with the sums of every case for the whole floor on top, and what they are over the floor's area. */
function sumsTable(
  { document, results, system }: Sources,
  columns: (...names: string[]) => TableView["columns"],
  figure: (value: number | null | undefined, unit?: string, digits?: number) => Cell,
): TableView {
  const sums = results?.loads ?? [];
  const cases: Line[] = (document.load_cases ?? []).map((c) => {
    const mine = sums.filter((s) => s.case === c.id);
    const total = (key: "given_kN" | "on_floor_kN" | "lost_kN") => mine.reduce((t, s) => t + s[key], 0);
    return {
      key: `case ${c.id}`,
      fixed: true,
      cells: [
        text(`${c.id}, ${c.nature.replace("_", " ")}`),
        text(c.id),
        text("all of the case"),
        text(""),
        figure(null),
        figure(total("given_kN"), "kN"),
        figure(total("on_floor_kN"), "kN"),
        figure(total("lost_kN"), "kN"),
        figure(results ? total("on_floor_kN") / results.area_m2 : null, "kPa"),
      ],
      opens: object("load_cases", c.id),
    };
  });
  return {
    title: "Sums of the loads",
    told: results ? `floor of ${figureOf(results.area_m2, "m²", system)} ${toldUnit("m²", system).unit}` : "",
    empty: "No loads yet.",
    columns: columns("Load", "Case", "Kind", "Value", "#Over m²", "#Applied kN", "#Acting kN", "#Lost kN", "#Mean kPa"),
    lines: [
      ...cases,
      ...((document.loads ?? []) as Load[]).map((l) => {
        const sum = sums.find((s) => s.load === l.id && s.case === l.case);
        const lost = Math.abs(sum?.lost_kN ?? 0) > 0.005 * Math.abs(sum?.given_kN ?? 1);
        return {
          key: l.id,
          cells: [
            text(l.id),
            text(l.case),
            text(l.build_up ?? l.occupancy ?? l.partition ?? l.kind),
            text(loadText(l, document, system)),
            figure(sum?.area_m2 || null, "m²"),
            figure(sum?.given_kN, "kN"),
            figure(sum?.on_floor_kN, "kN"),
            { ...figure(sum?.lost_kN, "kN"), ...(lost ? { mark: "fail" } : {}) },
            figure(sum?.area_m2 ? sum.on_floor_kN / sum.area_m2 : null, "kPa"),
          ],
          opens: object("loads", l.id),
        };
      }),
    ],
  };
}
