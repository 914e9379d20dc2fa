'use client';

import type { FittingEdits } from '@velvet-reel/motion';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { toast } from 'sonner';
import { API, sendJson } from '@/client/api';
import { useRefresh } from '@/client/queries';
import { useUndo } from '@/client/undo';
import { useStable } from '@/client/use-stable';
import type { CastMember, Item } from '@/contract';
import { useDocuments } from '@/documents/use-document';
import type { FitSettings } from '@/wishes/wishes';
import { useKeep as texts } from './texts';

/** Keeps what is fitted as an item of the library, with everything it takes to make it again. */
export function useKeep(
  item: Item | undefined,
  member: CastMember | undefined,
  settings: FitSettings,
  edits: FittingEdits | undefined,
): { keep: () => void; keeping: boolean } {
  const { saved } = useDocuments();
  const router = useRouter();
  const refresh = useRefresh();
  const push = useUndo((s) => s.push);
  const [keeping, setKeeping] = useState(false);
  const run = async (): Promise<void> => {
    if (!item || !member || keeping) return;
    setKeeping(true);
    try {
      await saved();
      const kept = await sendJson<Item>('POST', `${API}/fittings`, {
        itemId: item.id,
        castId: member.id,
        name: texts.on(item.name, member.name),
        settings,
        ...(edits && { edits }),
      });
      push({
        label: texts.kept(kept.name),
        undo: () => sendJson('PATCH', `${API}/items/${kept.id}`, { change: { binned: true } }),
      });
      toast(texts.isInTheLibrary(kept.name), {
        action: { label: texts.show, onClick: () => router.push(`/library?item=${kept.id}`) },
      });
      refresh();
    } catch (e) {
      toast.error((e as Error).message);
    } finally {
      setKeeping(false);
    }
  };
  return { keep: useStable(() => void run()), keeping };
}
