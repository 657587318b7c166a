import { shown } from "./format";
import type { System } from "./quantities";

type Told = { unit: string; factor: number; digits: number };

const FOOT = 0.3048;
const INCH = 0.0254;
/** One pound in kg. */
const POUND_KG = 0.45359237;
/** One kip in kN. */
const KIP = 4.4482216152605;

/** Results come in these units; what they are in the US system, and the digits they deserve in each. */
const RESULTS: Record<string, { SI: number; US: Told }> = {
  mm: { SI: 1, US: { unit: "in", factor: 0.001 / INCH, digits: 3 } },
  m: { SI: 2, US: { unit: "ft", factor: 1 / FOOT, digits: 2 } },
  "m²": { SI: 1, US: { unit: "ft²", factor: 1 / FOOT ** 2, digits: 0 } },
  "m³": { SI: 1, US: { unit: "yd³", factor: 1 / (3 * FOOT) ** 3, digits: 0 } },
  kN: { SI: 1, US: { unit: "kip", factor: 1 / KIP, digits: 2 } },
  kNm: { SI: 1, US: { unit: "kip-ft", factor: 1 / (KIP * FOOT), digits: 2 } },
  "kNm/m": { SI: 1, US: { unit: "kip-ft/ft", factor: 1 / KIP, digits: 2 } },
  "kN/m": { SI: 1, US: { unit: "kip/ft", factor: FOOT / KIP, digits: 3 } },
  kPa: { SI: 2, US: { unit: "psf", factor: (1000 * FOOT ** 2) / KIP, digits: 1 } },
  stress: { SI: 0, US: { unit: "psi", factor: (1000 * INCH ** 2) / KIP, digits: 1 } },
  kg: { SI: 1, US: { unit: "lb", factor: 1 / POUND_KG, digits: 0 } },
  t: { SI: 1, US: { unit: "ton", factor: 1000 / POUND_KG / 2000, digits: 1 } },
  "kg/m²": { SI: 2, US: { unit: "lb/ft²", factor: FOOT ** 2 / POUND_KG, digits: 2 } },
  MPa: { SI: 1, US: { unit: "psi", factor: (1e6 * INCH ** 2) / KIP, digits: 0 } },
  "mm²": { SI: 0, US: { unit: "in²", factor: 1 / INCH ** 2 / 1e6, digits: 2 } },
  "mm²/m": { SI: 0, US: { unit: "in²/ft", factor: FOOT / INCH ** 2 / 1e6, digits: 3 } },
  "%": { SI: 0, US: { unit: "%", factor: 1, digits: 0 } },
};

/** How a result in an SI unit is told in the project's system. `stress` is kPa that US practice tells in psi. */
export function toldUnit(unit: string, system: System): Told {
  const known = RESULTS[unit];
  if (!known) return { unit, factor: 1, digits: 2 };
  if (system === "US") return known.US;
  return { unit: unit === "stress" ? "kPa" : unit, factor: 1, digits: known.SI };
}

/** Digits that a result in one of the shown units deserves. */
export function digitsOf(unit: string, step?: number): number {
  // Bands finer than the unit's figures, as of crack widths, need more of them.
  const finer = step === undefined || step >= 0.2 ? 0 : step < 0.01 ? 3 : 2;
  return Math.max(ofUnit(unit), finer);
}

function ofUnit(unit: string): number {
  for (const [si, told] of Object.entries(RESULTS)) {
    if (si === unit) return told.SI;
    if (told.US.unit === unit) return told.US.digits;
  }
  return 2;
}

/** A result as a figure, without its unit. */
export function figureOf(value: number, unit: string, system: System, digits?: number): string {
  const told = toldUnit(unit, system);
  return shown(value * told.factor, "", digits ?? told.digits);
}

/** A result with its unit. */
export function resultOf(value: number, unit: string, system: System, digits?: number): string {
  return `${figureOf(value, unit, system, digits)} ${toldUnit(unit, system).unit}`.trim();
}
