'use client';

import { useCallback } from 'react';
import { toast } from 'sonner';
import { useRefresh } from '@/client/queries';
import { useUndo } from '@/client/undo';

/** Takes the newest change back and says which one it was. */
export function useUndoLast(): () => Promise<void> {
  const pop = useUndo((s) => s.pop);
  const refresh = useRefresh();
  return useCallback(async () => {
    const step = pop();
    if (!step) return;
    try {
      await step.undo();
      toast(`Undone: ${step.label}`);
    } catch (error) {
      toast.error(`That could not be undone: ${(error as Error).message}`);
    }
    refresh();
  }, [pop, refresh]);
}
