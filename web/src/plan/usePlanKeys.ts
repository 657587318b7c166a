import { useEffect } from "react";
import { useRoom } from "../display/room";
import type { FloorDocument, Kind } from "../model/floor";
import type { StepName } from "../model/step";
import { useSession } from "../session";
import { useGesture } from "./tools/gesture";
import { copySelected, deleteSelected, everything, paste } from "./tools/selection";
import { pointsOf, TOOLS, toolOf } from "./tools/tools";

/** How far the arrow keys shift the plan, px. */
const NUDGE = 60;

/** Steps of the route in which the floor is built. */
export const BUILDING: StepName[] = ["setout", "build", "load", "arrange", "tendons"];

/** The keys of the plan: tools by their letters, the steps of a gesture, the clipboard, the view. */
export function usePlanKeys(
  document: FloorDocument | null,
  hidden: Set<Kind>,
  fit: () => void,
  by: (dx: number, dy: number, factor?: number) => void,
) {
  useEffect(() => {
    const key = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (target.closest("input, select, textarea, [role=dialog], [role=alertdialog], .sheet")) return;
      const gesture = useGesture.getState();
      const drawing = toolOf(gesture.tool ?? "");
      const control = event.ctrlKey || event.metaKey;
      const letter = event.key.toUpperCase();
      // Where results are read, no key changes the floor.
      const building = BUILDING.includes(useSession.getState().step);
      const focused = target.closest(".model [data-kind], .corner, button");
      if (control && letter === "C") copySelected();
      else if (control && letter === "V") void paste();
      else if (control && letter === "A" && document) useSession.getState().choose(everything(document, hidden));
      else if (control) return;
      else if (event.key === "Enter" && drawing && !focused) gesture.enter();
      else if (event.key === "Backspace" && drawing) gesture.back();
      else if ((event.key === "Delete" || event.key === "Backspace") && !drawing && building) void deleteSelected();
      else if (event.key === "Escape") {
        if (drawing || gesture.kept) gesture.cancel();
        else useSession.getState().select(null);
      } else if (letter === "A" && drawing && pointsOf(drawing, gesture.shape) === null && gesture.points.length)
        gesture.set({ via: gesture.via === undefined ? null : undefined });
      else if (event.shiftKey && event.key === "ArrowLeft") by(NUDGE, 0);
      else if (event.shiftKey && event.key === "ArrowRight") by(-NUDGE, 0);
      else if (event.shiftKey && event.key === "ArrowUp") by(0, NUDGE);
      else if (event.shiftKey && event.key === "ArrowDown") by(0, -NUDGE);
      else if (event.key === "\\") useRoom.getState().clear();
      else if (letter === "F") fit();
      else if (event.key === "+" || event.key === "=") by(0, 0, 1.25);
      else if (event.key === "-") by(0, 0, 0.8);
      else {
        const wanted = TOOLS.find((t) => t.letter === letter);
        const anywhere = wanted?.group === "measure" || wanted?.group === "read";
        if (!wanted || event.altKey || !(building || anywhere)) return;
        if (wanted.group === "load" && useSession.getState().step !== "load") return;
        if (wanted.group === "tendons" && useSession.getState().step !== "tendons") return;
        if (wanted.group === "arrange" && useSession.getState().step !== "arrange") return;
        gesture.begin(wanted.key);
      }
      event.preventDefault();
    };
    window.addEventListener("keydown", key);
    return () => window.removeEventListener("keydown", key);
  }, [fit, by, document, hidden]);
}
