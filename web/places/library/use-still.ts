'use client';

import { toast } from 'sonner';
import { API, sendFile } from '@/client/api';
import { undoGroup, useRefresh } from '@/client/queries';
import type { Item } from '@/client/types';
import { useUndo } from '@/client/undo';
import type { Clock } from '@/stage/clock';

const SIDE = 480;

/** The stage as it is now, without anything laid over it, cut to a picture. */
async function pictureOfStage(clock: Clock): Promise<Blob> {
  const canvas = document.querySelector<HTMLCanvasElement>('section[aria-label="Stage"] canvas');
  if (!canvas) throw new Error('There is nothing on the stage to take a picture of.');
  clock.seekFrame(clock.frame);
  // drawn once more within the same turn, so that the buffer still holds the picture
  await new Promise((r) => requestAnimationFrame(r));
  const scale = Math.min(1, SIDE / Math.max(canvas.width, canvas.height));
  const out = document.createElement('canvas');
  out.width = Math.max(1, Math.round(canvas.width * scale));
  out.height = Math.max(1, Math.round(canvas.height * scale));
  out.getContext('2d')!.drawImage(canvas, 0, 0, out.width, out.height);
  return new Promise((resolve, reject) =>
    out.toBlob((b) => (b ? resolve(b) : reject(new Error('The picture could not be taken.'))), 'image/png'),
  );
}

/** Takes the picture of an item from the stage; taking it again puts the new one in its place. */
export function useStill(item: Item, clock: Clock): () => Promise<void> {
  const refresh = useRefresh();
  const push = useUndo((s) => s.push);
  return async () => {
    try {
      const file = new File([await pictureOfStage(clock)], 'still.png', { type: 'image/png' });
      const { group } = await sendFile<{ group: string }>(
        'PUT',
        `${API}/items/${item.id}/still`,
        file,
        undefined,
        () => undefined,
        new AbortController().signal,
      );
      push({ label: `Took a picture of ${item.name}`, undo: () => undoGroup(group) });
      toast('The picture is taken; tiles show it');
      refresh();
    } catch (e) {
      toast.error((e as Error).message);
    }
  };
}
