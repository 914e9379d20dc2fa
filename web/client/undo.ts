'use client';

import { create } from 'zustand';

export interface Step {
  /** What was done, as a sentence: "Renamed to Deck walk". */
  label: string;
  /** Takes it back. What is answered may name the group of changes that this made: taking that back does the step again. */
  undo: () => unknown;
  /** Does it again; where it is left out, what `undo` answers says how. */
  redo?: () => unknown;
}

interface UndoStore {
  /** What this person did in this window, newest last. */
  steps: Step[];
  /** What was taken back and can be done again, newest last. */
  undone: Step[];
  push: (step: Step) => void;
}

const MOST = 100;

export const useUndo = create<UndoStore>((set) => ({
  steps: [],
  undone: [],
  // whoever does something new leaves what was taken back behind
  push: (step) => set((s) => ({ steps: [...s.steps.slice(1 - MOST), step], undone: [] })),
}));

const groupOf = (answer: unknown): string | undefined => {
  const group = (answer as { group?: unknown } | null | undefined)?.group;
  return typeof group === 'string' ? group : undefined;
};

/** One at a time: whoever presses twice takes back two steps, in order. */
let last: Promise<unknown> = Promise.resolve();
const inTurn = <T>(run: () => Promise<T>): Promise<T> => {
  const done = last.then(run);
  last = done.catch(() => undefined);
  return done;
};

/**
 * Takes the newest step back. A step that cannot be taken back stays where it is.
 * @param undoGroup takes a group of changes back on the server
 * @returns the step, or undefined where there is none
 * @throws what the step throws
 */
export const undoStep = (undoGroup: (group: string) => Promise<unknown>): Promise<Step | undefined> =>
  inTurn(async () => {
    const step = useUndo.getState().steps.at(-1);
    if (!step) return undefined;
    const group = groupOf(await step.undo());
    const redo = step.redo ?? (group === undefined ? undefined : () => undoGroup(group));
    useUndo.setState((s) => ({
      steps: s.steps.filter((x) => x !== step),
      // what lies beyond a step that cannot be done again cannot either
      undone: redo ? [...s.undone, { ...step, redo }] : [],
    }));
    return step;
  });

/** Does again what was taken back last. See undoStep. */
export const redoStep = (undoGroup: (group: string) => Promise<unknown>): Promise<Step | undefined> =>
  inTurn(async () => {
    const step = useUndo.getState().undone.at(-1);
    if (!step?.redo) return undefined;
    const { redo, ...again } = step;
    const group = groupOf(await redo());
    // where the server did it, taking back that is the way back now
    const next: Step = group === undefined ? step : { ...again, undo: () => undoGroup(group) };
    useUndo.setState((s) => ({ steps: [...s.steps, next], undone: s.undone.filter((x) => x !== step) }));
    return step;
  });
