'use client';

import { useCallback } from 'react';
import { toast } from 'sonner';
import { undoGroup, useRefresh } from '@/client/queries';
import { redoStep, type Step, undoStep } from '@/client/undo';

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
  const undo = useCallback(() => go(undoStep, 'Undone', 'That could not be undone'), [go]);
  const redo = useCallback(() => go(redoStep, 'Redone', 'That could not be redone'), [go]);
  return { undo, redo };
}
