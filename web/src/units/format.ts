/** Digits that a quantity deserves, by its unit. */
const DIGITS: Record<string, number> = {
  mm: 1,
  m: 3,
  kN: 0,
  kNm: 1,
  "kNm/m": 1,
  "kN/m": 2,
  kPa: 2,
  MPa: 1,
  "mm²/m": 0,
  "mm²": 0,
  "%": 0,
};

export function shown(value: number, unit = "", digits?: number): string {
  if (!Number.isFinite(value)) return "–";
  const places = digits ?? DIGITS[unit] ?? 2;
  const text = value.toFixed(places);
  // A rounded nought has no sign.
  return Number(text) === 0 ? (0).toFixed(places) : text.replace("-", "−");
}

export function use(value: number | null): string {
  if (value === null) return "–";
  return value >= 99 ? "≥99" : value.toFixed(2);
}

export type Mark = "pass" | "near" | "fail" | "none" | "bare";

/** Up to here a check passes, as for the computation: what is laid to its limit is so but for rounding. */
const LIMIT = 1 + 1e-9;

export function markOf(utilisation: number | null): Mark {
  if (utilisation === null) return "none";
  if (utilisation > LIMIT) return "fail";
  return utilisation > 0.95 ? "near" : "pass";
}

/** The mark of a row: what is not all covered is no plain pass. */
export function rowMark(row: { utilisation: number | null; status: string }): Mark {
  const mark = markOf(row.utilisation);
  return row.status === "uncovered" && mark !== "fail" ? "bare" : mark;
}

export const SIGN: Record<Mark, string> = { pass: "✓", near: "~", fail: "✕", none: "–", bare: "○" };

/** A number as typed, with its unit suffix if it has one, in the unit that the field shows; null if it is none. */
export function typed(text: string, unit: string): number | null {
  const match = /^\s*([+\-−]?\d*[.,]?\d+(?:e[+-]?\d+)?)\s*(mm|cm|m)?\s*$/i.exec(text);
  if (!match?.[1]) return null;
  const value = Number(match[1].replace(",", ".").replace("−", "-"));
  const length: Record<string, number> = { mm: 0.001, cm: 0.01, m: 1 };
  const from = match[2] ? length[match[2].toLowerCase()] : undefined;
  if (from === undefined) return value;
  const to = length[unit];
  return to === undefined ? null : Number(((value * from) / to).toPrecision(12));
}
