import { kindOf } from "../kinds";
import type { Kind } from "../model/floor";
import { GATHERED } from "../model/provisions";
import type { Results, Row, Strip } from "../model/results";
import { ribbonReach } from "../model/zones";
import type { Selection } from "../session";
import { reasonOf } from "../units/quantities";
import { type Cell, inUnits, type Line, NONE, object, type Sources, type TableView, text, usage } from "./table";

const opens = (key: string): Selection => ({ type: "row", key });

/** The flexure row of each strip: the worst of its stations. */
function rowsByStrip(results: Results | null): Map<string, Row> {
  const rows = (results?.rows ?? []).filter((r) => r.check === "flexure" && r.id.of.kind === "strips");
  return new Map(rows.map((r) => [r.id.of.id, r]));
}

export function stripTable({ results, system }: Sources): TableView {
  const { word, column, figure } = inUnits(system);
  const rows = rowsByStrip(results);
  return {
    title: "Strips, ultimate moments",
    empty: results ? "The supports do not line up, so no strips could be derived." : NONE,
    columns: [
      word("Strip"),
      word("Bars"),
      column("Span", "m"),
      column("Width", "m"),
      column("Greatest M", "kNm"),
      column("Least M", "kNm"),
    ],
    lines: (results?.strips ?? []).map((s) => ({
      key: s.id,
      cells: [
        text(s.label),
        text(s.direction),
        figure(s.span_m, "m"),
        figure(Math.max(...s.width_m), "m"),
        figure(Math.max(...s.M_kNm[1]), "kNm"),
        figure(Math.min(...s.M_kNm[0]), "kNm"),
      ],
      opens: rows.has(s.id) ? opens(rows.get(s.id)?.id.key ?? "") : null,
      at: rows.get(s.id)?.at ?? null,
    })),
  };
}

/** Required and given at a station, over the strip or, where more of that is used, in the band about its axis. */
function closest(steel: NonNullable<Strip["top"]>, k: number): [number, number] {
  const greatest = (gathered: boolean) =>
    Object.entries(steel.provisions).reduce(
      (a, [p, v]) => (GATHERED.has(p) === gathered ? Math.max(a, v[k] ?? 0) : a),
      0,
    );
  const spread: [number, number] = [greatest(false), steel.provided_mm2_m[k] ?? 0];
  const band: [number, number] = [greatest(true), steel.band_mm2_m[k] ?? 0];
  return band[0] * spread[1] > spread[0] * band[1] ? band : spread;
}

export function steelTable({ results, system }: Sources): TableView {
  const { word, column, figure } = inUnits(system);
  const rows = rowsByStrip(results);
  const worst = (s: Strip, face: "bottom" | "top") => {
    const steel = s[face];
    if (!steel) return [figure(null), figure(null)];
    const i = steel.utilisation.reduce((at, v, k) => (v > (steel.utilisation[at] as number) ? k : at), 0);
    return closest(steel, i).map((v) => figure(v, "mm²/m"));
  };
  return {
    title: "Steel, worst station of each strip",
    empty: results ? "The supports do not line up, so no strips could be derived." : NONE,
    sorted: 6,
    columns: [
      word("Strip"),
      word("Bars"),
      column("Bottom required", "mm²/m"),
      column("given", "mm²/m"),
      column("Top required", "mm²/m"),
      column("given", "mm²/m"),
      column("Utilisation"),
    ],
    lines: (results?.strips ?? []).map((s) => {
      const row = rows.get(s.id);
      return {
        key: s.id,
        cells: [
          text(s.label),
          text(s.direction),
          ...worst(s, "bottom"),
          ...worst(s, "top"),
          usage(row?.utilisation ?? null),
        ],
        opens: row ? opens(row.id.key) : null,
        at: row?.at ?? null,
      };
    }),
  };
}

/** Every perimeter of every zone, whichever of a column's is the worse. */
export function zoneTable({ results, system }: Sources): TableView {
  const { word, column, figure } = inUnits(system);
  const verdict = results?.verdict.find((r) => r.check === "punching");
  const empty = !verdict
    ? "Nothing holds or presses this floor on a small area."
    : verdict.status === "unchecked"
      ? `Not checked: ${verdict.reason}.`
      : "No zone could be laid out; what is not covered is listed beside.";
  return {
    title: "Punching zones",
    empty: results ? empty : NONE,
    sorted: 12,
    columns: [
      word("At"),
      word("Zone"),
      column("V", "kN", "Ed"),
      column("M", "kNm", "x"),
      column("M", "kNm", "y"),
      column("β"),
      column("u", "m"),
      column("d", "mm"),
      column("v", "stress", "Ed"),
      column("v", "stress", "Rd,c"),
      column("v", "stress", "Rd,cs"),
      word("Rails"),
      column("Utilisation"),
    ],
    lines: (results?.zones ?? []).map((z) => ({
      key: z.row,
      cells: [
        text([z.id, ...z.together].join(", ")),
        text(z.around === "thickening" ? "thickening" : z.kind === "column" ? z.place : z.kind.replace("_", " ")),
        figure(z.V_Ed_kN, "kN"),
        figure(z.M_x_kNm, "kNm"),
        figure(z.M_y_kNm, "kNm"),
        figure(z.beta, "", 2),
        figure(z.u_m, "m"),
        figure(z.d_mm, "mm", system === "US" ? 2 : 0),
        figure(z.v_Ed_kPa, "stress"),
        figure(z.v_Rd_c_kPa, "stress"),
        figure(z.v_Rd_cs_kPa, "stress"),
        text(z.rails ? `${z.rails.laid} × ${z.rails.per_rail}` : ""),
        usage(z.utilisation),
      ],
      opens: opens(z.row),
      at: z.at,
      wide: 2.6 * ribbonReach(z),
    })),
  };
}

/** The same line and limit of the floor beside, or that it has none. */
function besideCells(sag: Results["sags"][number] | undefined, figure: ReturnType<typeof inUnits>["figure"]): Cell[] {
  return sag ? [figure(sag.sag_mm, "mm"), usage(sag.utilisation)] : [text("none"), text("")];
}

export function sagTable({ results, system, beside }: Sources): TableView {
  const { word, column, figure } = inUnits(system);
  const other = new Map(beside?.results.sags.map((s) => [`${s.where}|${s.limit}`, s]));
  const verdict = results?.verdict.find((r) => r.check === "deflection");
  const lived = results?.history != null;
  return {
    title: lived
      ? "Deflection between supports over the life of the floor"
      : "Deflection between supports, a quick estimate",
    empty: results ? `Not checked: ${verdict?.reason ?? "nothing holds the floor"}.` : NONE,
    sorted: lived ? 8 : 5,
    columns: [
      word("Line"),
      ...(lived ? [word("Limit")] : []),
      column("Span", "m"),
      column("Deflection", "mm"),
      column("Limit", "mm"),
      ...(lived ? [column("8 of 10 from", "mm"), column("to", "mm")] : []),
      word("Combination"),
      column("Utilisation"),
      ...(beside ? [column(`Deflection, ${beside.name}`, "mm"), column(`Utilisation, ${beside.name}`)] : []),
    ],
    lines: (results?.sags ?? []).map((s) => ({
      key: s.row,
      cells: [
        text(s.where),
        ...(lived ? [text(s.limit)] : []),
        figure(s.span_m, "m"),
        figure(s.sag_mm, "mm"),
        figure(s.limit_mm, "mm"),
        ...(lived ? [figure(s.band_mm?.[0] ?? 0, "mm"), figure(s.band_mm?.[1] ?? 0, "mm")] : []),
        text(s.combination),
        usage(s.utilisation),
        ...(beside ? besideCells(other.get(`${s.where}|${s.limit}`), figure) : []),
      ],
      opens: opens(s.row),
      at: s.at,
    })),
  };
}

/** The floor at the end of each stage of its history. */
export function stageTable({ results, system }: Sources): TableView {
  const { word, column, figure } = inUnits(system);
  return {
    title: "The floor at the end of each stage",
    empty: results ? "There is no history." : NONE,
    columns: [
      word("Stage"),
      column("From day"),
      column("To day"),
      word("Combination"),
      column("Greatest w", "mm"),
      column("Cracked", "%"),
      column("Steel stress", "MPa"),
      column("Crack", "mm"),
      column("Rounds"),
      column("Off balance", "%"),
    ],
    lines: (results?.history?.stages ?? []).map((s) => ({
      key: s.id,
      cells: [
        text(s.id),
        figure(s.start_days, "", 0),
        figure(s.end_days, "", 0),
        text(s.combination),
        figure(s.greatest_w_mm, "mm"),
        figure(100 * s.cracked_share, "%", 1),
        figure(s.steel_MPa, "MPa", 0),
        s.crack_mm === null ? text("") : figure(s.crack_mm, "mm", 2),
        figure(s.rounds, "", 0),
        { ...figure(100 * s.unbalanced, "%", 2), ...(s.converged ? {} : { mark: "fail" as const }) },
      ],
      opens: null,
      at: s.at as [number, number],
    })),
  };
}

/** What no check of some names reached: regions beside the strips, and objects without a zone. */
export function uncoveredTable({ results, system }: Sources, checks: string[]): TableView {
  const { word, column, figure } = inUnits(system);
  const mine = (results?.uncovered ?? []).filter((u) => checks.includes(u.check));
  const kindWord = (kind: string) => (kind === "floor" ? "Part of the floor" : kindOf(kind as Kind).singular);
  return {
    title: "Not covered by the check",
    empty: results ? "Everything is covered." : NONE,
    columns: [word("What"), word("Name"), column("Area", "m²"), word("Why")],
    lines: mine.map((u): Line => {
      const outline = u.outline;
      const at: [number, number] | null = outline
        ? [
            outline.reduce((t, p) => t + p[0], 0) / outline.length,
            outline.reduce((t, p) => t + p[1], 0) / outline.length,
          ]
        : ((u.at as [number, number] | undefined) ?? null);
      return {
        key: u.row,
        cells: [
          text(kindWord(u.kind)),
          text(u.id ?? `bars along ${u.direction}`),
          figure(u.outline ? u.area_m2 : null, "m²"),
          text(reasonOf(u, system)),
        ],
        opens: u.id ? object(u.kind as Kind, u.id) : null,
        at,
      };
    }),
  };
}
