/** What our own words mean, in a sentence each; the trade's words need none. */
export const WORDS = {
  route: "The ordered steps of the work, each with its state.",
  verdict: "The floor’s worst utilisation of every check, and overall; a meter flies to its worst place.",
  trace: "The explanation of one number, down to its clause and its inputs.",
  audit: "Findings about the model itself, with a mend where there is one.",
  ledger: "The table of what the step is about; what is selected in it is selected on the plan.",
  probe: "A point that you pin, whose values follow every run.",
  slice: "A line across the floor along which a result is drawn as a diagram.",
  "strip axis": "The line from support to support along which a strip is designed.",
  "strip boundary": "A line that strips may not cross.",
  station: "A place along a strip axis where forces are integrated and steel is designed.",
  panel: "The part of a floor between lines of supports that pattern load covers or leaves bare.",
  arrangement: "One choice of loaded panels.",
  mat: "Uniform reinforcement in one face and direction over a region.",
  "extra bars": "Reinforcement added to the mats.",
  shortfall: "Required less provided steel.",
  zone: "The surroundings of one column in which punching is checked.",
  stage: "One step of a load history: a combination, the day it begins, how long it lasts.",
  twin: "A floor that follows another floor’s model.",
} as const;

export type Word = keyof typeof WORDS;

/** The words that are met first in a table of the ledger. */
export const MET_IN: Partial<Record<string, Word[]>> = {
  columns: ["ledger", "route"],
  probes: ["probe"],
  read_probes: ["probe"],
  slices: ["slice"],
  panels: ["panel", "arrangement"],
  arrangements: ["arrangement", "panel"],
  derived: ["panel"],
  strips: ["strip axis", "station"],
  strip_axes: ["strip axis"],
  strip_boundaries: ["strip boundary"],
  strip_stations: ["station"],
  diagram: ["station", "shortfall"],
  mats: ["mat"],
  bars: ["extra bars"],
  zones: ["zone"],
  life: ["stage"],
};
