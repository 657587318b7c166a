import { useState } from "react";
import { useDisplay } from "../../display/display";
import { ON_PLAN, plural } from "../../kinds";
import type { Tool } from "../../kinds/kind";
import type { Kind } from "../../model/floor";
import { useSession } from "../../session";
import { useGesture } from "./gesture";
import { joinSelected } from "./outlineService";
import { TOOLS } from "./tools";

const FIRST = ["slab", "opening", "drop", "beam", "column", "wall"];

/** Everything that can be drawn or changed on the plan; the letter of each is its key. */
export function DrawBar(props: { fit: () => void }) {
  const { tool, begin, set } = useGesture();
  // What belongs to the project or to a table alone has no place that could be changed.
  const chosen = useSession((s) => s.chosen.filter((r) => ON_PLAN.includes(r.kind)).length);
  const [more, setMore] = useState<"draw" | "show" | null>(null);
  const { hidden, show } = useDisplay();
  const button = (t: Tool) => (
    <button
      type="button"
      key={t.key}
      aria-pressed={tool === t.key}
      disabled={t.selected && chosen === 0}
      title={`${t.name} (${t.letter})`}
      onClick={() => {
        setMore(null);
        if (tool === t.key) set({ tool: null, points: [] });
        else begin(t.key);
      }}
    >
      {t.name} <kbd>{t.letter}</kbd>
    </button>
  );
  const step = useSession((s) => s.step);
  const own = TOOLS.filter(
    (t) => t.group === (step === "load" || step === "arrange" || step === "tendons" ? (step as string) : "none"),
  );
  const draw = TOOLS.filter((t) => (own.length ? false : t.group === "draw" || t.key === "probe"));
  const change = TOOLS.filter((t) => t.group === "change");
  const measure = TOOLS.filter((t) => t.group === "measure");
  const picked = draw.find((t) => t.key === tool && !FIRST.includes(t.key));
  return (
    <>
      <div className="toolbar draw" role="toolbar" aria-label="Draw">
        {own.map(button)}
        {draw.filter((t) => FIRST.includes(t.key)).map(button)}
        {picked && button(picked)}
        {draw.length > 0 && (
          <button
            type="button"
            aria-expanded={more === "draw"}
            onClick={() => setMore(more === "draw" ? null : "draw")}
          >
            More
          </button>
        )}
        <span className="rule" />
        {measure.map(button)}
        <button type="button" aria-expanded={more === "show"} onClick={() => setMore(more === "show" ? null : "show")}>
          Show{hidden.size > 0 ? ` (${hidden.size} hidden)` : ""}
        </button>
        <button type="button" title="Fit the floor (F)" onClick={props.fit}>
          Fit
        </button>
      </div>
      {more === "draw" && (
        <div className="sheet-menu" role="group" aria-label="More to draw">
          {draw.filter((t) => !FIRST.includes(t.key)).map(button)}
          {button(change.find((t) => t.key === "cantilever") as Tool)}
        </div>
      )}
      {more === "show" && (
        <div className="sheet-menu show" role="group" aria-label="Show and hide">
          {[...ON_PLAN, "grid" as Kind].map((k) => (
            <label key={k}>
              <input
                type="checkbox"
                checked={!hidden.has(k)}
                onChange={() => {
                  const next = new Set(hidden);
                  if (!next.delete(k)) next.add(k);
                  show({ hidden: next });
                }}
              />
              {plural(k)}
            </label>
          ))}
        </div>
      )}
      {chosen > 0 && !tool && (
        <div className="toolbar change" role="toolbar" aria-label="Change what is selected">
          <span className="quiet">{chosen} selected</span>
          {change.filter((t) => t.selected).map(button)}
          <button
            type="button"
            disabled={chosen < 2}
            title="Make one outline of several"
            onClick={() => void joinSelected()}
          >
            Join
          </button>
        </div>
      )}
    </>
  );
}
