'use client';

import { useQuery, useQueryClient } from '@tanstack/react-query';
import { formatDistanceToNow } from 'date-fns';
import { RefreshCw } from 'lucide-react';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { toast } from 'sonner';
import { API, getJson, sendJson } from '@/client/api';
import { undoGroup, useRefresh } from '@/client/queries';
import { useUndo } from '@/client/undo';
import type { CastFitting, CastMember, Item } from '@/contract';
import { useDocuments } from '@/documents/use-document';
import { Button } from '@/ui/button';
import { Chip } from '@/ui/chip';
import { madeTab as texts } from '../texts';

/** What was made for a character; fittings that would come out otherwise today are told, never changed by themselves. */
export function MadeTab({ member, mayChange }: { member: CastMember; mayChange: boolean }) {
  const { saved } = useDocuments();
  const client = useQueryClient();
  const refresh = useRefresh();
  const push = useUndo((s) => s.push);
  const router = useRouter();
  const [busy, setBusy] = useState(false);
  const { data, error } = useQuery({
    queryKey: ['cast-fittings', member.id],
    queryFn: () => getJson<CastFitting[]>(`${API}/cast/${member.id}/fittings`),
  });
  const stale = (data ?? []).filter((f) => f.reasons.length > 0);
  const one = async (f: CastFitting): Promise<void> => {
    const item = await getJson<Item>(`${API}/items/${f.id}`);
    await saved();
    const { group } = await sendJson<{ group: string }>('POST', `${API}/items/${f.id}/fit-again`, {
      seen: item.versionId,
    });
    push({ label: texts.fittedAgain(f.name), undo: () => undoGroup(group) });
  };
  const all = async (list: readonly CastFitting[]): Promise<void> => {
    await saved();
    const job = await sendJson<{ id: string; parts: number }>('POST', `${API}/jobs/fit-again`, {
      itemIds: list.map((f) => f.id),
    });
    push({
      label: texts.fittedAgain2(job.parts),
      undo: async () => {
        // what is not done yet is not begun any more
        await sendJson('POST', `${API}/jobs/${job.id}/cancel`, {}).catch(() => undefined);
        await undoGroup(job.id);
      },
    });
    toast(texts.fittingAgainInOne(job.parts), {
      action: { label: texts.report, onClick: () => router.push(`/intake?job=${job.id}`) },
    });
  };
  const again = async (list: readonly CastFitting[]): Promise<void> => {
    setBusy(true);
    try {
      await (list.length === 1 ? one(list[0]!) : all(list));
    } catch (e) {
      toast.error((e as Error).message);
    }
    setBusy(false);
    void client.invalidateQueries({ queryKey: ['cast-fittings'] });
    refresh();
  };
  if (error) return <p className="text-raspberry">{error.message}</p>;
  if (!data) return <p className="text-muted">{texts.looking}</p>;
  return (
    <div className="flex flex-col gap-2">
      <p>
        <Link
          className="text-brass-text underline decoration-line underline-offset-3 hover:decoration-brass"
          href={`/library?q=${encodeURIComponent(`made:"${member.name}"`)}`}
        >
          {texts.everythingMadeFor(member.name)}
        </Link>
      </p>
      {data.length === 0 && (
        <p className="text-muted">
          {texts.noFittingsForIt}{' '}
          <Link
            className="text-brass-text underline decoration-line underline-offset-3 hover:decoration-brass"
            href={`/fitting?cast=${member.id}`}
          >
            {texts.fitAMotion}
          </Link>
        </p>
      )}
      {stale.length > 0 && (
        <div className="rounded-lg border border-brass/60 px-2.5 py-2">
          <p>{texts.ofAreOutOf(stale.length, data.length)}</p>
          {mayChange && (
            <Button className="mt-1.5" disabled={busy} onClick={() => void again(stale.filter((f) => f.possible))}>
              <RefreshCw size={13} /> {busy ? texts.starting : texts.fitAllOfThem}
            </Button>
          )}
        </div>
      )}
      <ul className="flex flex-col gap-1">
        {data.map((f) => (
          <li key={f.id} className="rounded border border-line px-2 py-1">
            <div className="flex items-center gap-2">
              <Link href={`/library?item=${f.id}`} className="min-w-0 flex-1 truncate hover:text-brass-text">
                {f.name}
              </Link>
              {f.reasons.length > 0 && <Chip tone="brass">{texts.outOfDate}</Chip>}
            </div>
            <p className="truncate text-[12px] text-muted">
              {texts.from}{' '}
              <Link href={`/fitting?item=${f.sourceId}&cast=${member.id}`} className="hover:text-ink hover:underline">
                {f.sourceName}
              </Link>
              , {formatDistanceToNow(new Date(f.madeAt), { addSuffix: true })}
            </p>
            {f.reasons.length > 0 && (
              <p className="text-[12px] text-brass-text">
                {f.reasons.join('; ')}
                {mayChange && f.possible && (
                  <button type="button" className="ml-2 underline" disabled={busy} onClick={() => void again([f])}>
                    {texts.fitAgain}
                  </button>
                )}
              </p>
            )}
          </li>
        ))}
      </ul>
    </div>
  );
}
