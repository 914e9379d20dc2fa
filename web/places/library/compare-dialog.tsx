'use client';

import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { API, getJson } from '@/client/api';
import { usePerformer, useRig } from '@/client/queries';
import type { CastMember, Item, RigAnswer } from '@/contract';
import { Clock } from '@/stage/clock';
import { SoloStage, useShown } from '@/stage/solo-stage';
import { Transport } from '@/stage/transport';
import { Dialog } from '@/ui/dialog';
import { compareDialog as texts } from './texts';

/** A motion to be shown beside others. */
export interface Compared {
  key: string;
  title: string;
  about: string;
  item: Item;
}

/** Items side by side on the performer, in step: one clock for all. */
export function CompareDialog({
  open,
  onOpenChange,
  ids,
}: {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  ids: readonly string[];
}) {
  const { data = [] } = useQuery({
    queryKey: ['items', 'some', ids.join(',')],
    queryFn: () => getJson<Item[]>(`${API}/items/some?ids=${ids.slice(0, 6).join(',')}`),
    enabled: open,
  });
  return (
    <Dialog open={open} onOpenChange={onOpenChange} title={texts.sideBySide(data.length)} width={1200}>
      {open && (
        <SideBySide
          compared={data.map((item) => ({
            key: item.id,
            title: item.name,
            about: `${item.facts.frameCount} f · ${item.facts.durationS.toFixed(1)} s`,
            item,
          }))}
        />
      )}
    </Dialog>
  );
}

export function SideBySide({ compared }: { compared: readonly Compared[] }) {
  const [clock] = useState(() => new Clock());
  const { member, rig } = usePerformer();
  return (
    <>
      <div className="flex h-[52vh] gap-2">
        {compared.map((c) => (
          <figure key={c.key} aria-label={c.title} className="flex min-w-0 flex-1 flex-col">
            <div className="min-h-0 flex-1 overflow-hidden rounded-lg">
              <One clock={clock} item={c.item} member={member} performer={rig} />
            </div>
            <figcaption className="truncate pt-1 text-center font-medium">
              {c.title} <span className="font-normal text-muted">{c.about}</span>
            </figcaption>
          </figure>
        ))}
      </div>
      <div className="pt-2">
        <Transport clock={clock} />
      </div>
    </>
  );
}

function One({
  clock,
  item,
  member,
  performer,
}: {
  clock: Clock;
  item: Item;
  member: CastMember | undefined;
  performer: RigAnswer | undefined;
}) {
  const source = useRig(item.rigId);
  const target = performer ?? source.data;
  const { motion, error } = useShown(item, source.data, target);
  if (error) return <p className="p-3 text-raspberry">{error.message}</p>;
  if (!target) return <div className="stage-back h-full" />;
  return (
    <SoloStage clock={clock} member={performer ? member : undefined} rig={target} motion={motion} label={item.name} />
  );
}
