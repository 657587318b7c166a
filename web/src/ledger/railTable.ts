import { ribbonReach } from "../model/zones";
import { inUnits, NONE, type Sources, type TableView, text } from "./table";

/** Steel's density, kg/m³, and what heads or hooks add to the length of studs and legs. */
const STEEL = 7850;
const HEADS = 1.2;

/** Shear reinforcement of all zones, as it is ordered. */
export function railTable({ results, system }: Sources): TableView {
  const { word, column, figure } = inUnits(system);
  const zones = (results?.zones ?? []).filter((z) => z.rails);
  return {
    title: "Rails against punching",
    empty: results ? "No zone has shear reinforcement." : NONE,
    sorted: 0,
    columns: [
      word("Zone"),
      word("Kind"),
      word("Pattern"),
      column("⌀", "mm"),
      column("Rails"),
      column("A rail"),
      column("First at", "mm"),
      column("Then at", "mm"),
      column("Slab", "mm"),
      column("Count"),
      column("Mass", "kg"),
    ],
    lines: zones.flatMap((z) => {
      const r = z.rails;
      if (!r) return [];
      const count = r.laid * r.per_rail;
      const mass = (((count * Math.PI) / 4) * (r.bar_mm / 1000) ** 2 * HEADS * z.h_mm * STEEL) / 1000;
      return {
        key: z.row,
        cells: [
          text(z.id),
          text(r.kind),
          text(r.designed ? `${r.pattern}, designed` : r.pattern),
          figure(r.bar_mm, "mm", system === "US" ? 3 : 0),
          figure(r.laid, "", 0),
          figure(r.per_rail, "", 0),
          figure(r.first_mm, "mm", system === "US" ? 2 : 0),
          figure(r.spacing_mm, "mm", system === "US" ? 2 : 0),
          figure(z.h_mm, "mm", system === "US" ? 2 : 0),
          figure(count, "", 0),
          figure(mass, "kg"),
        ],
        opens: { type: "row", key: z.row },
        at: z.at,
        wide: 2.6 * ribbonReach(z),
      };
    }),
  };
}
