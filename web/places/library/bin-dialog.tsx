'use client';

import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { toast } from 'sonner';
import { API, getJson, sendJson } from '@/client/api';
import { useRefresh } from '@/client/queries';
import { Button } from '@/ui/button';
import { Dialog } from '@/ui/dialog';
import { SwitchRow } from '@/ui/field';
import { binDialog as texts } from './texts';

interface BinDialogProps {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  /** Everything in the bin where left out. */
  ids: readonly string[] | undefined;
}

/** The one question of the library: destroying cannot be taken back. */
export function BinDialog({ open, onOpenChange, ids }: BinDialogProps) {
  const refresh = useRefresh();
  const [evenInUse, setEvenInUse] = useState(false);
  const [busy, setBusy] = useState(false);
  const { data, error } = useQuery({
    queryKey: ['items', 'bin-uses', ids?.join(',') ?? 'all'],
    queryFn: async () => {
      const wanted = ids ?? (await getJson<{ ids: string[] }>(`${API}/items/ids?bin=1`)).ids;
      const used =
        wanted.length === 0
          ? []
          : await sendJson<{ id: string; name: string; by: string[] }[]>('POST', `${API}/bin/uses`, {
              ids: wanted.slice(0, 5000),
            });
      return { wanted: wanted.slice(0, 5000), used };
    },
    enabled: open,
    staleTime: 0,
  });
  const used = new Set(data?.used.map((u) => u.id));
  const going = data ? data.wanted.filter((id) => evenInUse || !used.has(id)) : [];
  const destroy = async (): Promise<void> => {
    setBusy(true);
    try {
      const done = await sendJson<{ destroyed: number }>('POST', `${API}/bin/destroy`, { ids: going, evenInUse });
      toast(texts.destroyedForGood(done.destroyed));
      refresh();
      onOpenChange(false);
    } catch (e) {
      toast.error((e as Error).message);
    } finally {
      setBusy(false);
    }
  };
  return (
    <Dialog
      open={open}
      onOpenChange={onOpenChange}
      title={texts.destroyForGood}
      about={texts.thisCannotBeTaken}
      width={500}
    >
      {error && <p className="text-raspberry">{error.message}</p>}
      {!data && !error && <p className="text-muted">{texts.checkingWhereTheyAre}</p>}
      {data && (
        <div className="flex flex-col gap-3">
          <p>
            {texts.itemInTheBin(data.wanted.length)}
            {data.used.length > 0 ? texts.ofThemInUse(data.used.length) : texts.noneInUse}.
          </p>
          {data.used.length > 0 && (
            <>
              <ul className="max-h-48 overflow-auto rounded-md border border-line p-2">
                {data.used.slice(0, 100).map((u) => (
                  <li key={u.id} className="truncate">
                    {u.name} <span className="text-muted">{texts.usedBy(u.by.slice(0, 4).join(', '))}</span>
                  </li>
                ))}
              </ul>
              <SwitchRow label={texts.destroyTheOnesIn} checked={evenInUse} onChange={setEvenInUse} />
              <p className="text-muted">{texts.whatWasMadeFrom}</p>
            </>
          )}
          <Button look="brass" disabled={busy || going.length === 0} onClick={() => void destroy()}>
            {busy ? texts.destroying : texts.destroy(going.length)}
          </Button>
        </div>
      )}
    </Dialog>
  );
}
