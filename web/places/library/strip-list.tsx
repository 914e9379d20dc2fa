'use client';

import { useVirtualizer } from '@tanstack/react-virtual';
import { clsx } from 'clsx';
import { useEffect, useRef, useState } from 'react';
import { useRig } from '@/client/queries';
import { useStrip } from '@/client/strips';
import type { Item, RigAnswer } from '@/client/types';
import type { Clock } from '@/stage/clock';
import { StripCanvas } from '@/stage/strip-canvas';
import { Chip } from '@/ui/chip';

const ROW = 132;

interface StripListProps {
  items: Item[];
  chosenId: string | undefined;
  performer: RigAnswer | undefined;
  clock: Clock;
  onChoose: (item: Item) => void;
  /** Which item is pointed at and where along it, 0 … 1. */
  onPoint: (item: Item | null, share: number | null) => void;
  onOpen: (item: Item) => void;
}

export function StripList({ items, chosenId, performer, clock, onChoose, onPoint, onOpen }: StripListProps) {
  const scroller = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  const rows = useVirtualizer({
    count: items.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 4,
  });
  useEffect(() => {
    const node = scroller.current;
    if (!node) return;
    const watch = new ResizeObserver(() => setWidth(node.clientWidth));
    watch.observe(node);
    return () => watch.disconnect();
  }, []);
  useEffect(() => {
    const at = items.findIndex((i) => i.id === chosenId);
    if (at >= 0) rows.scrollToIndex(at, { align: 'auto' });
  }, [chosenId, items, rows]);
  return (
    <div
      ref={scroller}
      className="h-full overflow-y-auto px-4 pt-1 pb-4"
      role="listbox"
      aria-label="Strips"
      tabIndex={0}
    >
      <div className="relative" style={{ height: rows.getTotalSize() }}>
        {rows.getVirtualItems().map((row) => {
          const item = items[row.index]!;
          return (
            <div key={item.id} className="absolute inset-x-0" style={{ top: row.start, height: ROW - 8 }}>
              <StripRow
                item={item}
                chosen={item.id === chosenId}
                width={width - 32 - 24}
                performer={performer}
                clock={clock}
                onChoose={onChoose}
                onPoint={onPoint}
                onOpen={onOpen}
              />
            </div>
          );
        })}
      </div>
    </div>
  );
}

interface RowProps extends Omit<StripListProps, 'items' | 'chosenId'> {
  item: Item;
  chosen: boolean;
  width: number;
}

function StripRow({ item, chosen, width, performer, clock, onChoose, onPoint, onOpen }: RowProps) {
  const strip = useStrip(item.versionId);
  // with nobody on hand a motion is drawn on its own skeleton
  const own = useRig(performer ? null : item.rigId);
  const body = performer ?? own.data;
  const playedBefore = useRef(true);
  const inside = useRef(false);
  const scrub = (share: number | null): void => {
    if (share === null) {
      inside.current = false;
      onPoint(null, null);
      clock.setPlaying(playedBefore.current);
      return;
    }
    if (!inside.current) {
      inside.current = true;
      playedBefore.current = clock.playing;
      clock.setPlaying(false);
    }
    onPoint(item, share);
  };
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: the arrow keys choose, F opens
    <div
      role="option"
      aria-selected={chosen}
      tabIndex={-1}
      onClick={() => onChoose(item)}
      onDoubleClick={() => onOpen(item)}
      className={clsx(
        'h-full cursor-default rounded-lg border bg-panel px-3 pt-2',
        chosen ? 'border-brass' : 'border-line hover:border-muted',
      )}
    >
      <div className="flex h-5 items-center gap-2">
        <span className="truncate font-semibold">{item.name}</span>
        <Chip>{item.kind}</Chip>
        <span className="min-w-0 truncate text-[11.5px] text-muted">{item.tags.join(' · ')}</span>
        <span className="ml-auto shrink-0 text-[11.5px] whitespace-nowrap text-muted">
          {item.facts.frameCount} f · {item.facts.durationS.toFixed(1)} s
        </span>
      </div>
      {strip && body && width > 60 ? (
        <StripCanvas strip={strip} performer={body} width={width} height={ROW - 8 - 32} onScrub={scrub} />
      ) : (
        <div className="mt-3 h-16 animate-pulse rounded bg-raised/60" />
      )}
    </div>
  );
}
