import { create } from "zustand";

/** What the page on show puts into the top bar: what is open, and its plan's undo and redo. */
export interface Opened {
  partId: string;
  text: string;
  plan: { number: number; canUndo: boolean; canRedo: boolean } | null;
}

export const useOpened = create<{ opened: Opened | null; show: (o: Opened | null) => void }>((set) => ({
  opened: null,
  show: (opened) => set({ opened }),
}));
