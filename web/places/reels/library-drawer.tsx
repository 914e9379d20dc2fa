'use client';

import { useState } from 'react';
import { useItems } from '@/client/queries';
import { useStrip } from '@/client/strips';
import { useLater } from '@/client/use-later';
import type { Item, RigAnswer } from '@/contract';
import { kindOf } from '@/kinds/kinds';
import { MiniStrip } from '@/stage/mini-strip';
import { Button } from '@/ui/button';
import { inputLook } from '@/ui/field';
import { libraryDrawer as texts } from './texts';

/** Under which a dragged item travels. */
export const ITEM_TYPE = 'application/x-velvet-item';

const LISTED = 60;

/** The library within reach of a reel: found by typing, laid by a press, a key, or dragged onto a lane. */
export function LibraryDrawer({
  performer,
  onLay,
  onInsert,
  onOver,
  onPose,
}: {
  performer: RigAnswer | undefined;
  /** Undefined while nobody is there to lay it on. */
  onLay: ((item: Item) => void) | undefined;
  /** Lays it at the playhead; what follows moves on. */
  onInsert: ((item: Item) => void) | undefined;
  onOver: ((item: Item) => void) | undefined;
  /** Tries a frame of it as a pose. */
  onPose: ((item: Item) => void) | undefined;
}) {
  const [words, setWords] = useState('');
  const asked = useLater(words.trim(), 150);
  const { data, error } = useItems({ q: asked }, LISTED);
  const found = (data?.items ?? []).filter((i) => kindOf(i).fits);
  const more = (data?.found ?? 0) - (data?.items.length ?? 0);
  return (
    <div className="flex h-full flex-col gap-2">
      <input
        type="search"
        aria-label={texts.findAnItemTo}
        placeholder={texts.findByNameTag}
        className={`${inputLook} w-full`}
        value={words}
        onChange={(e) => setWords(e.target.value)}
      />
      {error && <p className="text-raspberry">{error.message}</p>}
      {data && found.length === 0 && <p className="text-muted">{texts.noItemFound}</p>}
      <ul className="-mr-2 min-h-0 flex-1 overflow-y-auto pr-2">
        {found.map((i) => (
          <Entry
            key={i.id}
            item={i}
            performer={performer}
            onLay={onLay}
            onInsert={onInsert}
            onOver={onOver}
            onPose={onPose}
          />
        ))}
        {more > 0 && <li className="py-1 text-[12px] text-muted">{texts.moreTypeToNarrowThe(more)}</li>}
      </ul>
    </div>
  );
}

const WIDE = 248;

function Entry({
  item,
  performer,
  onLay,
  onInsert,
  onOver,
  onPose,
}: {
  item: Item;
  performer: RigAnswer | undefined;
  onLay: ((item: Item) => void) | undefined;
  onInsert: ((item: Item) => void) | undefined;
  onOver: ((item: Item) => void) | undefined;
  onPose: ((item: Item) => void) | undefined;
}) {
  const strip = useStrip(item.readingId);
  return (
    <li
      draggable
      onDragStart={(e) => {
        e.dataTransfer.setData(ITEM_TYPE, item.id);
        e.dataTransfer.effectAllowed = 'copy';
      }}
      className="group relative mb-1 h-[66px] cursor-grab overflow-hidden rounded-md border border-line bg-raised px-2 py-1"
    >
      <span className="flex items-baseline gap-2">
        <span className="min-w-0 flex-1 truncate">{item.name}</span>
        <span className="shrink-0 text-[11.5px] text-muted">{item.facts.durationS.toFixed(1)} s</span>
      </span>
      {strip && performer && (
        <MiniStrip strip={strip} performer={performer} width={WIDE} height={42} from={0} to={1} laps={1} />
      )}
      <span className="absolute right-1.5 bottom-1.5 flex gap-1 opacity-0 group-focus-within:opacity-100 group-hover:opacity-100">
        {onLay && (
          <Button size="tiny" look="brass" onClick={() => onLay(item)} aria-label={texts.layBehind(item.name)}>
            {texts.lay}
          </Button>
        )}
        {onInsert && (
          <Button size="tiny" onClick={() => onInsert(item)} aria-label={texts.insertAtThePlayhead(item.name)}>
            {texts.insert}
          </Button>
        )}
        {onOver && (
          <Button size="tiny" onClick={() => onOver(item)} aria-label={texts.layOverTheBase(item.name)}>
            {texts.over}
          </Button>
        )}
        {onPose && (
          <Button size="tiny" onClick={() => onPose(item)} aria-label={texts.tryAPoseOf(item.name)}>
            {texts.pose}
          </Button>
        )}
        {/* a place for the focus to come to where neither can be had */}
        {!onLay && !onOver && <span className="text-[11.5px] text-muted">{texts.addACastMember}</span>}
      </span>
    </li>
  );
}
