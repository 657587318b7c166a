import type { components } from "../api/generated";
import type { FloorDocument, Labelled } from "./floor";

type Schemas = components["schemas"];
export type HistoryStage = { id: string; start_days: number; combination: string };
export type DeflectionLimit = { id: string; from?: string | null; to?: string | null; span_over: number };
export type History = {
  stages: HistoryStage[];
  limits?: DeflectionLimit[];
  end_days?: number;
  [key: string]: unknown;
};
export type Curve = Schemas["HistoryCurve"];
export type HistoryResults = Schemas["HistoryState"];

export const END_DAYS = 10950;

export const historyOf = (document: FloorDocument): History | null =>
  ((document as unknown as { history?: History | null }).history ?? null) as History | null;

export const endOf = (history: History) => history.end_days ?? END_DAYS;

/** The document with a changed history. */
export const withHistory =
  (change: (history: History) => History) =>
  (document: FloorDocument): FloorDocument => {
    const history = historyOf(document);
    return history ? ({ ...document, history: change(history) } as unknown as FloorDocument) : document;
  };

/** A stage with other values; limits that name it follow a new name. */
export function withStage(history: History, k: number, part: Partial<HistoryStage>): History {
  const old = history.stages[k]?.id;
  const named = (id: string | null | undefined) => (part.id && id === old ? part.id : id);
  return {
    ...history,
    stages: history.stages.map((s, i) => (i === k ? { ...s, ...part } : s)),
    ...(history.limits && part.id
      ? { limits: history.limits.map((l) => ({ ...l, from: named(l.from), to: named(l.to) })) }
      : {}),
  };
}

/** Without a stage; limits that begin or end with it go with it. */
export function withoutStage(history: History, k: number): History {
  const gone = history.stages[k]?.id;
  return {
    ...history,
    stages: history.stages.filter((_, i) => i !== k),
    ...(history.limits ? { limits: history.limits.filter((l) => l.from !== gone && l.to !== gone) } : {}),
  };
}

/** The document whose stages carry a combination under its new name. */
export const withCombination = (document: FloorDocument, from: string, to: string): FloorDocument =>
  withHistory((h) => ({
    ...h,
    stages: h.stages.map((s) => (s.combination === from ? { ...s, combination: to } : s)),
  }))(document);

/** The document without the stages that carry what is gone; a history without stages is none. */
export function withoutCombinations(document: FloorDocument, gone: Set<string>): FloorDocument {
  const history = historyOf(document);
  if (!history) return document;
  const left = history.stages.reduceRight((h, s, k) => (gone.has(s.combination) ? withoutStage(h, k) : h), history);
  return { ...document, history: left.stages.length ? left : null } as unknown as FloorDocument;
}

/** How far a stage may be moved: a day from its neighbours. */
export function reachOf(history: History, k: number): [number, number] {
  const before = history.stages[k - 1]?.start_days;
  const after = history.stages[k + 1]?.start_days ?? endOf(history);
  return [before === undefined ? 1 : before + 1, after - 1];
}

export type Combination = Labelled & { limit_state: string; factors: Record<string, number> };
type Case = Labelled & { nature: string };
const LASTING = ["quasi_permanent", "sustained"];

/** The ordinary life of a floor in a building: struck, propping the next one, partitions, in use; combinations that lack are added. */
export function withTemplate(document: FloorDocument): FloorDocument {
  const cases = (document.load_cases ?? []) as Case[];
  const combinations = [...((document.combinations ?? []) as Combination[])];
  const own = cases.filter((c) => c.nature === "self_weight").map((c) => c.id);
  const stressed = cases.filter((c) => c.nature === "prestress" && c.effect === "final").map((c) => c.id);
  const dead = cases.filter((c) => c.nature === "dead").map((c) => c.id);
  const state = document.standard === "ACI 318-19" ? "sustained" : "quasi_permanent";
  const taken = new Set(combinations.map((c) => c.id));
  const add = (factors: Record<string, number>) => {
    const same = combinations.find(
      (c) =>
        LASTING.includes(c.limit_state) &&
        JSON.stringify(Object.entries(c.factors).sort()) === JSON.stringify(Object.entries(factors).sort()),
    );
    if (same) return same.id;
    let n = 1;
    while (taken.has(`C${n}`)) n++;
    taken.add(`C${n}`);
    combinations.push({ id: `C${n}`, limit_state: state, factors } as Combination);
    return `C${n}`;
  };
  const all = (ids: string[], factor: number) => Object.fromEntries(ids.map((id) => [id, factor]));
  const base = all(stressed, 1);
  const lasting = combinations.filter((c) => LASTING.includes(c.limit_state));
  const struck = add({ ...all(own, 1), ...base });
  const props = add({ ...all(own, 1.3), ...base });
  const partitions = add({ ...all([...own, ...dead], 1), ...base });
  const use = [...lasting].sort((a, b) => Object.keys(b.factors).length - Object.keys(a.factors).length)[0]?.id;
  const history: History = {
    stages: [
      { id: "forms struck", start_days: 10, combination: struck },
      { id: "floor above cast", start_days: 24, combination: props },
      { id: "partitions", start_days: 75, combination: partitions },
      { id: "in use", start_days: 180, combination: use ?? partitions },
    ],
    limits: [
      { id: "total", span_over: document.deflection?.span_over ?? 250 },
      { id: "after partitions", from: "partitions", span_over: 500 },
    ],
  };
  return { ...document, combinations, history } as unknown as FloorDocument;
}
