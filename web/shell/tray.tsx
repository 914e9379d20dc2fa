'use client';

import { Redo2, Undo2, X } from 'lucide-react';
import Link from 'next/link';
import { DropdownMenu } from 'radix-ui';
import { useHand } from '@/client/hand';
import { useCast, usePerformer } from '@/client/queries';
import { useChoosePerformer } from '@/client/session';
import { useUndo } from '@/client/undo';
import { PaperPicture, RestFigure } from '@/stage/rest-figure';
import { Button } from '@/ui/button';
import { Hint } from '@/ui/hint';
import { tray as texts } from './texts';

/** Along the bottom: the performer, what has been picked up, and undo. */
export function Tray({ onUndo, onRedo }: { onUndo: () => Promise<void>; onRedo: () => Promise<void> }) {
  const { member, rig } = usePerformer();
  const cast = useCast();
  const choose = useChoosePerformer();
  const { items, putDown } = useHand();
  const last = useUndo((s) => s.steps.at(-1));
  const next = useUndo((s) => s.undone.at(-1));
  return (
    <footer className="flex h-16 shrink-0 items-center gap-2.5 border-t border-line bg-panel px-4">
      <span className="text-muted">{texts.onHand}</span>
      <DropdownMenu.Root>
        <Hint text={texts.thePerformerEveryMotion}>
          <DropdownMenu.Trigger className="flex h-12 items-center gap-2.5 rounded-lg border border-brass bg-raised px-2.5 text-left">
            {member?.assets.art ? (
              <PaperPicture art={member.assets.art} height={40} scale={40 / Math.max(0.1, member.heightM)} />
            ) : (
              rig && <RestFigure rig={rig} width={26} height={40} />
            )}
            <span>
              <span className="block font-medium">{member?.name ?? texts.noOneYet}</span>
              <span className="block text-[11.5px] text-muted">{texts.performer}</span>
            </span>
          </DropdownMenu.Trigger>
        </Hint>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            side="top"
            align="start"
            sideOffset={6}
            className="z-50 max-h-96 min-w-56 overflow-auto rounded-lg border border-line bg-raised p-1 shadow-xl"
          >
            {(cast.data ?? []).map((c) => (
              <DropdownMenu.Item
                key={c.id}
                onSelect={() => choose(c.id)}
                className="flex items-center justify-between gap-6 rounded px-2 py-1.5 outline-none select-none data-highlighted:bg-panel"
              >
                <span className={c.id === member?.id ? 'text-brass-text' : ''}>{c.name}</span>
                <span className="text-muted">{c.heightM.toFixed(2)} m</span>
              </DropdownMenu.Item>
            ))}
            {cast.data?.length === 0 && <p className="px-2 py-1.5 text-muted">{texts.theCastIsEmpty}</p>}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      {items.map((i) => (
        <div
          key={i.id}
          className="flex h-12 max-w-52 items-center gap-2 rounded-lg border border-line bg-raised pr-1.5 pl-2.5"
        >
          <Link href={`/library?item=${i.id}`} className="min-w-0">
            <span className="block truncate font-medium">{i.name}</span>
            <span className="block truncate text-[11.5px] text-muted">{i.about}</span>
          </Link>
          <button
            type="button"
            aria-label={texts.removeFromTheTray(i.name)}
            onClick={() => putDown(i.id)}
            className="rounded p-0.5 text-muted hover:text-ink"
          >
            <X size={13} />
          </button>
        </div>
      ))}
      <div className="ml-auto flex items-center gap-3">
        {last && <span className="max-w-72 truncate text-muted">{last.label}</span>}
        <Button
          onClick={() => void onUndo()}
          disabled={!last}
          hint={last ? texts.undo(last.label) : texts.nothingToUndo}
          keys="Ctrl Z"
        >
          <Undo2 size={14} /> {texts.undo2}
        </Button>
        <Button
          onClick={() => void onRedo()}
          disabled={!next}
          hint={next ? texts.redo(next.label) : texts.nothingToRedo}
          keys="Ctrl Shift Z"
        >
          <Redo2 size={14} /> {texts.redo2}
        </Button>
      </div>
    </footer>
  );
}
