'use client';

import { clsx } from 'clsx';
import { X } from 'lucide-react';
import type { ReactNode } from 'react';
import { chip as texts } from './texts';

export function Chip({ children, tone = 'plain' }: { children: ReactNode; tone?: 'plain' | 'brass' | 'fault' }) {
  return (
    <span
      className={clsx(
        'inline-flex items-center gap-1 rounded-full border px-2 py-px text-[11.5px] whitespace-nowrap',
        tone === 'plain' && 'border-line text-muted',
        tone === 'brass' && 'border-brass text-brass-text',
        tone === 'fault' && 'border-raspberry text-raspberry',
      )}
    >
      {children}
    </span>
  );
}

/** A narrowing that can be taken off. */
export function RemovableChip({ label, onRemove }: { label: string; onRemove: () => void }) {
  return (
    <button
      type="button"
      onClick={onRemove}
      aria-label={texts.remove(label)}
      className="inline-flex items-center gap-1 rounded-full border border-line px-2 py-0.5 text-ink hover:border-muted"
    >
      {label}
      <X size={12} className="text-muted" />
    </button>
  );
}
