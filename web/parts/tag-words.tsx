'use client';

import { createContext, Fragment, type ReactNode, useContext, useMemo } from 'react';
import { useTags } from '@/client/queries';
import type { Tag } from '@/contract';

export const TAG_COLOURS: Readonly<Record<Tag['colour'], string>> = {
  plain: 'var(--muted)',
  brass: 'var(--brass)',
  verdigris: 'var(--verdigris)',
  terracotta: 'var(--terracotta)',
  raspberry: 'var(--raspberry)',
  slate: '#7d93b5',
};

const Colours = createContext<ReadonlyMap<string, Tag['colour']>>(new Map());

/** Reads the colours of tags once for a whole list. */
export function TagColours({ children }: { children: ReactNode }) {
  const { data } = useTags();
  const colours = useMemo(() => new Map((data ?? []).map((t) => [t.name, t.colour])), [data]);
  return <Colours value={colours}>{children}</Colours>;
}

/** Tags in a line, those that have a colour with a dot of it. */
export function TagWords({ tags, between }: { tags: readonly string[]; between: string }) {
  const colours = useContext(Colours);
  return tags.map((tag, i) => {
    const colour = colours.get(tag) ?? 'plain';
    return (
      <Fragment key={tag}>
        {i > 0 && between}
        {colour !== 'plain' && (
          <span
            aria-hidden="true"
            data-colour={colour}
            className="mr-1 inline-block size-1.5 rounded-full align-middle"
            style={{ background: TAG_COLOURS[colour] }}
          />
        )}
        {tag}
      </Fragment>
    );
  });
}
