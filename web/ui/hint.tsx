'use client';

import { Tooltip } from 'radix-ui';
import type { ReactNode } from 'react';

/** A tooltip with the action's key. */
export function Hint({ text, keys, children }: { text: string; keys?: string | undefined; children: ReactNode }) {
  return (
    <Tooltip.Root>
      <Tooltip.Trigger asChild>{children}</Tooltip.Trigger>
      <Tooltip.Portal>
        <Tooltip.Content
          sideOffset={6}
          collisionPadding={8}
          className="z-50 flex max-w-72 items-center gap-2 rounded-md border border-line bg-raised px-2 py-1 text-ink shadow-lg"
        >
          {text}
          {keys && <kbd className="rounded border border-line px-1 font-sans text-[11px] text-muted">{keys}</kbd>}
        </Tooltip.Content>
      </Tooltip.Portal>
    </Tooltip.Root>
  );
}
