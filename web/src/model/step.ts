/** The steps of the route, in the order of the work. */
export const STEPS = [
  { key: "setout", name: "Set out" },
  { key: "build", name: "Build" },
  { key: "load", name: "Load" },
  { key: "combine", name: "Combine" },
  { key: "arrange", name: "Arrange" },
  { key: "analyse", name: "Analyse" },
  { key: "strips", name: "Strips" },
  { key: "steel", name: "Steel" },
  { key: "punching", name: "Punching" },
  { key: "tendons", name: "Tendons" },
  { key: "deflection", name: "Deflection" },
  { key: "review", name: "Review" },
] as const;

export type StepName = (typeof STEPS)[number]["key"];
