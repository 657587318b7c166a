import { describe, expect, it } from "vitest";
import { reviewOf } from "../src/route/steps";
import type { Comment, Signature } from "../src/session/review";

const verdict = [{ check: "flexure" }, { check: "punching" }];
const signed = (check: string, holds = true) => ({ check, holds }) as Signature;
const said = (answers: number | null = null, settled_by: string | null = null) => ({ answers, settled_by }) as Comment;

describe("how far the checking of a floor has come", () => {
  it.each([
    ["nobody signed", [], [], "empty", "nobody signed yet"],
    ["one of two", [], [signed("flexure")], "empty", "1 of 2 checks signed"],
    ["all", [], [signed("flexure"), signed("punching")], "fresh", "2 of 2 checks signed"],
    ["one fell", [], [signed("flexure", false), signed("punching")], "attention", "1 signature fell"],
    [
      "one fell and was signed anew",
      [],
      [signed("flexure"), signed("flexure", false)],
      "empty",
      "1 of 2 checks signed",
    ],
    ["a comment is open", [said(), said(1)], [signed("flexure")], "attention", "1 comment open"],
    [
      "a comment is settled",
      [said(null, "Ada")],
      [signed("flexure"), signed("punching")],
      "fresh",
      "2 of 2 checks signed",
    ],
  ] as const)("%s", (_, comments, signatures, state, told) => {
    expect(reviewOf(verdict, { comments: [...comments], signatures: [...signatures] })).toEqual({ state, told });
  });
});
