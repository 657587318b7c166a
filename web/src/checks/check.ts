import type { Display } from "../display/display";
import type { Results, Row } from "../model/results";
import type { StepName } from "../model/step";

/** Everything that the interface knows of one check. */
export type CheckFile = {
  name: string;
  title: string;
  /** The step of the route that is about it. */
  step: StepName;
  /** What one of its rows is called in the inspector. */
  word: string;
  /** What the plan shows with one of its rows, so that field, trace and meter are of the same thing. */
  display: (row: Row, results: Results | null) => Partial<Display>;
  /** How much of the plan (m) fills the view when a row is opened; null: as it is. */
  wide?: (row: Row, results: Results | null) => number | null;
};
