import { useEffect, useId, useRef, useState } from "react";
import { cellText, parsed, pointsBrief } from "../model/cells";
import type { FloorDocument, Labelled } from "../model/floor";
import { type Property, valueAt } from "../model/property";
import { unitOf, useUnits } from "../units/quantities";

/** One property of what is selected; several objects that differ show none of their values until one is typed. */
export function PropertyField(props: {
  property: Property;
  items: Labelled[];
  document: FloorDocument;
  save: (value: unknown, told: string) => Promise<boolean>;
}) {
  const { property, items, document, save } = props;
  const id = useId();
  const system = useUnits((u) => u.system);
  const texts = new Set(items.map((i) => cellText(property, i, system)));
  const same = texts.size === 1;
  const shownText = same ? ([...texts][0] as string).replace("−", "-") : "";
  const [text, setText] = useState(shownText);
  const [error, setError] = useState("");
  /** What is being saved: Enter and then leaving the field is one change. */
  const under = useRef<string | null>(null);
  useEffect(() => {
    setText(shownText);
    setError("");
  }, [shownText]);
  const unit = property.quantity ? unitOf(property.quantity, system).unit : "";
  const first = items[0] as Labelled;

  const commit = async (given: string) => {
    if (given === shownText || given === under.current) return;
    under.current = given;
    await take(given);
    under.current = null;
  };
  // Choices that depend on the object: those that all of them have.
  const choices = property.choicesFor
    ? items.map((i) => property.choicesFor?.(document, i) ?? []).reduce((a, b) => a.filter((c) => b.includes(c)))
    : (property.choices?.(document) ?? []);
  const take = async (given: string) => {
    const result = parsed(property, given, document, system, first);
    if ("problem" in result) {
      setError(result.problem);
      return;
    }
    setError("");
    if (same && JSON.stringify(result.value) === JSON.stringify(valueAt(first, property.path))) setText(shownText);
    else if (!(await save(result.value, given.trim() || "none"))) setText(shownText);
  };
  if (property.type === "points")
    return (
      <div className="number-field brief">
        <span>{property.name}</span>
        <span className="mono">{items.length === 1 ? pointsBrief(property, first, system) : ""}</span>
      </div>
    );
  return (
    <div className="number-field">
      <label htmlFor={id}>{property.name}</label>
      {property.type === "choice" ? (
        <select
          id={id}
          value={same ? String(valueAt(first, property.path) ?? (property.empty ? "" : property.fallback) ?? "") : ""}
          onChange={(e) =>
            property.choicesFor
              ? void take(e.target.value)
              : e.target.value === ""
                ? void save(undefined, "none")
                : void save(e.target.value, e.target.value.replaceAll("_", " "))
          }
        >
          {!same && <option value="">varies</option>}
          {same && property.empty && !choices.includes("") && <option value="">none</option>}
          {choices.map((c) => (
            <option key={c} value={c}>
              {c === "" ? "–" : c.replaceAll("_", " ")}
            </option>
          ))}
        </select>
      ) : property.type === "check" ? (
        <input
          id={id}
          type="checkbox"
          checked={same && text === "yes"}
          onChange={(e) => void save(e.target.checked, e.target.checked ? "yes" : "no")}
        />
      ) : (
        <input
          id={id}
          className={property.type === "text" ? "text" : ""}
          value={text}
          placeholder={same ? (property.empty ? "none" : "") : "varies"}
          inputMode={property.type === "number" ? "decimal" : undefined}
          aria-invalid={error !== ""}
          onFocus={(e) => e.target.select()}
          onChange={(e) => setText(e.target.value)}
          onBlur={(e) => void commit(e.target.value)}
          onKeyDown={(e) => {
            if (e.key === "Enter") e.currentTarget.blur();
            if (e.key === "Escape") {
              setText(shownText);
              setError("");
              // Leaving the field commits what it holds, so it gets the old text back first.
              e.currentTarget.value = shownText;
              e.currentTarget.blur();
            }
          }}
        />
      )}
      {property.type === "number" && <span className="unit">{unit}</span>}
      {error && (
        <p className="error" role="alert">
          {error}
        </p>
      )}
    </div>
  );
}
