'use client';

import { clsx } from 'clsx';
import { Plus } from 'lucide-react';
import { Popover } from 'radix-ui';
import type { Facets } from '@/contract';
import { type Narrowing, type NarrowingField, parseSearch, withNarrowing, withoutNarrowing } from '@/search/language';
import { narrowPanel as texts } from './texts';

const TITLES: readonly (readonly [NarrowingField, string])[] = [
  ['kind', texts.kind],
  ['fits', texts.fitsThePerformer],
  ['length', texts.length],
  ['travel', texts.travel],
  ['loops', texts.loops],
  ['tempo', texts.tempo],
  ['support', texts.standsOn],
  ['moves', texts.partsThatMove],
  ['tag', texts.tag],
  ['rate', texts.framesASecond],
  ['rights', texts.rights],
  ['rated', texts.stars],
  ['made', texts.madeFor],
  ['by', texts.by],
  ['is', texts.mineAndNew],
];

/** A value in plain words. */
export const valueWords = (field: string, value: string): string =>
  field === 'loops' ? (value === 'yes' ? 'loops' : texts.doesNotLoop) : value.replaceAll('-', ' ');

export const narrowingWords = ({ field, value, not }: Narrowing): string =>
  `${not ? 'not ' : ''}${field}: ${valueWords(field, value)}`;

/** Every narrowing there is, with how many items each of its values would leave. */
export function NarrowPanel({
  facets,
  q,
  onChange,
}: {
  facets: Facets | null;
  q: string;
  onChange: (q: string) => void;
}) {
  const on = parseSearch(q).narrowings;
  const has = (field: string, value: string): boolean =>
    on.some((n) => n.field === field && n.value === value.toLowerCase() && !n.not);
  return (
    <Popover.Root>
      <Popover.Trigger className="inline-flex items-center gap-1 rounded-full border border-line px-2.5 py-0.5 text-muted hover:border-muted hover:text-ink">
        <Plus size={12} /> {texts.narrow}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={6}
          collisionPadding={12}
          aria-label={texts.narrow2}
          className="z-30 max-h-[72vh] w-[620px] columns-3 gap-x-5 overflow-auto rounded-xl border border-line bg-panel p-4 shadow-2xl"
        >
          {TITLES.map(([field, title]) => {
            const values = facets?.[field] ?? [];
            if (values.length === 0) return null;
            return (
              <section key={field} className="mb-3 break-inside-avoid">
                <h3 className="mb-1 text-[11.5px] text-muted">{title}</h3>
                {values.slice(0, field === 'tag' ? 18 : 11).map(({ value, n }) => {
                  const chosen = has(field, value);
                  const narrowing: Narrowing = { field, value: value.toLowerCase(), not: false };
                  return (
                    <button
                      key={value}
                      type="button"
                      aria-pressed={chosen}
                      onClick={() => onChange(chosen ? withoutNarrowing(q, narrowing) : withNarrowing(q, narrowing))}
                      className={clsx(
                        'flex w-full justify-between gap-3 rounded px-1.5 py-0.5 text-left hover:bg-raised',
                        chosen && 'bg-raised text-brass-text',
                      )}
                    >
                      <span className="truncate">{valueWords(field, value)}</span>
                      <span className="text-muted">{n}</span>
                    </button>
                  );
                })}
              </section>
            );
          })}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
