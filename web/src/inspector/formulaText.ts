/** Words of formulas that are written as letters of the Greek alphabet, and the comparison's result by its whole name. */
export const WRITTEN: Record<string, string> = {
  use: "utilisation",
  alpha: "α",
  beta: "β",
  delta: "δ",
  gamma: "γ",
  eta: "η",
  lambda: "λ",
  mu: "μ",
  nu: "ν",
  omega: "ω",
  phi: "φ",
  pi: "π",
  rho: "ρ",
  sigma: "σ",
};

/** A symbol in one line of plain text: `gamma_C` is γ_C. */
export function symbolText(symbol: string): string {
  const [base = "", ...low] = symbol.split("_");
  return [WRITTEN[base] ?? base, ...low].join("_");
}

const FUNCTIONS = ["max", "min", "sqrt", "abs", "ln", "exp"];
const TOKEN = /\s*(?:(\d+(?:\.\d+)?)|([A-Za-zΑ-ω][A-Za-z0-9Α-ω']*(?:_[A-Za-z0-9]+(?:,[A-Za-z0-9]+)*)?)|(.))/gu;
const SHOWN: Record<string, string> = { "+": " + ", "-": " − ", "·": " · ", "/": " / ", ",": ", " };

export type Token = { kind: "number" | "name" | "sign"; text: string; shown: string };

/** The tokens of a formula in the language of the server, with how they are written. */
export function tokensOf(text: string): Token[] {
  const out: Token[] = [];
  for (const [, number, name, sign] of text.trim().matchAll(TOKEN)) {
    const before = out[out.length - 1];
    const alone = !before || (before.kind === "sign" && before.text !== ")");
    if (number !== undefined) out.push({ kind: "number", text: number, shown: number });
    else if (name !== undefined && FUNCTIONS.includes(name))
      out.push({ kind: "sign", text: name, shown: name === "sqrt" ? "√" : name });
    else if (name !== undefined) out.push({ kind: "name", text: name, shown: name });
    else if (sign) out.push({ kind: "sign", text: sign, shown: sign === "-" && alone ? "−" : (SHOWN[sign] ?? sign) });
  }
  return out;
}
