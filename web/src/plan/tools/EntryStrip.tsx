import { useEffect, useRef } from "react";
import { unitOf, useUnits } from "../../units/quantities";
import type { View } from "../view";
import { aim, basis, type Mode, useGesture } from "./gesture";
import { pointsOf, type Shape, toolOf } from "./tools";

const SHAPES: [Shape, string][] = [
  ["corners", "Corners"],
  ["rectangle", "Rectangle"],
  ["circle", "Circle"],
  ["bay", "Bay of the grid"],
];
const MODES: [Mode, string][] = [
  ["offset", "Δx, Δy"],
  ["polar", "Length, angle"],
  ["absolute", "x, y"],
];

/** Height at the foot of the plan that the strip takes, px: where the drawing goes on there, the strip goes to the top. */
const REACH = 76;

/** A key pressed in a field that is empty, for the plan: no figure begins with a letter. */
function passOn(event: React.KeyboardEvent) {
  (event.target as HTMLElement).blur();
  document.body.dispatchEvent(
    new KeyboardEvent("keydown", { key: event.key, shiftKey: event.shiftKey, bubbles: true, cancelable: true }),
  );
}

/** What the tool asks for, and where it can be typed: a digit at any moment begins to fill it in. */
export function EntryStrip(props: { view: View; height: number }) {
  const g = useGesture();
  const system = useUnits((u) => u.system);
  const first = useRef<HTMLInputElement>(null);
  const second = useRef<HTMLInputElement>(null);
  const tool = toolOf(g.tool ?? "");

  useEffect(() => {
    if (!tool) return;
    const key = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (target.closest("input, select, textarea, [role=dialog]") || event.ctrlKey || event.metaKey || event.altKey)
        return;
      if (/^[\d.,'+-]$/.test(event.key)) {
        // The character goes into the first field, as if it had been the focus all along.
        useGesture.getState().set({ typed: [event.key, useGesture.getState().typed[1]], problem: "" });
        first.current?.focus();
        event.preventDefault();
        event.stopImmediatePropagation();
      }
    };
    window.addEventListener("keydown", key, true);
    return () => window.removeEventListener("keydown", key, true);
  }, [tool]);

  if (!tool) return null;
  const count = g.points.length;
  const asks =
    g.via === null ? "a point that the arc passes through" : tool.asks[Math.min(count, tool.asks.length - 1)];
  const last = basis(g.points, g.tool);
  const mode: Mode = last ? g.mode : "absolute";
  const unit = unitOf("length", system).unit;
  const open = pointsOf(tool, g.shape, g.across) === null;
  const at = aim(g);
  // The place drawn at stays in sight: the strip stands at the other end of the plan.
  const high = at !== null && props.view.y - props.view.k * at.y > props.height - REACH;
  const names = mode === "polar" ? ["Length", "Angle"] : mode === "offset" ? ["Δx", "Δy"] : ["x", "y"];
  const next = () => {
    const order = MODES.map(([m]) => m);
    g.set({ mode: order[(order.indexOf(g.mode) + 1) % order.length] as Mode });
  };
  const keys = (event: React.KeyboardEvent) => {
    if (event.key === "Enter") {
      event.preventDefault();
      g.enter();
      first.current?.focus();
      first.current?.select();
    } else if (event.key === "Escape") {
      event.preventDefault();
      event.stopPropagation();
      g.set({ typed: ["", ""], problem: "" });
      (document.activeElement as HTMLElement | null)?.blur();
    } else if ((event.target as HTMLInputElement).value === "" && /^([a-z]|Backspace)$/i.test(event.key)) {
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      event.preventDefault();
      event.stopPropagation();
      passOn(event);
    } else if (event.key === "/" && last && !event.ctrlKey && (event.target as HTMLInputElement).value === "") {
      event.preventDefault();
      next();
    }
  };
  return (
    <div
      className={`entry ${high ? "high" : ""}`}
      role="group"
      aria-label={`${tool.name}: ${asks}`}
      data-testid="entry"
    >
      <b>{tool.name}</b>
      <span className="asks">{asks}</span>
      {tool.form === "outline" && count === 0 && (
        <span className="segments">
          {SHAPES.map(([key, name]) => (
            <button type="button" key={key} aria-pressed={g.shape === key} onClick={() => g.set({ shape: key })}>
              {name}
            </button>
          ))}
        </span>
      )}
      {last && (
        <span className="segments">
          {MODES.map(([key, name]) => (
            <button type="button" key={key} aria-pressed={mode === key} onClick={() => g.set({ mode: key })}>
              {name}
            </button>
          ))}
        </span>
      )}
      <label>
        {names[0]}
        <input
          ref={first}
          aria-label={names[0]}
          value={g.typed[0]}
          placeholder={unit}
          onChange={(e) => g.set({ typed: [e.target.value, g.typed[1]], problem: "" })}
          onKeyDown={keys}
        />
      </label>
      <label>
        {names[1]}
        <input
          ref={second}
          aria-label={names[1]}
          value={g.typed[1]}
          placeholder={mode === "polar" ? "°" : unit}
          onChange={(e) => g.set({ typed: [g.typed[0], e.target.value], problem: "" })}
          onKeyDown={keys}
        />
      </label>
      {tool.key === "array" &&
        (
          [
            ["Copies", "times", 1],
            ["Across", "across", 0],
          ] as const
        ).map(([name, path, least]) => (
          <label
            key={path}
            title={path === "across" ? "Copies in a second direction; none for a single row" : undefined}
          >
            {name}
            <input
              aria-label={name}
              className="narrow"
              value={String(g[path])}
              onChange={(e) =>
                /^\d{0,3}$/.test(e.target.value) && g.set({ [path]: Math.max(least, Number(e.target.value)) })
              }
              onKeyDown={keys}
            />
          </label>
        ))}
      {open && count > 0 && (
        <button
          type="button"
          aria-pressed={g.via !== undefined}
          onClick={() => g.set({ via: g.via === undefined ? null : undefined })}
        >
          Arc <kbd>A</kbd>
        </button>
      )}
      {open && count > 1 && (
        <button type="button" className="accent" onClick={() => g.finish()}>
          {tool.form === "outline" ? "Close" : "End"} <kbd>Enter</kbd>
        </button>
      )}
      {g.problem && (
        <span className="problem" role="alert">
          {g.problem}
        </span>
      )}
    </div>
  );
}
