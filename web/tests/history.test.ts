import { describe, expect, it } from "vitest";
import type { FieldHead } from "../src/api/fields";
import { begun, stored, useDisplay } from "../src/display/display";
import { relabelled, removed } from "../src/kinds/edits";
import type { FloorDocument } from "../src/model/floor";
import { historyOf, reachOf, withoutStage, withStage, withTemplate } from "../src/model/history";

const floor = () =>
  ({
    standard: "EN 1992-1-1",
    load_cases: [
      { id: "G", nature: "self_weight" },
      { id: "D", nature: "dead" },
      { id: "Q", nature: "live" },
      { id: "P", nature: "prestress", effect: "final" },
    ],
    combinations: [
      { id: "C1", limit_state: "characteristic", factors: { G: 1, D: 1, Q: 1 } },
      { id: "S", limit_state: "quasi_permanent", factors: { G: 1, D: 1, Q: 0.3, P: 1 } },
    ],
  }) as unknown as FloorDocument;

describe("fields of a history", () => {
  const heads = ["struck", "in use"].flatMap((of) => [
    { quantity: "w", of, kind: "loaded" },
    { quantity: "steel_stress", of, kind: "bottom" },
    { quantity: "steel_stress", of, kind: "top" },
    { quantity: "w", of, kind: "history" },
  ]) as unknown as FieldHead[];
  const shown = (part: object) => ({ ...useDisplay.getState(), ...part });

  it("are the end of the life where nothing is asked for, and by stage and face", () => {
    expect(stored(heads, shown({}))).toBe(7);
    expect(stored(heads, shown({ of: "struck", kind: "history" }))).toBe(3);
    expect(stored(heads, shown({ quantity: "steel_stress" }))).toBe(6);
    expect(stored(heads, shown({ quantity: "steel_stress", of: "in use", kind: "bottom" }))).toBe(5);
    expect(stored(heads, shown({ quantity: "steel_stress", of: "B1", kind: "all" }))).toBe(6);
  });

  it("are told since the load of a stage, deflections alone", () => {
    expect(begun(heads, shown({ since: "in use" }))).toBe(4);
    expect(begun(heads, shown({ since: null }))).toBe(-1);
    expect(begun(heads, shown({ since: "gone" }))).toBe(-1);
    expect(begun(heads, shown({ quantity: "steel_stress", since: "in use" }))).toBe(-1);
  });
});

describe("the history of a floor", () => {
  it("begins with four stages, whose combinations are added beside those that are there", () => {
    const made = withTemplate(floor());
    const history = historyOf(made);
    expect(history?.stages.map((s) => [s.id, s.start_days])).toEqual([
      ["forms struck", 10],
      ["floor above cast", 24],
      ["partitions", 75],
      ["in use", 180],
    ]);
    const factors = Object.fromEntries(
      (made.combinations as unknown as { id: string; factors: object }[]).map((c) => [c.id, c.factors]),
    );
    expect(history?.stages.map((s) => factors[s.combination])).toEqual([
      { G: 1, P: 1 },
      { G: 1.3, P: 1 },
      { G: 1, D: 1, P: 1 },
      { G: 1, D: 1, Q: 0.3, P: 1 },
    ]);
    expect(Object.keys(factors)).toHaveLength(5);
    // Once more finds its own combinations again.
    expect(withTemplate(made).combinations).toHaveLength(5);
  });

  it("keeps limits with a stage that is renamed, and drops those of one that goes", () => {
    const history = historyOf(withTemplate(floor()));
    if (!history) throw new Error("no history");
    const renamed = withStage(history, 2, { id: "walls" });
    expect(renamed.limits?.[1]?.from).toBe("walls");
    expect(withoutStage(renamed, 2).limits?.map((l) => l.id)).toEqual(["total"]);
    expect(withStage(history, 1, { start_days: 30 }).stages[1]?.start_days).toBe(30);
  });

  it("follows combinations that are renamed, and loses the stages of those that go", () => {
    const made = withTemplate(floor());
    const use = { kind: "combinations" as const, id: "S" };
    expect(historyOf(relabelled(made, use, "lasting"))?.stages[3]?.combination).toBe("lasting");
    const left = historyOf(removed(made, [use]));
    expect(left?.stages.map((s) => s.id)).toEqual(["forms struck", "floor above cast", "partitions"]);
    const all = (made.combinations as { id: string }[]).map((c) => ({ ...use, id: c.id }));
    expect(historyOf(removed(made, all))).toBeNull();
  });

  it("lets a stage be moved between its neighbours only", () => {
    const history = historyOf(withTemplate(floor()));
    if (!history) throw new Error("no history");
    expect(reachOf(history, 0)).toEqual([1, 23]);
    expect(reachOf(history, 2)).toEqual([25, 179]);
    expect(reachOf(history, 3)).toEqual([76, 10949]);
  });
});
