import { useEffect, useState } from "react";
import type { View } from "./view";

/** How far the drawn sheet reaches beyond what is seen, as a share of its size, on each side. */
export const MARGIN = 0.3;

/**
 * The view that the sheet is drawn for: the one that stood still last. Meanwhile the drawn sheet slides along as it
 * is, which costs next to nothing; it is drawn anew when it comes to rest, or when its margin is used up.
 */
export function useSettled(view: View, width: number, height: number): View {
  const [settled, setSettled] = useState(view);
  useEffect(() => {
    const scale = view.k / settled.k;
    const [dx, dy] = [view.x - scale * settled.x, view.y - scale * settled.y];
    // Where the drawn sheet's corners are now; within the frame they would leave a blank.
    const spent =
      dx - MARGIN * width * scale > 0 ||
      dy - MARGIN * height * scale > 0 ||
      dx + (1 + MARGIN) * width * scale < width ||
      dy + (1 + MARGIN) * height * scale < height;
    if (spent || scale > 1.9 || scale < 0.55) {
      setSettled(view);
      return;
    }
    const timer = setTimeout(() => setSettled(view), 90);
    return () => clearTimeout(timer);
  }, [view, settled, width, height]);
  return settled;
}
