import { create } from "zustand";
import { WORDS, type Word } from "../model/words";

const KEPT = "piastra-words";

function kept(): Word[] {
  try {
    const found: unknown = JSON.parse(localStorage.getItem(KEPT) ?? "[]");
    return Array.isArray(found) ? found.filter((w): w is Word => w in WORDS) : [];
  } catch {
    return [];
  }
}

/** The words that this reader has met; they are told once. */
export const useMet = create<{ met: Word[]; meet: (words: Word[]) => void }>((set, get) => ({
  met: kept(),
  meet: (words) => {
    const met = [...new Set([...get().met, ...words])];
    localStorage.setItem(KEPT, JSON.stringify(met));
    set({ met });
  },
}));
