'use client';

import { clsx } from 'clsx';
import Link from 'next/link';
import { usePathname, useRouter } from 'next/navigation';
import { type ReactNode, useState } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { useGlobalKeys } from '@/client/keys';
import { useLive, useLiveConnection } from '@/client/live';
import { Filming } from '@/parts/film/filming';
import { AccountMenu } from './account-menu';
import { ConflictDialog } from './conflict-dialog';
import { HelpSheet } from './help-sheet';
import { JobsChip } from './jobs-chip';
import { Opening } from './opening';
import { Palette } from './palette';
import { shell as texts } from './texts';
import { Tray } from './tray';
import { useUndoLast } from './use-undo-last';

const PLACES = [
  { href: '/library', name: texts.library },
  { href: '/cast', name: texts.cast },
  { href: '/fitting', name: texts.fitting },
  { href: '/reels', name: texts.reels },
  { href: '/intake', name: texts.intake },
] as const;

/** What surrounds every place: where you are, finding, what is on hand, undo. */
export function Shell({ children }: { children: ReactNode }) {
  const path = usePathname();
  const router = useRouter();
  const [finding, setFinding] = useState(false);
  const [help, setHelp] = useState(false);
  const { undo, redo } = useUndoLast();
  useLiveConnection();
  const connected = useLive((s) => s.connected);
  useHotkeys('mod+k', () => setFinding(true), { preventDefault: true, enableOnFormTags: true });
  useHotkeys('shift+slash', () => setHelp(true));
  useGlobalKeys('mod+z', undo);
  useGlobalKeys('mod+shift+z, mod+y', redo);
  PLACES.forEach((p, i) => {
    // biome-ignore lint/correctness/useHookAtTopLevel: the list never changes its length
    useHotkeys(`alt+${i + 1}`, () => router.push(p.href), { preventDefault: true, enableOnFormTags: true });
  });
  return (
    <div className="flex h-screen min-w-[1000px] flex-col">
      <header className="flex h-11 shrink-0 items-center gap-1 border-b border-line bg-panel px-4">
        <Link href="/library" className="heading mr-4 text-[17px] italic">
          {texts.velvet}
          <span className="text-brass">·</span>
          {texts.reel}
        </Link>
        <nav aria-label={texts.places} className="flex gap-1">
          {PLACES.map((p, i) => (
            <PlaceLink key={p.href} {...p} title={texts.alt(i + 1)} here={path.startsWith(p.href)} />
          ))}
        </nav>
        {!connected && (
          <span role="status" className="ml-3 rounded-full border border-raspberry px-2.5 py-0.5 text-raspberry">
            {texts.connectionLostReconnecting}
          </span>
        )}
        <span className="ml-auto" />
        <JobsChip />
        <button
          type="button"
          onClick={() => setFinding(true)}
          className=" rounded-full border border-line bg-raised px-3 py-1 text-muted hover:text-ink"
        >
          {texts.findOrDoAnything} <kbd className="font-sans">{texts.ctrlK}</kbd>
        </button>
        <AccountMenu onHelp={() => setHelp(true)} />
      </header>
      <main className="min-h-0 flex-1">{children}</main>
      <Tray onUndo={undo} onRedo={redo} />
      {finding && <Palette onOpenChange={setFinding} />}
      <ConflictDialog />
      <Filming />
      <Opening />
      <HelpSheet open={help} onOpenChange={setHelp} />
    </div>
  );
}

/** A way to a place, whose page is fetched once somebody points at it: not while the first one still has everything to load. */
function PlaceLink({ href, name, title, here }: { href: string; name: string; title: string; here: boolean }) {
  const [wanted, setWanted] = useState(false);
  return (
    <Link
      href={href}
      title={title}
      prefetch={wanted ? null : false}
      onPointerEnter={() => setWanted(true)}
      onFocus={() => setWanted(true)}
      aria-current={here ? 'page' : undefined}
      className={clsx(
        'rounded-full border px-3 py-1',
        here ? 'border-line bg-raised text-ink' : 'border-transparent text-muted hover:text-ink',
      )}
    >
      {name}
    </Link>
  );
}
