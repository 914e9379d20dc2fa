'use client';

import { useQuery, useQueryClient } from '@tanstack/react-query';
import { formatDistanceToNow } from 'date-fns';
import { useState } from 'react';
import { toast } from 'sonner';
import { API, getJson, sendJson } from '@/client/api';
import { useRefresh } from '@/client/queries';
import { useMay } from '@/client/session';
import { useUndo } from '@/client/undo';
import type { HistoryEntry, Item, Version } from '@/contract';
import { kindOf } from '@/kinds/kinds';
import { Button } from '@/ui/button';
import { Chip } from '@/ui/chip';
import { Dialog } from '@/ui/dialog';
import { SideBySide } from './compare-dialog';
import { versionsDialog as texts } from './texts';

interface VersionsDialogProps {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  item: Item;
  onUndo: (group: string) => Promise<unknown>;
}

const ago = (date: string): string => formatDistanceToNow(new Date(date), { addSuffix: true });

/** All versions of an item, two of them side by side, and the history of its description. */
export function VersionsDialog({ open, onOpenChange, item, onUndo }: VersionsDialogProps) {
  const client = useQueryClient();
  const refresh = useRefresh();
  const push = useUndo((s) => s.push);
  const mayChange = useMay('animator');
  const { data: versions = [] } = useQuery({
    queryKey: ['versions', item.id],
    queryFn: () => getJson<Version[]>(`${API}/items/${item.id}/versions`),
    enabled: open,
  });
  const { data: history = [] } = useQuery({
    queryKey: ['history', item.id],
    queryFn: () => getJson<HistoryEntry[]>(`${API}/items/${item.id}/history`),
    enabled: open,
  });
  const [other, setOther] = useState<string | null>(null);
  const now = versions.find((v) => v.current);
  const beside = versions.find((v) => v.id === other && !v.current);
  const as = (v: Version): Item => ({ ...item, motionHash: v.motionHash, rigId: v.rigId, readingId: v.readingId });
  const restore = async (v: Version): Promise<void> => {
    try {
      await sendJson('POST', `${API}/items/${item.id}/versions/${v.id}/restore`, {});
      const before = now?.id;
      if (before)
        push({
          label: texts.restoredVersionOf(v.number, item.name),
          undo: () => sendJson('POST', `${API}/items/${item.id}/versions/${before}/restore`, {}),
        });
      client.setQueryData<Version[]>(['versions', item.id], (all) =>
        all?.map((x) => ({ ...x, current: x.id === v.id })),
      );
      // the two stay side by side, the other way round
      if (other === v.id) setOther(before ?? null);
      toast(texts.versionOfIsThe(v.number, item.name));
      refresh();
    } catch (e) {
      toast.error((e as Error).message);
    }
  };
  const takeBack = async (h: HistoryEntry): Promise<void> => {
    try {
      await onUndo(h.groupId);
      toast(`Undid: ${h.label}`);
      refresh();
    } catch (e) {
      toast.error((e as Error).message);
    }
  };
  return (
    <Dialog open={open} onOpenChange={onOpenChange} title={item.name} about={texts.versionsAndHistory} width={980}>
      {beside && now && (
        <div className="mb-4">
          <SideBySide
            compared={[beside, now].map((v) => ({
              key: v.id,
              title: texts.version(v.number),
              about: v.current ? texts.inForce : ago(v.createdAt),
              item: as(v),
            }))}
          />
        </div>
      )}
      <div className="grid grid-cols-2 gap-6">
        <section aria-label={texts.versions} className="flex flex-col gap-1.5">
          {!kindOf(item).versions && (
            <p className="text-muted">{texts.itHasNoVersionsSince(kindOf(item).instead ?? '')}</p>
          )}
          {versions.map((v) => (
            <div key={v.id} className="rounded-lg border border-line px-3 py-2">
              <div className="flex items-center gap-2">
                <span className="font-semibold">{texts.version3(v.number)}</span>
                {v.current && <Chip tone="brass">{texts.inForce}</Chip>}
                <span className="ml-auto text-[11.5px] text-muted">
                  {v.byName ?? texts.somebody}, {ago(v.createdAt)}
                </span>
              </div>
              <p className="text-muted">
                {texts.frameAt(v.frames)} {Number(v.fps.toFixed(2))}
                {v.note && ` · ${v.note}`}
              </p>
              {!v.current && (
                <div className="mt-1 flex gap-2">
                  <Button size="small" onClick={() => setOther(other === v.id ? null : v.id)}>
                    {other === v.id ? texts.hide : texts.compareWithCurrent}
                  </Button>
                  {mayChange && (
                    <Button size="small" onClick={() => void restore(v)}>
                      {texts.makeCurrent}
                    </Button>
                  )}
                </div>
              )}
            </div>
          ))}
        </section>
        <section aria-label={texts.history} className="flex max-h-[50vh] flex-col gap-1 overflow-auto">
          {history.map((h) => (
            <div key={h.seq} className="border-b border-line/50 pb-1">
              <div className="flex items-baseline gap-2">
                <span className="font-medium">{h.personName}</span>
                <span className="text-[11.5px] text-muted">{ago(h.at)}</span>
                {mayChange && h.before && (
                  <button
                    type="button"
                    onClick={() => void takeBack(h)}
                    className="ml-auto text-[11.5px] text-brass-text hover:underline"
                  >
                    {texts.undoThis}
                  </button>
                )}
              </div>
              <p className="text-muted">{h.label || h.action}</p>
            </div>
          ))}
        </section>
      </div>
    </Dialog>
  );
}
