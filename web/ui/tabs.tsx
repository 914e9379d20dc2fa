'use client';

import { clsx } from 'clsx';
import { Tabs as Radix } from 'radix-ui';
import type { ReactNode } from 'react';

/** Tabs and what they show: arrow keys go from one to the next. */
export function Tabs<T extends string>({
  value,
  onChange,
  className,
  children,
}: {
  value: T;
  onChange: (value: T) => void;
  className?: string;
  children: ReactNode;
}) {
  return (
    <Radix.Root value={value} onValueChange={(v) => onChange(v as T)} className={className}>
      {children}
    </Radix.Root>
  );
}

/** The row of tabs. */
export function TabList<T extends string>({
  label,
  tabs,
  className,
}: {
  label: string;
  tabs: readonly { value: T; word: ReactNode; title?: string }[];
  className?: string;
}) {
  return (
    <Radix.List aria-label={label} className={clsx('flex flex-wrap gap-0.5', className)}>
      {tabs.map((t) => (
        <Radix.Trigger
          key={t.value}
          value={t.value}
          title={t.title}
          className="rounded px-1.5 py-0.5 text-[13px] text-muted hover:text-ink data-[state=active]:bg-raised data-[state=active]:font-semibold data-[state=active]:text-ink"
        >
          {t.word}
        </Radix.Trigger>
      ))}
    </Radix.List>
  );
}

/** What the chosen tab shows. */
export function TabPanel({ value, className, children }: { value: string; className?: string; children: ReactNode }) {
  return (
    <Radix.Content value={value} className={className} tabIndex={-1}>
      {children}
    </Radix.Content>
  );
}
