import type { Row } from "../model/results";
import { inUnits, NONE, object, type Sources, type TableView, text, usage } from "./table";

/** What the site stresses by: every tendon with its forces and extensions. */
export function stressingTable({ document, results, system }: Sources): TableView {
  const { word, column, figure } = inUnits(system);
  const tendons = new Map((document.tendons ?? []).map((t) => [t.id, t]));
  return {
    title: "Stressing",
    empty: results ? "The floor has no tendons." : NONE,
    columns: [
      word("Tendon"),
      word("Group"),
      column("Strands"),
      word("From"),
      column("Length", "m"),
      column("At jack", "kN"),
      column("Locked", "kN"),
      column("Transfer", "kN"),
      column("In the end", "kN"),
      column("Extension", "mm"),
      column("Locked", "mm"),
      column("Loss, elastic", "MPa"),
      column("Loss, time", "MPa"),
      column("Bursting steel", "mm²"),
      column("Mass", "kg"),
    ],
    lines: (results?.tendons ?? []).map((t) => {
      const own = tendons.get(t.id);
      const middle = (f: number[]) => f.reduce((a, b) => a + b, 0) / Math.max(f.length, 1);
      return {
        key: t.id,
        cells: [
          text(t.id),
          text(own?.group ?? ""),
          figure(own?.count ?? null, "", 0),
          text(own?.stressed_from ?? "start"),
          figure(t.length_m, "m"),
          figure(Math.max(...t.jacking_kN), "kN"),
          figure(middle(t.locked_kN), "kN"),
          figure(middle(t.transfer_kN), "kN"),
          figure(t.mean_kN, "kN"),
          figure(t.extension_mm, "mm"),
          figure(t.extension_locked_mm, "mm"),
          figure(t.shortening_loss_MPa, "MPa"),
          figure(t.time_loss_MPa, "MPa"),
          figure(t.bursting_mm2, "mm²"),
          figure(t.mass_kg, "kg"),
        ],
        opens: object("tendons", t.id),
        at: (t.at[Math.floor(t.at.length / 2)] as [number, number] | undefined) ?? null,
      };
    }),
  };
}

const NAMES: Record<string, string> = { transfer_stress: "transfer", service_stress: "service" };

/** Stresses of the concrete, the worst station of each strip, and its precompression. */
export function stressTable({ results, system }: Sources): TableView {
  const { word, column, figure } = inUnits(system);
  const rows = (results?.rows ?? []).filter((r) => r.check in NAMES && r.id.of.kind === "strips");
  const pressed = new Map((results?.precompression ?? []).map((p) => [p.strip, p]));
  const sigma = (r: Row) =>
    r.trace?.steps.flatMap((s) => (s.result?.symbol === "sigma" ? [s.result.value] : [])).at(-1) ?? null;
  return {
    title: "Stresses of the concrete, worst station of each strip",
    empty: results ? "The floor has no tendons, or no combination to check stresses under." : NONE,
    sorted: 9,
    columns: [
      word("Strip"),
      word("State"),
      word("Face"),
      word("Combination"),
      column("σ", "MPa"),
      column("Precompression", "MPa"),
      column("P / A", "MPa"),
      column("Design strip", "MPa"),
      column("Balanced, %"),
      column("Utilisation"),
    ],
    lines: rows.map((r) => {
      const p = pressed.get(r.id.of.id);
      return {
        key: r.id.key,
        cells: [
          text(r.where.replace(/^(top|bottom) /, "")),
          text(NAMES[r.check] ?? r.check),
          text(r.id.face),
          text(r.combination),
          figure(sigma(r), "MPa", 2),
          figure(p?.analysis_MPa ?? null, "MPa", 2),
          figure(p?.P_over_A_MPa ?? null, "MPa", 2),
          figure(p?.design_strip_analysis_MPa ?? null, "MPa", 2),
          figure(p?.balanced_share == null ? null : 100 * p.balanced_share, "", 0),
          usage(r.utilisation),
        ],
        opens: { type: "row", key: r.id.key },
        at: r.at,
      };
    }),
  };
}
