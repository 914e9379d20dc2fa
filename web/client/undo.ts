'use client';

import { create } from 'zustand';

export interface Step {
  /** What was done, as a sentence: "Renamed to Deck walk". */
  label: string;
  undo: () => unknown;
}

interface UndoStore {
  steps: Step[];
  push: (step: Step) => void;
  pop: () => Step | undefined;
}

/** What this person did in this window, newest last. */
export const useUndo = create<UndoStore>((set, get) => ({
  steps: [],
  push: (step) => set((s) => ({ steps: [...s.steps.slice(-99), step] })),
  pop: () => {
    const step = get().steps.at(-1);
    if (step) set((s) => ({ steps: s.steps.slice(0, -1) }));
    return step;
  },
}));
