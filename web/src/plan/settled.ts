import { useEffect, useState } from "react";
import type { View } from "./view";

/** The view once it has stood still for a moment; labels are laid out anew only then, and slide along meanwhile. */
export function useSettled(view: View): View {
  const [settled, setSettled] = useState(view);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(view), 90);
    return () => clearTimeout(timer);
  }, [view]);
  return settled;
}
