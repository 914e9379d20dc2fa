'use client';

import { useRouter } from 'next/navigation';
import { DropdownMenu } from 'radix-ui';
import { useEffect, useState } from 'react';
import { useMe, useSignOut } from '@/client/session';
import { useOpening } from './opening';
import { PasswordDialog } from './password-dialog';
import { accountMenu as texts } from './texts';

const item =
  'flex items-center justify-between gap-6 rounded px-2 py-1.5 outline-none select-none data-highlighted:bg-panel';

export function AccountMenu({ onHelp }: { onHelp: () => void }) {
  const me = useMe();
  const router = useRouter();
  const signOut = useSignOut();
  const showOpening = useOpening((s) => s.go);
  const [changing, setChanging] = useState(false);
  const [daylight, setDaylight] = useState(false);
  useEffect(() => {
    const kept = localStorage.getItem('velvet-theme') === 'daylight';
    setDaylight(kept);
    document.documentElement.dataset.theme = kept ? 'daylight' : 'velvet';
  }, []);
  const toggle = (): void => {
    const next = !daylight;
    setDaylight(next);
    localStorage.setItem('velvet-theme', next ? 'daylight' : 'velvet');
    document.documentElement.dataset.theme = next ? 'daylight' : 'velvet';
    // canvases read the colours once a theme
    window.dispatchEvent(new Event('velvet-theme'));
  };
  const initials = me.name
    .split(/\s+/)
    .map((w) => w[0])
    .join('')
    .slice(0, 2);
  return (
    <>
      {changing && <PasswordDialog onClose={() => setChanging(false)} />}
      <DropdownMenu.Root>
        <DropdownMenu.Trigger
          aria-label={texts.withBinThemeAnd(initials, me.name)}
          className="ml-2 flex size-8 items-center justify-center rounded-full border border-line bg-raised hover:border-muted"
        >
          {initials}
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            align="end"
            sideOffset={6}
            className="z-50 min-w-52 rounded-lg border border-line bg-raised p-1 shadow-xl"
          >
            <DropdownMenu.Label className="px-2 py-1.5 text-muted">
              {me.name}, {me.role}
            </DropdownMenu.Label>
            <DropdownMenu.Item className={item} onSelect={() => router.push('/library?bin=true')}>
              {texts.bin}
            </DropdownMenu.Item>
            <DropdownMenu.Item className={item} onSelect={() => router.push('/activity')}>
              {texts.activity}
            </DropdownMenu.Item>
            <DropdownMenu.Item className={item} onSelect={() => router.push('/people')}>
              {texts.peopleTagsFields}
            </DropdownMenu.Item>
            <DropdownMenu.Item className={item} onSelect={() => router.push('/interface')}>
              {texts.forPrograms}
            </DropdownMenu.Item>
            <DropdownMenu.Separator className="my-1 h-px bg-line" />
            <DropdownMenu.Item className={item} onSelect={toggle}>
              {daylight ? texts.velvetDark : texts.daylightLight}
            </DropdownMenu.Item>
            <DropdownMenu.Item
              className={item}
              onSelect={() => {
                router.push('/library');
                showOpening(0);
              }}
            >
              {texts.firstSteps}
            </DropdownMenu.Item>
            <DropdownMenu.Item className={item} onSelect={onHelp}>
              {texts.keys} <kbd className="font-sans text-muted">?</kbd>
            </DropdownMenu.Item>
            <DropdownMenu.Separator className="my-1 h-px bg-line" />
            <DropdownMenu.Item className={item} onSelect={() => setChanging(true)}>
              {texts.changePassword}
            </DropdownMenu.Item>
            <DropdownMenu.Item className={item} onSelect={() => void signOut()}>
              {texts.signOut}
            </DropdownMenu.Item>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
    </>
  );
}
