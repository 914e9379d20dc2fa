'use client';

import { Command } from 'cmdk';
import { ChevronDown } from 'lucide-react';
import { Popover } from 'radix-ui';
import { useState } from 'react';
import { useItems } from '@/client/queries';
import { useLater } from '@/client/use-later';
import type { Item } from '@/contract';
import { kindOf } from '@/kinds/kinds';
import { findMotion as texts } from './texts';

/** So many of what is found are listed; more are found by typing. */
const LISTED = 60;

/** Chooses one motion out of the whole library: a list that opens, and narrows by what is typed. */
export function FindMotion({ chosen, onChoose }: { chosen: Item | undefined; onChoose: (id: string) => void }) {
  const [open, setOpen] = useState(false);
  const [words, setWords] = useState('');
  const asked = useLater(words.trim(), 150);
  const { data, error } = useItems({ q: asked }, LISTED);
  const found = (data?.items ?? []).filter((i) => kindOf(i).fits);
  const more = (data?.found ?? 0) - (data?.items.length ?? 0);
  return (
    <Popover.Root
      open={open}
      onOpenChange={(now) => {
        setOpen(now);
        if (!now) setWords('');
      }}
    >
      <Popover.Trigger
        role="combobox"
        aria-label={texts.motion}
        aria-expanded={open}
        className="flex min-w-0 items-center gap-1 rounded-md border border-line bg-raised px-2 py-1 text-left hover:border-muted"
      >
        <span className="min-w-0 flex-1 truncate">{chosen?.name ?? texts.chooseAMotion}</span>
        <ChevronDown size={13} className="shrink-0 text-muted" />
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={4}
          className="z-50 w-72 overflow-hidden rounded-lg border border-line bg-raised shadow-xl"
        >
          <Command shouldFilter={false} label={texts.motions}>
            <Command.Input
              value={words}
              onValueChange={setWords}
              placeholder={texts.findByNameTag}
              className="w-full border-b border-line bg-transparent px-3 py-2 outline-none placeholder:text-muted"
            />
            <Command.List className="max-h-72 overflow-auto p-1">
              {data && (
                <Command.Empty className="px-3 py-4 text-center text-muted">{texts.noMotionFound}</Command.Empty>
              )}
              {error && <p className="px-3 py-4 text-raspberry">{error.message}</p>}
              {found.map((i) => (
                <Command.Item
                  key={i.id}
                  value={i.id}
                  onSelect={() => {
                    setOpen(false);
                    setWords('');
                    onChoose(i.id);
                  }}
                  className="flex cursor-pointer items-center gap-3 rounded px-2 py-1 data-[selected=true]:bg-panel data-[selected=true]:text-brass-text"
                >
                  <span className="min-w-0 flex-1 truncate">{i.name}</span>
                  <span className="shrink-0 text-muted">{i.facts.durationS.toFixed(1)} s</span>
                </Command.Item>
              ))}
              {more > 0 && <p className="px-2 py-1 text-[12px] text-muted">{texts.moreTypeToNarrowThe(more)}</p>}
            </Command.List>
          </Command>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
