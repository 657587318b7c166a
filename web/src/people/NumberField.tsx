import type { components } from "../api/generated";

export type Factor = components["schemas"]["FactorState"];

/** The field of a number of the second factor, where there is one. */
export function NumberField(props: { factor: Factor | null; value: string; set: (value: string) => void }) {
  if (!props.factor?.on) return null;
  return (
    <label>
      Number of the second factor
      <input
        className="mono"
        autoComplete="one-time-code"
        inputMode="numeric"
        maxLength={40}
        value={props.value}
        onChange={(e) => props.set(e.target.value)}
      />
    </label>
  );
}
