'use client';

import { useQuery, useQueryClient } from '@tanstack/react-query';
import { RefreshCw } from 'lucide-react';
import Link from 'next/link';
import { useState } from 'react';
import { toast } from 'sonner';
import { API, getJson, sendJson } from '@/client/api';
import { undoGroup, useRefresh } from '@/client/queries';
import { useUndo } from '@/client/undo';
import type { Freshness, Item } from '@/contract';
import { useDocuments } from '@/documents/use-document';
import { Button } from '@/ui/button';
import { staleLine as texts } from './texts';

/** A kept fitting that would come out otherwise today: why, and the way to make it again as its next version. */
export function StaleLine({ item, mayChange }: { item: Item; mayChange: boolean }) {
  const { saved } = useDocuments();
  const client = useQueryClient();
  const refresh = useRefresh();
  const push = useUndo((s) => s.push);
  const [busy, setBusy] = useState(false);
  const { provenance } = item;
  const { data } = useQuery({
    queryKey: ['freshness', item.id, item.versionId],
    queryFn: () => getJson<Freshness | null>(`${API}/items/${item.id}/freshness`),
    enabled: provenance.how === 'fitting',
  });
  if (provenance.how !== 'fitting') return null;
  const again = async (): Promise<void> => {
    setBusy(true);
    try {
      await saved();
      const { group } = await sendJson<{ group: string }>('POST', `${API}/items/${item.id}/fit-again`, {
        seen: item.versionId,
      });
      push({ label: texts.fittedAgain(item.name), undo: () => undoGroup(group) });
      toast(texts.wasFittedAgainAnd(item.name));
      void client.invalidateQueries({ queryKey: ['freshness'] });
      refresh();
    } catch (error) {
      toast.error((error as Error).message);
    } finally {
      setBusy(false);
    }
  };
  return (
    <div className="px-1 text-[12px]">
      <Link
        href={`/fitting?item=${provenance.sourceItem}&cast=${provenance.character}`}
        className="text-brass-text underline decoration-line underline-offset-3 hover:decoration-brass"
      >
        {texts.itsFitting}
      </Link>
      {data && data.reasons.length > 0 && (
        <div className="mt-1 rounded-md border border-brass/60 px-2 py-1.5 text-brass-text" role="status">
          {texts.outOfDate(data.reasons.join('; '))}
          {mayChange && data.possible && (
            <Button size="tiny" className="mt-1 flex" disabled={busy} onClick={() => void again()}>
              <RefreshCw size={12} /> {busy ? texts.fitting : texts.fitAgain}
            </Button>
          )}
        </div>
      )}
    </div>
  );
}
