import { chosenText } from "../display/display";
import { loadsOf } from "../model/floor";
import { loadText } from "../model/loads";
import type { Selection } from "../session";
import { figureOf, toldUnit } from "../units/results";
import { inUnits, type Line, NONE, object, type Sources, supportSelection, type TableView, text } from "./table";

export function arrangementTable({ results, system }: Sources): TableView {
  const { word, column, figure } = inUnits(system);
  return {
    title: "Arrangements of the live load",
    empty: results ? "No case has pattern load, so there is nothing to arrange." : NONE,
    columns: [word("Arrangement"), column("Panels"), word("Loaded"), word("Asked for by the standard")],
    lines: (results?.arrangements ?? []).map((a) => ({
      key: a.name,
      cells: [text(a.name), figure(a.panels.length, "", 0), text(a.panels.join(" ")), text(a.required ? "yes" : "")],
      opens: { type: "arrangement", name: a.name } as Selection,
    })),
  };
}

export function panelTable({ document, results, system }: Sources): TableView {
  const { word, column, figure } = inUnits(system);
  return {
    title: "Panels of pattern load",
    told: document.panels?.length ? "the floor's own" : "derived from the lines of supports",
    empty: results ? "No case has pattern load, so there are no panels." : NONE,
    columns: [word("Panel"), column("Area", "m²"), column("Middle", "m", "x"), column("Middle", "m", "y")],
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
}

export function reactionTable({ document, results, system, chosen, reactions }: Sources): TableView {
  const { word, column, figure } = inUnits(system);
  const at = new Map(results?.supports.map((s) => [s.id, s.at]));
  const sum = (key: string, name: string, value: number | null | undefined): Line => ({
    key,
    fixed: true,
    cells: [text(name), figure(value, "kN"), text(""), text("")],
    opens: null,
  });
  const sums =
    reactions && reactions.sum_kN !== null
      ? [
          sum("applied", "Load on the floor", reactions.applied_kN),
          sum("reactions", "Sum of reactions", reactions.sum_kN),
        ]
      : [];
  return {
    title: "Reactions",
    told: chosen ? `${chosenText(chosen)}${sums.length ? "" : "; each component by itself, so they have no sum"}` : "",
    empty: NONE,
    columns: [word("Support"), column("F", "kN"), column("M", "kNm", "x"), column("M", "kNm", "y")],
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

/** The unit of a diagram's integral along its slice. */
const areaUnit = (unit: string) => ({ "kNm/m": "kNm", "kN/m": "kN" })[unit] ?? "";

export function sliceTable({ document, system, chosen, diagrams, catalogue }: Sources): TableView {
  const { word, column, figure } = inUnits(system);
  return {
    title: "Slices",
    told: chosen?.of ?? "",
    empty: "No slices yet. Press 4 and point out two ends of one across the floor.",
    columns: [
      word("Slice"),
      word("Quantity"),
      word("Unit"),
      column("Least"),
      column("at", "m"),
      column("Greatest"),
      column("at", "m"),
      column("Total"),
      column("Area"),
      column("Mean"),
      column("Over", "m"),
    ],
    lines: (document.slices ?? []).map((s) => {
      const d = diagrams[s.id];
      const q = catalogue?.quantities.find((k) => k.key === (s.quantity ?? "mn"));
      const [a = [0, 0], b = [0, 0]] = s.line;
      const at: [number, number] = [((a[0] ?? 0) + (b[0] ?? 0)) / 2, ((a[1] ?? 0) + (b[1] ?? 0)) / 2];
      const opens = object("slices", s.id);
      if (typeof d !== "object")
        return {
          key: s.id,
          cells: [text(s.id), text(d ?? "reading"), ...Array.from({ length: 9 }, () => text(""))],
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
          figure(d.total, areaUnit(d.unit)),
          figure(d.area, areaUnit(d.unit)),
          figure(d.mean, d.unit),
          figure(d.length_m, "m"),
        ],
        opens,
        at,
      };
    }),
  };
}

export function probeTable({ document, system, chosen, places }: Sources): TableView {
  const { word, column, figure } = inUnits(system);
  return {
    title: "Probes",
    told: chosen?.of && `${chosen.of}, all live load`,
    empty: "No probes yet. Press Q and point one out; its values follow every run.",
    columns: [
      word("Probe"),
      column("w", "mm"),
      column("m", "kNm/m", "x"),
      column("m", "kNm/m", "y"),
      column("m", "kNm/m", "xy"),
      column("v", "kN/m", "x"),
      column("v", "kN/m", "y"),
    ],
    lines: (document.probes ?? []).map((p) => {
      const v = places[p.id];
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

export function runTable({ runs, system }: Sources): TableView {
  const { word, column, figure } = inUnits(system);
  return {
    title: "Runs",
    told: runs.kept_runs
      ? `Results of the newest ${runs.kept_runs} are kept, up to ${runs.kept_MB} MB a floor; of older ones verdict, probes and messages.`
      : "",
    empty: "No runs yet.",
    columns: [
      word("Run"),
      column("Revision"),
      word("What changed"),
      word("State"),
      word("Begun"),
      column("Seconds"),
      column("Kept", "MB"),
      column("Model", "kB"),
      column("Warnings"),
      word("Computed anew"),
    ],
    lines: runs.runs.map((r) => ({
      key: String(r.id),
      cells: [
        text(r.id),
        figure(r.revision, "", 0),
        text(r.line),
        text(r.state === "fresh" ? "done" : r.state),
        text(new Date(r.begun).toLocaleTimeString("en-GB")),
        figure(r.seconds, "", 2),
        figure(r.kept_MB, "", 1),
        figure(r.model_kB, "", 1),
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
}

/** Sums per load, with the sums of every case for the whole floor on top, and what they are over the floor's area. */
export function sumsTable({ document, results, system }: Sources): TableView {
  const { word, column, figure } = inUnits(system);
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
    columns: [
      word("Load"),
      word("Case"),
      word("Kind"),
      word("Value"),
      column("Over", "m²"),
      column("Applied", "kN"),
      column("Acting", "kN"),
      column("Not applied", "kN"),
      column("Mean", "kPa"),
    ],
    lines: [
      ...cases,
      ...loadsOf(document).map((l) => {
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
