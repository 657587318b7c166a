import { create } from "zustand";
import { api } from "../api/client";
import type { components } from "../api/generated";

export type Review = components["schemas"]["Review"];
export type Comment = Review["comments"][number];
export type Signature = Review["signatures"][number];

type Reviewing = {
  floor: number | null;
  comments: Comment[];
  signatures: Signature[];
  /** The comment that is looked at. */
  picked: number | null;
  pick: (id: number | null) => void;
  /** Ask what was said of a floor and signed. */
  look: (floor: number) => Promise<void>;
};

/** What checkers said of the open floor, and what they signed. */
export const useReview = create<Reviewing>((set) => ({
  floor: null,
  comments: [],
  signatures: [],
  picked: null,
  pick: (picked) => set({ picked }),
  look: async (floor) => {
    set((r) => (r.floor === floor ? {} : { floor, comments: [], signatures: [], picked: null }));
    const { data } = await api
      .GET("/api/floors/{floor_id}/review", { params: { path: { floor_id: floor } } })
      .catch(() => ({ data: undefined }));
    if (data) set((r) => (r.floor === floor ? { ...data } : {}));
  },
}));

/** Comments that are no answers and not settled yet. */
export const openOnes = (comments: Comment[]): Comment[] =>
  comments.filter((c) => c.answers === null && c.settled_by === null);
