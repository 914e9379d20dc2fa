'use client';

import { X } from 'lucide-react';
import { Dialog as Radix } from 'radix-ui';
import { type ReactNode, useRef } from 'react';
import { dialog as texts } from './texts';

interface DialogProps {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  title: string;
  about?: string;
  width?: number;
  children: ReactNode;
}

export function Dialog({ open, onOpenChange, title, about, width = 440, children }: DialogProps) {
  // dialogs are opened by keys and menus as well, so there is no trigger that would get the focus back
  const before = useRef<Element | null>(null);
  return (
    <Radix.Root open={open} onOpenChange={onOpenChange}>
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 z-40 bg-black/55" />
        <Radix.Content
          aria-describedby={undefined}
          onOpenAutoFocus={() => {
            before.current = document.activeElement;
          }}
          onCloseAutoFocus={(e) => {
            if (!(before.current instanceof HTMLElement) || !before.current.isConnected) return;
            e.preventDefault();
            before.current.focus();
          }}
          style={{ width }}
          className="fixed top-1/2 left-1/2 z-40 max-h-[86vh] max-w-[94vw] -translate-x-1/2 -translate-y-1/2 overflow-auto rounded-xl border border-line bg-panel p-5 shadow-2xl"
        >
          <div className="mb-3 flex items-start justify-between gap-4">
            <div>
              <Radix.Title className="heading text-lg">{title}</Radix.Title>
              {about && <p className="mt-0.5 text-muted">{about}</p>}
            </div>
            <Radix.Close aria-label={texts.close} className="rounded p-1 text-muted hover:bg-raised hover:text-ink">
              <X size={16} />
            </Radix.Close>
          </div>
          {children}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
