import type { CheckFile } from "./check";
import { flexure } from "./flexure";

const stressed = (results: Parameters<CheckFile["display"]>[1]) => (results?.tendons.length ?? 0) > 0;

/** Stresses in service: of bars at the stations of strips, or of the concrete of floors with tendons. */
export const service: CheckFile = {
  name: "service_stress",
  title: "Service",
  step: "steel",
  stepOf: (results) => (stressed(results) ? "tendons" : "steel"),
  word: "Stress in service",
  display: (row, results) => (stressed(results) ? { quantity: "none" } : flexure.display(row, results)),
};
