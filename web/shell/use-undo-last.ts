'use client';

import { useCallback } from 'react';
import { toast } from 'sonner';
import { undoGroup, useRefresh } from '@/client/queries';
import { redoStep, type Step, undoStep } from '@/client/undo';
import { useUndoLast as texts } from './texts';

/** Takes the newest change back, or does again what was taken back last, and says which one it was. */
export function useUndoLast(): { undo: () => Promise<void>; redo: () => Promise<void> } {
  const refresh = useRefresh();
  const go = useCallback(
    async (run: typeof undoStep, done: string, failed: string): Promise<void> => {
      let step: Step | undefined;
      try {
        step = await run(undoGroup);
        if (step) toast(`${done}: ${step.label}`);
      } catch (error) {
        toast.error(`${failed}: ${(error as Error).message}`);
      }
      refresh();
    },
    [refresh],
  );
  const undo = useCallback(() => go(undoStep, texts.undone, texts.thatCouldNotBe), [go]);
  const redo = useCallback(() => go(redoStep, texts.redone, texts.thatCouldNotBeRedone), [go]);
  return { undo, redo };
}
