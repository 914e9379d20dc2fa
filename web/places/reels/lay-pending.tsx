'use client';

import { useEffect } from 'react';
import { toast } from 'sonner';
import { useItem } from '@/client/queries';
import { useStable } from '@/client/use-stable';
import type { Item } from '@/contract';

/** An item that was dropped is read before it can be laid, for its length has to be known. */
export function LayPending({ itemId, onItem }: { itemId: string; onItem: (item: Item) => void }) {
  const { data, error } = useItem(itemId);
  const lay = useStable(onItem);
  useEffect(() => {
    if (data) lay(data);
    else if (error) toast.error(error.message);
  }, [data, error, lay]);
  return null;
}
