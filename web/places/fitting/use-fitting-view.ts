'use client';

import { parseAsArrayOf, parseAsBoolean, parseAsString, parseAsStringLiteral, useQueryStates } from 'nuqs';
import { ALIGNS, PLAIN_VIEW } from './stage-tools';

export const PANES = ['trouble', 'plants', 'goals', 'hand', 'curves', 'drawings', 'swap'] as const;
export type Pane = (typeof PANES)[number];

/** What is fitted to whom and how it is shown, as the address holds it: a link opens the same for a colleague. */
export function useFittingView() {
  return useQueryStates(
    {
      item: parseAsString,
      cast: parseAsString,
      pane: parseAsStringLiteral(PANES).withDefault('trouble'),
      also: parseAsArrayOf(parseAsString).withDefault([]),
      over: parseAsBoolean.withDefault(PLAIN_VIEW.over),
      align: parseAsStringLiteral(ALIGNS).withDefault(PLAIN_VIEW.align),
      trails: parseAsBoolean.withDefault(PLAIN_VIEW.trails),
      ghosts: parseAsBoolean.withDefault(PLAIN_VIEW.ghosts),
      show: parseAsStringLiteral(['both', 'source', 'target'] as const).withDefault(PLAIN_VIEW.show),
      body: parseAsStringLiteral(['mesh', 'bones'] as const).withDefault(PLAIN_VIEW.body),
    },
    { history: 'replace' },
  );
}
