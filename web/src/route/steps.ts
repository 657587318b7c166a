import type { RunEvent } from "../api/client";
import { CHECKS } from "../checks";
import type { FloorDocument } from "../model/floor";
import type { Results } from "../model/results";
import type { StepName } from "../model/step";
import { type Comment, openOnes, type Signature } from "../session/review";
import { shown, use } from "../units/format";
import { useUnits } from "../units/quantities";
import { resultOf } from "../units/results";

export type StepState = "empty" | "attention" | "running" | "fresh" | "failing";
export type StepView = { state: StepState; told: string };

function check(results: Results, name: string): StepView {
  const row = results.verdict.find((r) => r.check === name);
  if (!row) return { state: "empty", told: "" };
  if (row.status === "unchecked") return { state: "attention", told: row.reason };
  if (row.status === "uncovered") return { state: "attention", told: `${use(row.utilisation)}, not all covered` };
  return { state: row.status === "fail" ? "failing" : "fresh", told: `${use(row.utilisation)}, ${row.where}` };
}

type Reviewed = { comments: Comment[]; signatures: Signature[] };

/** How far the checking of a floor has come: what fell, what is open, what nobody answers for yet. */
export function reviewOf(verdict: { check: string }[], review: Reviewed): StepView {
  const count = (n: number, word: string) => `${n} ${word}${n === 1 ? "" : "s"}`;
  const holds = new Set(review.signatures.filter((s) => s.holds).map((s) => s.check));
  const fallen = new Set(review.signatures.filter((s) => !s.holds && !holds.has(s.check)).map((s) => s.check));
  const said = openOnes(review.comments).length;
  const signed = verdict.filter((r) => holds.has(r.check)).length;
  if (fallen.size) return { state: "attention", told: `${count(fallen.size, "signature")} fell` };
  if (said) return { state: "attention", told: `${count(said, "comment")} open` };
  if (!signed) return { state: "empty", told: "nobody signed yet" };
  return {
    state: signed === verdict.length ? "fresh" : "empty",
    told: `${signed} of ${count(verdict.length, "check")} signed`,
  };
}

/** The state of every step, from the model and the results; `behind` while results are of an older revision. */
export function stepView(
  step: StepName,
  document: FloorDocument,
  results: Results | null,
  run: RunEvent | null,
  behind: boolean,
  findings: number,
  review: Pick<Reviewed, "comments" | "signatures">,
): StepView {
  const count = (list: unknown[] | undefined) => list?.length ?? 0;
  const warnings = results?.messages.filter((m) => m.severity === "warning") ?? [];
  switch (step) {
    case "setout":
      return count(document.grid)
        ? { state: "fresh", told: `${count(document.grid)} grid lines` }
        : { state: "empty", told: "no grid yet" };
    case "build": {
      if (!count(document.slabs)) return { state: "empty", told: "nothing built yet" };
      if (findings) return { state: "attention", told: `audit: ${findings} finding${findings > 1 ? "s" : ""}` };
      const number = (n: number, word: string) => `${n} ${word}${n === 1 ? "" : "s"}`;
      const told = `${number(count(document.slabs), "slab")}, ${number(count(document.columns), "column")}`;
      return warnings.length
        ? { state: "attention", told: `${warnings.length} warning${warnings.length > 1 ? "s" : ""}` }
        : { state: "fresh", told };
    }
    case "load": {
      if (!count(document.load_cases)) return { state: "empty", told: "no load cases yet" };
      const total = (results?.loads ?? []).reduce((t, l) => t + l.on_floor_kN, 0);
      const { system } = useUnits.getState();
      const sum = system === "SI" ? `${shown(total / 1000, "", 1)} MN` : resultOf(total, "kN", system, 0);
      return { state: "fresh", told: `${count(document.load_cases)} cases, ${sum}` };
    }
    case "combine": {
      if (!count(document.combinations)) return { state: "empty", told: "no combinations yet" };
      return { state: "fresh", told: `${count(document.combinations)} rows` };
    }
    default:
  }
  // The life of the floor is computed after the rest; only its own step waits for it.
  const living = run !== null && !behind && results !== null && step !== "deflection";
  if (run && !living && ["queued", "running", "failed, will retry once"].includes(run.state))
    return { state: "running", told: step === "analyse" ? `${run.stage || run.state}` : "waiting for the run" };
  if (!results) return { state: "empty", told: run?.state === "refused" ? "refused" : "no results yet" };
  if (behind) return { state: "attention", told: "out of date" };
  switch (step) {
    case "arrange":
      return { state: "fresh", told: `${results.panels.length} panels` };
    case "analyse":
      return { state: "fresh", told: `${results.mesh.nodes.toLocaleString("en")} nodes` };
    case "review":
      return reviewOf(results.verdict, review);
    case "strips":
      return results.strips.length
        ? { state: "fresh", told: `${results.strips.length} strips` }
        : { state: "empty", told: "supports do not line up" };
    default: {
      const mine = CHECKS.find((c) => c.step === step);
      return mine ? check(results, mine.name) : { state: "empty", told: "" };
    }
  }
}
