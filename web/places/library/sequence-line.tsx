'use client';

import { useQueryClient } from '@tanstack/react-query';
import { ChevronsRight, Plus, X } from 'lucide-react';
import { Popover } from 'radix-ui';
import { useState } from 'react';
import { toast } from 'sonner';
import { API, sendJson } from '@/client/api';
import { useUndo } from '@/client/undo';
import type { Item } from '@/contract';
import { kindOf } from '@/kinds/kinds';
import { ItemPicker } from '@/parts/item-picker';
import { IconButton } from '@/ui/button';
import { sequenceLine as texts } from './texts';

export type Step = [from: string, to: string];

/** Puts items in sequence, or takes steps out of one; both can be taken back. */
export function useSteps(): (steps: readonly Step[], follow: boolean, label: string) => Promise<void> {
  const client = useQueryClient();
  const push = useUndo((s) => s.push);
  return async (steps, follow, label) => {
    const send = async (which: readonly Step[], on: boolean): Promise<Step[]> => {
      const { changed } = await sendJson<{ changed: Step[] }>('POST', `${API}/sequences`, { steps: which, follow: on });
      void client.invalidateQueries({ queryKey: ['uses'] });
      return changed;
    };
    try {
      const changed = await send(steps, follow);
      if (changed.length === 0) toast(texts.itAlreadyDoes);
      else push({ label, undo: () => send(changed, !follow) });
    } catch (e) {
      toast.error((e as Error).message);
    }
  };
}

interface Named {
  id: string;
  name: string;
}

/** What an item goes on into and what goes on into it, to be followed, added to and taken apart. */
export function SequenceLine({
  item,
  next,
  before,
  closed,
  playingOn,
  onShow,
  onPlayOn,
}: {
  item: Item;
  next: readonly Named[];
  before: readonly Named[];
  closed: boolean;
  playingOn: boolean;
  onShow: (id: string) => void;
  onPlayOn: () => void;
}) {
  const setSteps = useSteps();
  const [adding, setAdding] = useState(false);
  if (!kindOf(item).joins || (closed && next.length + before.length === 0)) return null;
  const leave = (from: Named, to: Named): void =>
    void setSteps([[from.id, to.id]], false, texts.noLongerLeadsTo(from.name, to.name));
  return (
    <div className="flex flex-col gap-0.5">
      <div className="flex flex-wrap items-center gap-x-2">
        <span className="text-muted">{next.length > 0 ? texts.leadsTo : texts.leadsToNothingYet}</span>
        {next.map((n) => (
          <Named key={n.id} item={n} onShow={onShow} onLeave={closed ? undefined : () => leave(item, n)} />
        ))}
        {!closed && (
          <Popover.Root open={adding} onOpenChange={setAdding}>
            <Popover.Trigger
              aria-label={texts.chooseWhatLeadsTo(item.name)}
              title={texts.chooseWhatComesNext}
              className="rounded p-1 text-muted hover:text-ink"
            >
              <Plus size={13} />
            </Popover.Trigger>
            <Popover.Portal>
              <Popover.Content
                side="top"
                align="start"
                className="z-50 w-72 rounded-lg border border-line bg-panel p-2 shadow-xl"
              >
                <ItemPicker
                  label={texts.whatLeadsTo(item.name)}
                  nothing={texts.noItemWithThat}
                  fits={(i) => i.id !== item.id && !next.some((n) => n.id === i.id)}
                  onPick={(i) => {
                    setAdding(false);
                    void setSteps([[item.id, i.id]], true, texts.leadsTo2(item.name, i.name));
                  }}
                />
              </Popover.Content>
            </Popover.Portal>
          </Popover.Root>
        )}
        {next.length > 0 && (
          <IconButton
            label={playingOn ? texts.stopPlayingOn : texts.playThisThenWhat}
            quiet
            pressed={playingOn}
            onClick={onPlayOn}
          >
            <ChevronsRight size={14} />
          </IconButton>
        )}
      </div>
      {before.length > 0 && (
        <div className="flex flex-wrap items-center gap-x-2">
          <span className="text-muted">{texts.comesAfter}</span>
          {before.map((b) => (
            <Named key={b.id} item={b} onShow={onShow} onLeave={closed ? undefined : () => leave(b, item)} />
          ))}
        </div>
      )}
    </div>
  );
}

function Named({
  item,
  onShow,
  onLeave,
}: {
  item: Named;
  onShow: (id: string) => void;
  onLeave: (() => void) | undefined;
}) {
  return (
    <span className="inline-flex max-w-full min-w-0 items-center">
      <button
        type="button"
        className="truncate text-brass-text underline decoration-line underline-offset-3 hover:decoration-brass"
        onClick={() => onShow(item.id)}
      >
        {item.name}
      </button>
      {onLeave && (
        <button
          type="button"
          aria-label={texts.removeFromTheSequence(item.name)}
          title={texts.removeThisStepFrom}
          className="rounded p-0.5 text-muted hover:text-ink"
          onClick={onLeave}
        >
          <X size={12} />
        </button>
      )}
    </span>
  );
}
