/** One word for each provision, as the inspector and the diagram name it. */
export const PROVISION: Record<string, string> = {
  strength: "Strength",
  accidental: "Strength in an accident",
  fire: "Strength in a fire",
  construction: "Strength while it is built",
  least: "Least steel",
  crack_width: "Crack width",
  column_band: "Gathered over the column",
  edge_band: "Moment into an edge column",
  free_edge: "Across the free edge",
  corner: "Corner held down",
  column_shear: "About a stressed column",
  secondary: "Across one-way slabs",
  support_bottom: "Bottom steel at the support",
  fire_through: "Through the span in a fire",
  skew_bars: "Bars at an angle to the strip",
  restraint: "Unintended restraint",
  integrity: "Bars through the column",
  bonded_support: "Bonded steel over a support of tendons",
  bonded_span: "Bonded steel in a span of tendons",
  spacing: "Greatest spacing of bars",
};
/** Provisions whose steel lies in a band about the axis, not over the whole strip. */
export const GATHERED: ReadonlySet<string> = new Set(["column_band", "edge_band", "column_shear"]);
export const provisionName = (key: string) => PROVISION[key] ?? key.replaceAll("_", " ");
