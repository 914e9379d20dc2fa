'use client';

import { keepPreviousData, useQueries, useQuery } from '@tanstack/react-query';
import { parseAsBoolean, parseAsString, parseAsStringLiteral, useQueryStates } from 'nuqs';
import { useEffect, useMemo, useRef, useState } from 'react';
import { API, getJson } from '@/client/api';
import { type Search, toQuery } from '@/client/queries';
import { useMe } from '@/client/session';
import { useLater } from '@/client/use-later';
import type { Item, ItemList } from '@/contract';

export const PAGE = 100;
const NAMES_AFTER_MS = 1200;
/** An answer that takes longer is said to be out. */
const LATE_MS = 500;
export const DENSITIES = ['strips', 'table', 'tiles'] as const;
export type Density = (typeof DENSITIES)[number];
export const SORTS = ['name', 'new', 'changed', 'length', 'rating', 'travel', 'rate', 'kind'] as const;

/** The whole view, as the address holds it: a link opens the same for a colleague. */
export function useLibraryView() {
  return useQueryStates(
    {
      q: parseAsString,
      folder: parseAsString,
      like: parseAsString,
      pose: parseAsString,
      support: parseAsBoolean,
      pack: parseAsString,
      item: parseAsString,
      bin: parseAsBoolean,
      view: parseAsStringLiteral(DENSITIES).withDefault('strips'),
      sort: parseAsStringLiteral(SORTS).withDefault('name'),
      backwards: parseAsBoolean,
    },
    { history: 'replace' },
  );
}
export type LibraryView = ReturnType<typeof useLibraryView>[0];

export interface Library {
  list: ItemList | undefined;
  error: Error | null;
  refetch: () => void;
  /** What is asked for has taken a while, and what is shown is still what was found before. */
  late: boolean;
  /** How many items there are to scroll through. */
  count: number;
  /** An item by its place, once its page is here. */
  at: (index: number) => Item | undefined;
  /** Name and kind of an item whose page is not here yet. */
  nameAt: (index: number) => readonly [string, string] | undefined;
  /** Place of an item among the pages that are here, −1 elsewhere. */
  indexOf: (id: string) => number;
  score: (id: string) => number | undefined;
  /** Says which places are on the screen. */
  showing: (from: number, to: number) => void;
  search: Search;
}

/** What a view finds, page by page as it is scrolled to. */
export function useLibrary(view: LibraryView): Library {
  const { performerId } = useMe();
  const search = useMemo<Search>(
    () => ({
      ...(view.q && { q: view.q }),
      ...(view.folder && { folder: view.folder }),
      ...(view.like && { like: view.like }),
      ...(view.pose && { pose: view.pose }),
      ...(view.pose && view.support && { support: true }),
      ...(view.pack && { pack: view.pack }),
      ...(view.bin && { bin: true }),
      ...(performerId && { performer: performerId }),
      sort: view.sort,
      ...(view.backwards && { backwards: true }),
    }),
    [
      view.q,
      view.folder,
      view.like,
      view.pose,
      view.support,
      view.pack,
      view.bin,
      view.sort,
      view.backwards,
      performerId,
    ],
  );
  const [pages, setPages] = useState<readonly number[]>([]);
  const ask = (page: number) => ({
    queryKey: ['items', search, page],
    // a page that has been scrolled past before it came is not waited for
    queryFn: ({ signal }: { signal: AbortSignal }) =>
      getJson<ItemList>(
        `${API}/items?${toQuery(search, { offset: String(page * PAGE), limit: String(PAGE), ...(page === 0 && { facets: '1' }) })}`,
        page > 0 ? signal : undefined,
      ),
  });
  const first = useQuery({ ...ask(0), placeholderData: keepPreviousData });
  const others = useQueries({ queries: pages.filter((p) => p > 0).map(ask) });
  const waits = first.isPlaceholderData;
  const late = useLater(waits, LATE_MS) && waits;
  // rows can say their names before their pages are here; asked for once the first page stands, or somebody scrolls on
  const [far, setFar] = useState<Search>();
  useEffect(() => {
    // a search that is still being typed is not worth them
    const timer = setTimeout(() => setFar(search), NAMES_AFTER_MS);
    return () => clearTimeout(timer);
  }, [search]);
  const { data: names } = useQuery({
    queryKey: ['item-names', search],
    queryFn: () => getJson<{ names: [string, string][] }>(`${API}/items/names?${toQuery(search)}`),
    enabled: far === search && (first.data?.found ?? 0) > 2 * PAGE,
    staleTime: 60_000,
  });
  const byPage = new Map<number, ItemList>();
  if (first.data) byPage.set(0, first.data);
  pages
    .filter((p) => p > 0)
    .forEach((p, i) => {
      const data = others[i]?.data;
      if (data) byPage.set(p, data);
    });
  const shown = useRef('');
  return {
    list: first.data,
    late,
    error: first.error,
    refetch: () => void first.refetch(),
    count: first.data?.found ?? 0,
    nameAt: (index) => names?.names[index],
    at: (index) => byPage.get(Math.floor(index / PAGE))?.items[index % PAGE],
    indexOf: (id) => {
      for (const [page, list] of byPage) {
        const i = list.items.findIndex((x) => x.id === id);
        if (i >= 0) return page * PAGE + i;
      }
      return -1;
    },
    score: (id) => {
      for (const list of byPage.values()) if (id in list.scores) return list.scores[id];
      return undefined;
    },
    showing: (from, to) => {
      // a page ahead and one behind, so that scrolling seldom meets a page that is not here
      const low = Math.max(0, Math.floor(from / PAGE) - 1);
      const high = Math.floor(to / PAGE) + 1;
      const key = `${low}:${high}`;
      if (key === shown.current) return;
      shown.current = key;
      if (high > 1) setFar(search);
      setPages(Array.from({ length: high - low + 1 }, (_, i) => low + i));
    },
    search,
  };
}
