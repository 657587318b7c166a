import { create } from "zustand";
import { addressed, asked } from "./address";

/** What fills the screen: the open floor, or one of the views of its building. */
export const VIEWS = ["floors", "verdicts", "studies", "model"] as const;
export type BuildingView = (typeof VIEWS)[number];

type Place = {
  building: BuildingView | null;
  /** To a view of the building, or back to the open floor. */
  go: (building: BuildingView | null) => void;
};

export const usePlace = create<Place>((set) => ({
  building: VIEWS.find((v) => v === asked("building")) ?? null,
  go: (building) => {
    addressed("building", building);
    set({ building });
  },
}));
