'use client';

import { clsx } from 'clsx';
import type { ReactNode } from 'react';

/** A word that is on or off. */
export function Pill({
  on,
  title,
  onClick,
  children,
}: {
  on: boolean;
  title?: string | undefined;
  onClick: () => void;
  children: ReactNode;
}) {
  return (
    <button
      type="button"
      aria-pressed={on}
      title={title}
      onClick={onClick}
      className={clsx(
        'rounded-full border px-2 py-px text-[12.5px]',
        on ? 'border-brass text-brass-text' : 'border-line text-muted hover:text-ink',
      )}
    >
      {children}
    </button>
  );
}

/** One of a few, side by side. */
export function Choice<T extends string>({
  label,
  value,
  options,
  onChange,
}: {
  label: string;
  value: T;
  options: readonly { value: T; word: string; title?: string }[];
  onChange: (value: T) => void;
}) {
  return (
    <fieldset className="flex flex-wrap gap-1" aria-label={label}>
      {options.map((o) => (
        <Pill key={o.value} on={o.value === value} title={o.title} onClick={() => onChange(o.value)}>
          {o.word}
        </Pill>
      ))}
    </fieldset>
  );
}

export const Heading = ({ children }: { children: ReactNode }) => (
  <h3 className="mt-2 text-[12px] text-muted">{children}</h3>
);
