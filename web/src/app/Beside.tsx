import type { PointerEvent } from "react";
import { useRoom, widthOf } from "../display/room";
import { Inspector } from "../inspector/Inspector";

/** The inspector at the plan's side: as wide as it was drawn, or folded away. */
export function Beside() {
  const { inspector, inspect } = useRoom();
  const drag = (event: PointerEvent<HTMLButtonElement>) => {
    const start = { x: event.clientX, width: inspector.width };
    const target = event.currentTarget;
    target.setPointerCapture(event.pointerId);
    const move = (e: globalThis.PointerEvent) => inspect({ width: widthOf(start.width + start.x - e.clientX) });
    target.addEventListener("pointermove", move);
    target.addEventListener("pointerup", () => target.removeEventListener("pointermove", move), { once: true });
  };
  return (
    <div className={`beside ${inspector.folded ? "folded" : ""}`}>
      {!inspector.folded && (
        <button
          type="button"
          className="side-handle"
          aria-label="Width of the inspector; arrow keys change it"
          onPointerDown={drag}
          onKeyDown={(e) => {
            if (e.key === "ArrowLeft") inspect({ width: widthOf(inspector.width + 24) });
            if (e.key === "ArrowRight") inspect({ width: widthOf(inspector.width - 24) });
          }}
        />
      )}
      <button
        type="button"
        className="fold"
        aria-expanded={!inspector.folded}
        aria-label={inspector.folded ? "Unfold the inspector" : "Fold the inspector"}
        title={inspector.folded ? "Unfold the inspector (\\ unfolds all)" : "Fold the inspector (\\ folds all)"}
        onClick={() => inspect({ folded: !inspector.folded })}
      >
        <span aria-hidden="true">{inspector.folded ? "‹" : "›"}</span>
      </button>
      {!inspector.folded && <Inspector />}
    </div>
  );
}
