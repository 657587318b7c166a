import { useEffect, useId, useState } from "react";
import { shown, typed } from "../units/format";
import type { Field } from "./schema";

/** A number with its unit. Enter or leaving the field saves it; Escape brings the old one back. */
export function NumberField(props: { field: Field; value: number; save: (value: number) => Promise<boolean> }) {
  const { field, value, save } = props;
  const id = useId();
  const shownValue = shown(value * field.factor, "", field.digits).replace("−", "-");
  const [text, setText] = useState(shownValue);
  const [error, setError] = useState("");
  useEffect(() => {
    setText(shownValue);
    setError("");
  }, [shownValue]);

  const commit = async () => {
    if (text === shownValue) return;
    const entered = typed(text, field.unit);
    if (entered === null) {
      setError(`“${text}” is not a number${field.unit ? ` in ${field.unit}` : ""}`);
      return;
    }
    setError("");
    const stored = Number((entered / field.factor).toPrecision(12));
    if (stored === value) setText(shownValue);
    else if (!(await save(stored))) setText(shownValue);
  };
  return (
    <div className="number-field">
      <label htmlFor={id}>{field.name}</label>
      <input
        id={id}
        value={text}
        inputMode="decimal"
        aria-invalid={error !== ""}
        onFocus={(e) => e.target.select()}
        onChange={(e) => setText(e.target.value)}
        onBlur={() => void commit()}
        onKeyDown={(e) => {
          if (e.key === "Enter") void commit();
          if (e.key === "Escape") {
            setText(shownValue);
            setError("");
          }
        }}
      />
      <span className="unit">{field.unit}</span>
      {error && (
        <p className="error" role="alert">
          {error}
        </p>
      )}
    </div>
  );
}
