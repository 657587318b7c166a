import { create } from "zustand";
import type { components } from "../api/generated";
import { shown } from "./format";

/** What a number is a measure of, as the server names it. It is stored in the file's unit and shown in the project's. */
export type Quantity = components["schemas"]["TraceValue"]["quantity"];
export type System = "SI" | "US";

type Unit = { unit: string /** Shown value over stored value. */; factor: number; digits: number };

const FOOT = 0.3048;
const INCH = 0.0254;
const POUND = 4.4482216152605e-3;

const UNITS: Record<Quantity, Record<System, Unit>> = {
  length: { SI: { unit: "m", factor: 1, digits: 3 }, US: { unit: "ft", factor: 1 / FOOT, digits: 3 } },
  size: { SI: { unit: "mm", factor: 1000, digits: 0 }, US: { unit: "in", factor: 1 / INCH, digits: 2 } },
  cover: { SI: { unit: "mm", factor: 1, digits: 0 }, US: { unit: "in", factor: 0.001 / INCH, digits: 2 } },
  bar: { SI: { unit: "mm", factor: 1, digits: 0 }, US: { unit: "in", factor: 0.001 / INCH, digits: 3 } },
  area: { SI: { unit: "m²", factor: 1, digits: 1 }, US: { unit: "ft²", factor: 1 / FOOT ** 2, digits: 0 } },
  angle: { SI: { unit: "°", factor: 1, digits: 1 }, US: { unit: "°", factor: 1, digits: 1 } },
  stress: {
    SI: { unit: "MPa", factor: 1, digits: 1 },
    US: { unit: "psi", factor: (1000 * INCH ** 2) / POUND, digits: 0 },
  },
  pressure: { SI: { unit: "kPa", factor: 1, digits: 2 }, US: { unit: "psf", factor: FOOT ** 2 / POUND, digits: 1 } },
  lineload: { SI: { unit: "kN/m", factor: 1, digits: 2 }, US: { unit: "plf", factor: FOOT / POUND, digits: 1 } },
  force: { SI: { unit: "kN", factor: 1, digits: 1 }, US: { unit: "kip", factor: 1e-3 / POUND, digits: 2 } },
  moment: {
    SI: { unit: "kNm", factor: 1, digits: 1 },
    US: { unit: "kip-ft", factor: 1e-3 / (POUND * FOOT), digits: 2 },
  },
  weight: { SI: { unit: "kN/m³", factor: 1, digits: 1 }, US: { unit: "pcf", factor: FOOT ** 3 / POUND, digits: 1 } },
  deflection: { SI: { unit: "mm", factor: 1, digits: 2 }, US: { unit: "in", factor: 0.001 / INCH, digits: 3 } },
  time: { SI: { unit: "days", factor: 1, digits: 0 }, US: { unit: "days", factor: 1, digits: 0 } },
  shear_stress: {
    SI: { unit: "kPa", factor: 1, digits: 0 },
    US: { unit: "psi", factor: INCH ** 2 / POUND, digits: 1 },
  },
  force_per_m: {
    SI: { unit: "kN/m", factor: 1, digits: 2 },
    US: { unit: "kip/ft", factor: (1e-3 * FOOT) / POUND, digits: 3 },
  },
  moment_per_m: {
    SI: { unit: "kNm/m", factor: 1, digits: 2 },
    US: { unit: "kip-ft/ft", factor: 1e-3 / POUND, digits: 3 },
  },
  bedding: { SI: { unit: "kN/m³", factor: 1, digits: 0 }, US: { unit: "pci", factor: INCH ** 3 / POUND, digits: 1 } },
  per_m: { SI: { unit: "1/m", factor: 1, digits: 2 }, US: { unit: "1/ft", factor: FOOT, digits: 2 } },
  steel: { SI: { unit: "mm²", factor: 1, digits: 0 }, US: { unit: "in²", factor: 1e-6 / INCH ** 2, digits: 3 } },
  steel_per_m: {
    SI: { unit: "mm²/m", factor: 1, digits: 0 },
    US: { unit: "in²/ft", factor: FOOT / INCH ** 2 / 1e6, digits: 3 },
  },
  line_moment: { SI: { unit: "m²", factor: 1, digits: 3 }, US: { unit: "ft²", factor: 1 / FOOT ** 2, digits: 2 } },
  share: { SI: { unit: "", factor: 1, digits: 2 }, US: { unit: "", factor: 1, digits: 2 } },
  none: { SI: { unit: "", factor: 1, digits: 2 }, US: { unit: "", factor: 1, digits: 2 } },
};

export function unitOf(quantity: Quantity, system: System): Unit {
  return UNITS[quantity][system];
}

/** The project's system of units, for whatever shows or reads numbers. */
export const useUnits = create<{ system: System }>(() => ({ system: "SI" }));

/** Metres as feet, inches and a fraction, if they are a whole number of sixteenths; otherwise decimal feet. */
export function feetAndInches(metres: number): string {
  const sixteenths = metres / (INCH / 16);
  const whole = Math.round(sixteenths);
  if (Math.abs(sixteenths - whole) > 2e-3) return `${shown(metres / FOOT, "", 3)}'`;
  const sign = whole < 0 ? "−" : "";
  const left = Math.abs(whole);
  const feet = Math.floor(left / 192);
  const text = inchesText((left % 192) / 16);
  return `${sign}${feet}'-${text}"`;
}

function inchesText(inches: number): string {
  const whole = Math.floor(inches + 1e-9);
  let top = Math.round((inches - whole) * 16);
  let bottom = 16;
  while (top && top % 2 === 0) {
    top /= 2;
    bottom /= 2;
  }
  return top ? `${whole ? `${whole} ` : ""}${top}/${bottom}` : String(whole);
}

/** A stored number as the project shows it, without its unit where the column's heading has it. */
export function written(stored: number, quantity: Quantity, system: System): string {
  if (quantity === "length" && system === "US") return feetAndInches(stored);
  const { factor, digits } = unitOf(quantity, system);
  const value = stored * factor;
  // As many more digits as it takes not to show a different number from the one that was typed.
  const scale = Math.max(1e-12, Math.abs(value) * 1e-9);
  let places = digits;
  while (places < digits + 3 && Math.abs(Number(value.toFixed(places)) - value) > scale) places++;
  return shown(value, "", Math.abs(Number(value.toFixed(places)) - value) > scale ? digits : places);
}

/** A number of a trace with its unit: four significant digits, in the project's units or as it is kept. */
export function traced(value: number, quantity: Quantity, kept: string, system: System): string {
  const { factor, unit } =
    system === "SI" && quantity !== "size" ? { factor: 1, unit: kept } : unitOf(quantity, system);
  const told = value * factor;
  const size = Math.abs(told) > 0 ? Math.floor(Math.log10(Math.abs(told))) : 0;
  const text = shown(told, "", Math.max(0, Math.min(6, 3 - size)));
  const plain = text.includes(".") ? text.replace(/\.?0+$/, "") : text;
  return `${plain}${unit ? ` ${unit}` : ""}`;
}

/** A sentence with its amounts, marked as ⟨value|quantity⟩, in the project's units. */
export function spoken(sentence: string, system: System): string {
  return sentence.replace(/⟨([^|⟩]+)\|([a-z_]+)⟩/g, (_, value: string, quantity: Quantity) =>
    measured(Number(value), quantity, system),
  );
}

/** A reason in the project's units; results of an older version have it without marks. */
export const reasonOf = (row: { reason: string; said?: string | null }, system: System) =>
  spoken(row.said ?? row.reason, system);

/** A stored number with its unit. */
export function measured(stored: number, quantity: Quantity, system: System): string {
  const { unit } = unitOf(quantity, system);
  if (quantity === "length" && system === "US") return feetAndInches(stored);
  return `${written(stored, quantity, system)}${unit === "°" ? "" : " "}${unit}`.trim();
}

const LENGTHS: Record<string, number> = { mm: 0.001, cm: 0.01, m: 1, ft: FOOT, "'": FOOT, in: INCH, '"': INCH };
/** Stored value of one of each unit, by what the unit measures. */
const SUFFIXES: Partial<Record<Quantity, Record<string, number>>> = {
  length: LENGTHS,
  size: LENGTHS,
  cover: Object.fromEntries(Object.entries(LENGTHS).map(([k, v]) => [k, v * 1000])),
  bar: Object.fromEntries(Object.entries(LENGTHS).map(([k, v]) => [k, v * 1000])),
  angle: { "°": 1, deg: 1, rad: 180 / Math.PI },
  stress: { mpa: 1, gpa: 1000, psi: POUND / INCH ** 2 / 1000, ksi: POUND / INCH ** 2, "n/mm2": 1 },
  pressure: { kpa: 1, "kn/m2": 1, psf: POUND / FOOT ** 2, ksf: (1000 * POUND) / FOOT ** 2 },
  lineload: { "kn/m": 1, plf: POUND / FOOT, klf: (1000 * POUND) / FOOT, "kip/ft": (1000 * POUND) / FOOT },
  force: { kn: 1, n: 0.001, mn: 1000, kip: 1000 * POUND, lb: POUND, lbf: POUND },
  moment: { knm: 1, "kip-ft": 1000 * POUND * FOOT, "lb-ft": POUND * FOOT },
  weight: { "kn/m3": 1, pcf: POUND / FOOT ** 3 },
  bedding: { "kn/m3": 1, pci: POUND / INCH ** 3, pcf: POUND / FOOT ** 3 },
};

const NUMBER = "(?:\\d+(?:[.,]\\d*)?|[.,]\\d+)(?:e[+-]?\\d+)?";
const FRACTION = "(?:(\\d+)[ -]+)?(\\d+)/(\\d+)";
const plain = (text: string) => Number(text.replace(",", "."));

/** Inches written as `6`, `6.5`, `1/2` or `6 1/2`; null if they are none of these. */
function inches(text: string): number | null {
  const split = new RegExp(`^${FRACTION}$`).exec(text);
  if (split) return Number(split[3]) ? Number(split[1] ?? 0) + Number(split[2]) / Number(split[3]) : null;
  return new RegExp(`^${NUMBER}$`, "i").test(text) ? plain(text) : null;
}

/** Feet and inches such as `10'-6 1/2"`, `10'6`, `10'`, `6 1/2"`, in metres; null if the text is none. */
function imperial(text: string): number | null {
  const feet = new RegExp(`^(${NUMBER})\\s*(?:'|ft)\\s*-?\\s*(.*?)\\s*(?:"|in)?$`, "i").exec(text);
  if (feet) {
    const rest = feet[2] ? inches(feet[2].trim()) : 0;
    return rest === null ? null : plain(feet[1] as string) * FOOT + rest * INCH;
  }
  const only = /^(.*?)\s*(?:"|in)$/i.exec(text);
  const value = only?.[1] ? inches(only[1].trim()) : null;
  return value === null ? null : value * INCH;
}

/** The stored value of what was typed: bare numbers are in the shown unit, others carry theirs. Null if it is none. */
export function read(text: string, quantity: Quantity, system: System): number | null {
  const given = text.trim().replaceAll("−", "-").replace(/[′’]/g, "'").replace(/[″”]/g, '"');
  const sign = given.startsWith("-") ? -1 : 1;
  const body = given.replace(/^[+-]\s*/, "");
  const tidy = (value: number) => Number((sign * value).toPrecision(12)) + 0;
  const suffixes = SUFFIXES[quantity];
  const lengths = quantity === "length" || quantity === "size" || quantity === "cover" || quantity === "bar";
  if (lengths) {
    const metres = imperial(body);
    if (metres !== null) return tidy(metres * ((suffixes as Record<string, number>).m as number));
    // A bare fraction is of inches where inches are the unit.
    if (system === "US" && body.includes("/") && quantity !== "length") {
      const value = inches(body);
      if (value !== null) return tidy(value / unitOf(quantity, system).factor);
    }
  }
  const match = new RegExp(`^(${NUMBER})\\s*(.*)$`, "i").exec(body);
  if (!match) return null;
  const value = plain(match[1] as string);
  const suffix = (match[2] as string).toLowerCase().replace("²", "2").replace("³", "3").replace("·", "");
  if (!suffix) return tidy(value / unitOf(quantity, system).factor);
  const one = suffixes?.[suffix];
  return one === undefined ? null : tidy(value * one);
}

/** Why a text cannot be read, and what would do. */
export function unreadable(text: string, quantity: Quantity, system: System): string {
  const { unit } = unitOf(quantity, system);
  const example = quantity === "length" ? `3.25, 3250mm or 10'-8"` : `12${unit && ` or 12 ${unit}`}`;
  return `“${text}” is not a ${quantity === "none" ? "number" : `number in ${unit || "this unit"}`}; type ${example}`;
}
