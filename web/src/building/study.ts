import type { components } from "../api/generated";
import { checkOf } from "../checks";
import { isKind, KINDS, plural, singular } from "../kinds";
import { FLOOR_PATHS, floorName, propertiesOfKind } from "../kinds/properties";
import { type Cell, inUnits, type Line, type TableView, text } from "../ledger/table";
import type { FloorDocument, Kind } from "../model/floor";
import { itemsOf } from "../model/floor";
import { type Mark, markOf, SIGN, use } from "../units/format";
import { measured, type Quantity, read, type System, unitOf, unreadable, written } from "../units/quantities";
import { figureOf, toldUnit } from "../units/results";

export type Study = components["schemas"]["StudyState"];
export type Variant = Study["variants"][number];
export type Found = NonNullable<Variant["found"]>;
export type Varied = Study["vary"][number];
export type How = "grid" | "one_at_a_time" | "list";

/** Variants of one study. */
export const MOST = 500;

/** A field that may vary: its path, what it is called, and what its number measures. */
export type FieldName = { path: string; name: string; quantity: Quantity };

const STEP = /^([a-z_]+)\[([^[\]]+)\]\.(.+)$/;

/** How a path of a study is called; one that nobody has named keeps its own words, and its numbers are as the floor file has them. */
export function fieldOf(path: string): FieldName {
  const match = STEP.exec(path);
  const [, list = "", which = "", own = ""] = match ?? [];
  if (match && isKind(list)) {
    const property = propertiesOfKind(list).find((p) => p.path === own);
    const of = which === "*" ? `all ${plural(list).toLowerCase()}` : `${singular(list).toLowerCase()} ${which}`;
    return { path, name: `${property?.name ?? own}, ${of}`, quantity: property?.quantity ?? "none" };
  }
  const floor = floorName(path);
  return { path, name: floor?.name ?? path, quantity: floor?.quantity ?? "none" };
}

/** Kinds of objects of a floor that have numbers to vary, and the floor itself. */
export function varying(document: FloorDocument): { kind: Kind | "floor"; name: string }[] {
  const kinds = (Object.keys(KINDS) as Kind[]).filter((k) => itemsOf(document, k).length && numbersOf(k).length);
  return [{ kind: "floor", name: "The floor" }, ...kinds.map((kind) => ({ kind, name: plural(kind) }))];
}

/** Numbers of a kind of object, or of the floor itself, by path. */
export function numbersOf(kind: Kind | "floor"): { path: string; name: string }[] {
  if (kind === "floor")
    return FLOOR_PATHS.filter((p) => floorName(p)?.quantity !== undefined).map((path) => ({
      path,
      name: floorName(path)?.name ?? path,
    }));
  return propertiesOfKind(kind)
    .filter((p) => ["number", "whole"].includes(p.type) && !p.fixed && !p.path.includes(":"))
    .map(({ path, name }) => ({ path, name }));
}

const RANGE = /^(.+?)\s+to\s+(.+?)\s+by\s+(.+)$/i;

/** The values that were typed: figures parted by commas or semicolons, and runs of them as "200 to 300 by 20"; what is wrong with them. */
export function valuesOf(typed: string, quantity: Quantity, system: System): { values: number[]; problem: string } {
  const values: number[] = [];
  for (const part of typed.split(/[,;\n]/).map((p) => p.trim())) {
    if (!part) continue;
    const range = RANGE.exec(part);
    const figures = range ? range.slice(1) : [part];
    const known = figures.map((f) => read(f, quantity, system));
    const bad = known.indexOf(null);
    if (bad >= 0) return { values: [], problem: unreadable(figures[bad] as string, quantity, system) };
    const [first, last, step] = known as number[];
    if (!range) values.push(first as number);
    else if (!((step as number) > 0) || (last as number) < (first as number))
      return { values: [], problem: `“${part}” does not rise; write it as 200 to 300 by 20` };
    else {
      const count = Math.floor(((last as number) - (first as number)) / (step as number) + 1e-9) + 1;
      if (values.length + count > MOST)
        return { values: [], problem: `“${part}” makes ${count} values; ${MOST} at most` };
      for (let k = 0; k < count; k++) values.push(Number(((first as number) + k * (step as number)).toPrecision(12)));
    }
  }
  return { values, problem: "" };
}

/** How many variants a study has. */
export function countOf(lengths: number[], how: How, floors: number): number {
  if (!lengths.length || lengths.some((n) => n === 0)) return 0;
  const [first = 0] = lengths;
  const each =
    how === "grid"
      ? lengths.reduce((a, b) => a * b, 1)
      : how === "one_at_a_time"
        ? 1 + lengths.reduce((a, b) => a + b, 0)
        : lengths.every((n) => n === first)
          ? first
          : 0;
  return each * floors;
}

/** What a variant may be judged by: smaller is better for each. */
export type Metric = { key: string; name: string; unit: string; of: (found: Found) => number | null };

const worstUse = (found: Found): number | null => {
  const uses = Object.values(found.utilisation ?? {}).filter((u): u is number => u !== null);
  return uses.length ? Math.max(...uses) : null;
};

export const METRICS: Metric[] = [
  { key: "carbon", name: "Carbon", unit: "kg", of: (f) => f.carbon_kg ?? null },
  { key: "use", name: "Worst use", unit: "", of: worstUse },
  { key: "sag", name: "Deflection", unit: "mm", of: (f) => f.sag_mm ?? null },
  { key: "gross", name: "Uncracked, at once", unit: "mm", of: (f) => f.gross_mm ?? null },
  { key: "concrete", name: "Concrete", unit: "m³", of: (f) => f.concrete_m3 ?? null },
  { key: "bars", name: "Bars", unit: "kg", of: (f) => f.steel_kg ?? null },
  { key: "strands", name: "Strands", unit: "kg", of: (f) => f.strands_kg ?? null },
];

/** Metrics that tell variants of a study apart, those of single checks too. */
export function metricsOf(study: Study): Metric[] {
  const found = study.variants.flatMap((v) => v.found ?? []);
  const checks = [...new Set(found.flatMap((f) => Object.keys(f.utilisation ?? {})))];
  return [
    ...METRICS.filter((m) => m.key !== "strands" || found.some((f) => (f.strands_kg ?? 0) > 0)),
    ...checks.map((c) => ({
      key: `check ${c}`,
      name: checkOf(c).title,
      unit: "",
      of: (f: Found) => f.utilisation?.[c] ?? null,
    })),
  ];
}

/** Variants that pass and that no other passing one beats in both metrics; of equals all. */
export function best(study: Study, x: Metric, y: Metric): Set<number> {
  const known = study.variants.flatMap((v) => {
    const [a, b] = [v.found && x.of(v.found), v.found && y.of(v.found)];
    return v.found?.verdict === "pass" && typeof a === "number" && typeof b === "number"
      ? [{ number: v.number, a, b }]
      : [];
  });
  const beaten = (p: (typeof known)[number]) => known.some((q) => q.a <= p.a && q.b <= p.b && (q.a < p.a || q.b < p.b));
  return new Set(known.filter((p) => !beaten(p)).map((p) => p.number));
}

export const WORDS: Record<string, string> = {
  pass: "works",
  fail: "does not work",
  uncovered: "not all covered",
  unchecked: "not all checked",
  refused: "refused",
  lost: "lost",
};

export const markOfVerdict = (verdict: string): Mark =>
  verdict === "pass" ? "pass" : verdict === "uncovered" ? "bare" : verdict === "unchecked" ? "none" : "fail";

/** A variant's values, as one line. */
export function toldOf(variant: Variant, system: System): string {
  const told = Object.entries(variant.values).map(([path, value]) => {
    const field = fieldOf(path);
    return `${field.name} ${typeof value === "number" ? measured(value, field.quantity, system) : value}`;
  });
  return told.join("; ") || "as it is";
}

/** The variants as a table of the screen, in the units of the project. */
export function studyTable(
  study: Study,
  system: System,
  front: Set<number>,
  pick: (variant: Variant) => void,
): TableView {
  const { word, column, figure } = inUnits(system);
  const found = study.variants.flatMap((v) => v.found ?? []);
  const checks = [...new Set(found.flatMap((f) => Object.keys(f.utilisation ?? {})))];
  const floors = new Set(study.variants.map((v) => v.floor)).size;
  const fields = study.vary.map((v) => fieldOf(v.path));
  const strands = found.some((f) => (f.strands_kg ?? 0) > 0);
  const value = (variant: Variant, field: FieldName): Cell => {
    const v = variant.values[field.path];
    return typeof v === "number"
      ? { text: written(v, field.quantity, system), sort: v }
      : text(v === undefined ? "as it is" : v);
  };
  const usage = (u: number | null | undefined): Cell =>
    u == null ? text("–") : { text: use(u), plain: u.toFixed(4), sort: u, mark: markOf(u) };
  const line = (v: Variant): Line => {
    const f = v.found;
    const mark = f ? markOfVerdict(f.verdict) : "none";
    return {
      key: String(v.number),
      opens: null,
      does: () => pick(v),
      cells: [
        { text: `${v.number}${front.has(v.number) ? " ◆" : ""}`, plain: String(v.number), sort: v.number },
        ...(floors > 1 ? [text(v.floor_name)] : []),
        ...fields.map((field) => value(v, field)),
        f ? { text: `${SIGN[mark]} ${WORDS[f.verdict]}`, plain: f.verdict, sort: f.verdict, mark } : text("…"),
        figure(f?.sag_mm, "mm"),
        figure(f?.gross_mm, "mm"),
        figure(f?.concrete_m3, "m³"),
        figure(f?.steel_kg, "kg", 0),
        ...(strands ? [figure(f?.strands_kg, "kg", 0)] : []),
        figure(f?.carbon_kg, "kg", 0),
        ...checks.map((c) => usage(f?.utilisation?.[c])),
        text(f?.told ?? ""),
      ],
    };
  };
  return {
    title: `Study ${study.name}`,
    columns: [
      { name: "No.", figure: true },
      ...(floors > 1 ? [word("Floor")] : []),
      ...fields.map((f) => ({ name: f.name, unit: unitOf(f.quantity, system).unit, figure: true })),
      word("Verdict"),
      column("Deflection", "mm"),
      column("Uncracked", "mm"),
      column("Concrete", "m³"),
      column("Bars", "kg"),
      ...(strands ? [column("Strands", "kg")] : []),
      column("Carbon", "kg"),
      ...checks.map((c) => ({ name: checkOf(c).title, figure: true })),
      word("Against it"),
    ],
    lines: study.variants.map(line),
    empty: "This study has no variants.",
  };
}

/** A metric as an axis tells it: its name with the unit of the project. */
export const axisOf = (m: Metric, system: System) => `${m.name}${m.unit ? ` ${toldUnit(m.unit, system).unit}` : ""}`;

/** A metric's value in the unit of the project. */
export const inProject = (value: number, m: Metric, system: System) =>
  m.unit ? value * toldUnit(m.unit, system).factor : value;

/** A metric's value as a figure. */
export const figureOfMetric = (value: number, m: Metric, system: System) =>
  m.unit ? figureOf(value, m.unit, system) : use(value);
