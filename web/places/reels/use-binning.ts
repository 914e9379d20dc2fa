'use client';

import { toast } from 'sonner';
import { API, sendJson } from '@/client/api';
import { useRefresh } from '@/client/queries';
import { useUndo } from '@/client/undo';
import { useBinning as texts } from './texts';

/** Moves documents of a kind to the bin and back, each a step that can be taken back. */
export function useBinning(path: 'reels' | 'plays') {
  const refresh = useRefresh();
  const push = useUndo((s) => s.push);
  return async ({ id, name }: { id: string; name: string }, binned: boolean): Promise<void> => {
    const put = (to: boolean) => sendJson('PUT', `${API}/${path}/${id}/bin`, { binned: to }).then(refresh);
    try {
      await put(binned);
      push({
        label: binned ? texts.movedToTheBin(name) : texts.broughtBack(name),
        undo: () => put(!binned),
        redo: () => put(binned),
      });
    } catch (e) {
      toast.error((e as Error).message);
    }
  };
}
