import { useEffect, useRef } from "react";
import { nameOf } from "../../kinds";
import { useGesture } from "./gesture";

/** Asks whether loads of other cases on the same outline go along with those that are moved. */
export function GoAlong() {
  const held = useGesture((g) => g.held);
  const settle = useGesture((g) => g.settle);
  const first = useRef<HTMLButtonElement>(null);
  useEffect(() => {
    if (held) first.current?.focus();
  }, [held]);
  if (!held) return null;
  const { along } = held;
  const lie = along.length === 1 ? "lies" : "lie";
  return (
    <div
      className="entry"
      role="alertdialog"
      aria-label="Loads on the same place"
      aria-describedby="go-along"
      onKeyDown={(event) => {
        if (event.key !== "Escape") return;
        event.stopPropagation();
        useGesture.setState({ held: null });
      }}
    >
      <span id="go-along">
        {nameOf(along)} {lie} on the same place. Move {along.length === 1 ? "it" : "them"} too?
      </span>
      <button type="button" ref={first} className="accent" onClick={() => settle(true)}>
        All together
      </button>
      <button type="button" onClick={() => settle(false)}>
        Only what is selected
      </button>
      <button type="button" onClick={() => useGesture.setState({ held: null })}>
        Leave all <kbd>Esc</kbd>
      </button>
    </div>
  );
}
