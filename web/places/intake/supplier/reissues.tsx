'use client';

import Link from 'next/link';
import { useState } from 'react';
import { toast } from 'sonner';
import { API, sendJson } from '@/client/api';
import { useRefresh } from '@/client/queries';
import { Button } from '@/ui/button';
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
      toast('On its way. Intake shows its progress.');
    } catch (e) {
      setAsked(asked);
      toast.error((e as Error).message);
    }
    refresh();
    onFetched();
  };
  if (!linked) return <p className="text-muted">Link an account to hear of new issues of what you own.</p>;
  if (error) return <p className="text-raspberry">{error.message}</p>;
  if (isLoading) return <p className="text-muted">Looking …</p>;
  if (!data || data.length === 0) return <p className="text-muted">Everything here is up to date.</p>;
  const open = data.filter((r) => !asked.includes(r.take));
  return (
    <div className="flex flex-col gap-2">
      <p className="text-muted">
        A new issue becomes the next version of its item. What was made from the old one stays as it is and says that it
        is out of date; the old version can be restored.
      </p>
      {data.map((r) => (
        <div key={r.take} className="rounded-lg border border-line px-3 py-2">
          <div className="flex items-center gap-3">
            <Link href={`/library?item=${r.item.id}`} className="font-semibold text-brass-text hover:underline">
              {r.item.name}
            </Link>
            <span className="text-muted">
              issue {r.from} → {r.to}
            </span>
            <span className="ml-auto" />
            <Button size="small" disabled={!mayFetch || asked.includes(r.take)} onClick={() => void take([r.take])}>
              {asked.includes(r.take) ? 'On its way …' : 'Take the new issue'}
            </Button>
          </div>
          <ul className="mt-1 list-disc pl-5">
            {r.changes.map((c) => (
              <li key={c}>{c}</li>
            ))}
          </ul>
          {r.changedHere && (
            <p className="text-brass-text">
              The version in force was changed here: the new issue takes its place, and it stays among the versions.
            </p>
          )}
          <p className="text-[12.5px] text-muted">
            {r.usedBy.length === 0
              ? 'Nothing uses the old one.'
              : `Used by ${r.usedBy.slice(0, NAMES_SHOWN).join(', ')}${r.usedBy.length > NAMES_SHOWN ? ` and ${r.usedBy.length - NAMES_SHOWN} more` : ''}.`}
          </p>
        </div>
      ))}
      {open.length > 1 && (
        <Button disabled={!mayFetch} onClick={() => void take(open.map((r) => r.take))}>
          Take all of them
        </Button>
      )}
    </div>
  );
}
