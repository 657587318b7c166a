/** The steps of the route, in the order of the work. */
export type StepName =
  | "setout"
  | "build"
  | "load"
  | "combine"
  | "arrange"
  | "analyse"
  | "strips"
  | "steel"
  | "punching"
  | "deflection";
