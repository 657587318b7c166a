import { create } from "zustand";
import type { Spreading } from "../../model/tendons";

/** How the next tendons are spread over a region. */
export const useSpreading = create<Spreading>(() => ({
  angle: 0,
  strands: 1,
  by: "spacing",
  spacing: 1.2,
  force: 150,
  jack: 1395,
}));
