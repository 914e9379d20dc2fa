'use client';

import { Command } from 'cmdk';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { useCast, useItems } from '@/client/queries';
import { useChoosePerformer } from '@/client/session';
import { palette as texts } from './texts';

const row =
  'flex cursor-pointer items-center justify-between gap-3 rounded-md px-3 py-2 data-[selected=true]:bg-raised data-[selected=true]:text-brass-text';
const group =
  '[&_[cmdk-group-heading]]:px-3 [&_[cmdk-group-heading]]:pt-2 [&_[cmdk-group-heading]]:pb-1 [&_[cmdk-group-heading]]:text-[11.5px] [&_[cmdk-group-heading]]:text-muted';

/** Finds any item, cast member or action by typing. */
export function Palette({ onOpenChange }: { onOpenChange: (open: boolean) => void }) {
  const router = useRouter();
  const choose = useChoosePerformer();
  const [text, setText] = useState('');
  const cast = useCast();
  const items = useItems({ q: text }, 30);
  const run = (action: () => void) => () => {
    onOpenChange(false);
    action();
  };
  return (
    <Command.Dialog
      open
      onOpenChange={onOpenChange}
      label={texts.findOrDoAnything}
      overlayClassName="fixed inset-0 z-40 bg-black/55"
      contentClassName="fixed top-[14vh] left-1/2 z-50 w-[560px] -translate-x-1/2 overflow-hidden rounded-xl border border-line bg-panel shadow-2xl"
    >
      <Command.Input
        value={text}
        onValueChange={setText}
        placeholder={texts.nameOfAnItem}
        className="w-full border-b border-line bg-transparent px-4 py-3 text-[15px] outline-none placeholder:text-muted"
      />
      <Command.List className="max-h-[52vh] overflow-auto p-1.5">
        <Command.Empty className="px-3 py-6 text-center text-muted">{texts.nothingFound}</Command.Empty>
        <Command.Group heading={texts.goTo} className={group}>
          {(
            [texts.library, texts.cast, texts.fitting, texts.reels, texts.intake, texts.activity, texts.people] as const
          ).map((p) => (
            <Command.Item
              key={p}
              value={`go to ${p}`}
              onSelect={run(() => router.push(`/${p.toLowerCase()}`))}
              className={row}
            >
              {p}
            </Command.Item>
          ))}
          <Command.Item
            value="open the bin deleted"
            onSelect={run(() => router.push('/library?bin=true'))}
            className={row}
          >
            {texts.bin}
          </Command.Item>
        </Command.Group>
        <Command.Group heading={texts.putOnHand} className={group}>
          {(cast.data ?? []).map((c) => (
            <Command.Item
              key={c.id}
              value={`performer ${c.name} ${c.id}`}
              onSelect={run(() => choose(c.id))}
              className={row}
            >
              {c.name} <span className="text-muted">{c.heightM.toFixed(2)} m</span>
            </Command.Item>
          ))}
        </Command.Group>
        <Command.Group heading={texts.items} className={group}>
          {(items.data?.items ?? []).slice(0, 30).map((i) => (
            <Command.Item
              key={i.id}
              value={`${i.name} ${i.tags.join(' ')} ${i.id}`}
              // the server has found it by what was typed, other words for a tag included
              keywords={[text]}
              onSelect={run(() => router.push(`/library?item=${i.id}`))}
              className={row}
            >
              {i.name} <span className="text-muted">{i.kind}</span>
            </Command.Item>
          ))}
        </Command.Group>
      </Command.List>
    </Command.Dialog>
  );
}
