'use client';

import Link from 'next/link';
import { useState } from 'react';
import { toast } from 'sonner';
import { API, sendJson } from '@/client/api';
import { useRefresh } from '@/client/queries';
import { Button } from '@/ui/button';
import { reissues as texts } from '../texts';
import { useReissues } from './use-supplier';

const NAMES_SHOWN = 6;

/** Takes of which the supplier has a newer issue: what changed, and who uses the one here. */
export function Reissues({
  linked,
  mayFetch,
  onFetched,
}: {
  linked: boolean;
  mayFetch: boolean;
  onFetched: () => void;
}) {
  const { data, error, isLoading } = useReissues(linked);
  const [asked, setAsked] = useState<readonly string[]>([]);
  const refresh = useRefresh();
  const take = async (takes: readonly string[]): Promise<void> => {
    setAsked([...asked, ...takes]);
    try {
      await sendJson('POST', `${API}/supplier/reissues`, { takes });
      toast(texts.onItsWayIntake);
    } catch (e) {
      setAsked(asked);
      toast.error((e as Error).message);
    }
    refresh();
    onFetched();
  };
  if (!linked) return <p className="text-muted">{texts.linkAnAccountTo}</p>;
  if (error) return <p className="text-raspberry">{error.message}</p>;
  if (isLoading) return <p className="text-muted">{texts.looking}</p>;
  if (!data || data.length === 0) return <p className="text-muted">{texts.everythingHereIsUp}</p>;
  const open = data.filter((r) => !asked.includes(r.take));
  return (
    <div className="flex flex-col gap-2">
      <p className="text-muted">{texts.aNewIssueBecomes}</p>
      {data.map((r) => (
        <div key={r.take} className="rounded-lg border border-line px-3 py-2">
          <div className="flex items-center gap-3">
            <Link href={`/library?item=${r.item.id}`} className="font-semibold text-brass-text hover:underline">
              {r.item.name}
            </Link>
            <span className="text-muted">{texts.issue(r.from, r.to)}</span>
            <span className="ml-auto" />
            <Button size="small" disabled={!mayFetch || asked.includes(r.take)} onClick={() => void take([r.take])}>
              {asked.includes(r.take) ? texts.onItsWay : texts.takeTheNewIssue}
            </Button>
          </div>
          <ul className="mt-1 list-disc pl-5">
            {r.changes.map((c) => (
              <li key={c}>{c}</li>
            ))}
          </ul>
          {r.changedHere && <p className="text-brass-text">{texts.theVersionInForce}</p>}
          <p className="text-[12.5px] text-muted">
            {r.usedBy.length === 0
              ? texts.nothingUsesTheOld
              : texts.usedBy(
                  r.usedBy.slice(0, NAMES_SHOWN).join(', '),
                  r.usedBy.length > NAMES_SHOWN ? texts.andMore(r.usedBy.length - NAMES_SHOWN) : '',
                )}
          </p>
        </div>
      ))}
      {open.length > 1 && (
        <Button disabled={!mayFetch} onClick={() => void take(open.map((r) => r.take))}>
          {texts.takeAllOfThem}
        </Button>
      )}
    </div>
  );
}
