'use client';

import { Plus, Trash2, Undo2, Workflow } from 'lucide-react';
import { usePlays } from '@/client/queries';
import { many } from '@/naming/counts';
import { Button, IconButton } from '@/ui/button';
import { playList as texts } from '../texts';
import { useBinning } from '../use-binning';

/** The play-throughs there are, below the reels. */
export function PlayList({
  bin,
  mayChange,
  onOpen,
  onNew,
}: {
  bin: boolean;
  mayChange: boolean;
  onOpen: (id: string) => void;
  onNew: () => void;
}) {
  const { data = [] } = usePlays(bin);
  const move = useBinning('plays');
  if (bin && data.length === 0) return null;
  return (
    <section aria-label={texts.playThroughs} className="mt-7">
      <div className="mb-3 flex items-center gap-3">
        <h2 className="heading text-xl">{texts.playThroughs}</h2>
        <span className="text-muted">{data.length}</span>
        {mayChange && !bin && (
          <Button className="ml-auto" onClick={onNew}>
            <Plus size={14} className="mr-1 inline" /> {texts.newPlayThrough}
          </Button>
        )}
      </div>
      {data.length === 0 && <p className="text-muted">{texts.aPlayThroughTurns}</p>}
      <ul className="grid grid-cols-[repeat(auto-fill,minmax(300px,1fr))] gap-3">
        {data.map((play) => (
          <li key={play.id} className="relative">
            <button
              type="button"
              onClick={() => onOpen(play.id)}
              className="flex w-full items-center gap-3 rounded-xl border border-line bg-panel p-3 text-left hover:border-brass"
            >
              <Workflow size={22} strokeWidth={1.4} className="shrink-0 text-brass" />
              <span className="min-w-0">
                <span className="heading block truncate pr-8 text-[16px]">{play.name}</span>
                <span className="block text-[12px] text-muted">
                  {play.cast?.name ?? texts.nobodyYet} · {many(play.states, 'state')}, {many(play.ways, 'way')}
                  {play.changedByName && ` · ${play.changedByName}`}
                </span>
              </span>
            </button>
            {mayChange && (
              <span className="absolute top-2 right-2">
                <IconButton
                  label={bin ? texts.bringBack(play.name) : texts.moveToTheBin(play.name)}
                  onClick={() => void move(play, !bin)}
                  quiet
                >
                  {bin ? <Undo2 size={14} /> : <Trash2 size={14} />}
                </IconButton>
              </span>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
