'use client';

import { toast } from 'sonner';
import { API, sendFile } from '@/client/api';
import { undoGroup, useRefresh } from '@/client/queries';
import { useUndo } from '@/client/undo';
import type { Item } from '@/contract';
import type { Photographed } from '@/stage/shutter';
import { useStill as texts } from './texts';

const SIDE = 480;

/** The stage as it is now, without anything laid over it, as a picture. */
async function pictureOfStage(): Promise<Blob> {
  const canvas = document.querySelector<Photographed>('section[aria-label="Stage"] canvas');
  const picture = canvas?.takePicture?.(SIDE);
  if (!picture) throw new Error(texts.thereIsNothingOn);
  return new Promise((resolve, reject) =>
    picture.toBlob((b) => (b ? resolve(b) : reject(new Error(texts.thePictureCouldNot))), 'image/png'),
  );
}

/** Takes the picture of an item from the stage; taking it again puts the new one in its place. */
export function useStill(item: Item): () => Promise<void> {
  const refresh = useRefresh();
  const push = useUndo((s) => s.push);
  return async () => {
    try {
      const file = new File([await pictureOfStage()], 'still.png', { type: 'image/png' });
      const { group } = await sendFile<{ group: string }>(
        'PUT',
        `${API}/items/${item.id}/still`,
        file,
        undefined,
        () => undefined,
        new AbortController().signal,
      );
      push({ label: texts.tookAPictureOf(item.name), undo: () => undoGroup(group) });
      toast(texts.pictureTakenTilesShow);
      refresh();
    } catch (e) {
      toast.error((e as Error).message);
    }
  };
}
