import { format } from 'date-fns';
import type { ReactNode } from 'react';
import { RIGHTS_WORDS } from '@/client/words';
import type { Item } from '@/contract';
import { TagWords } from '@/parts/tag-words';
import { columns as texts } from './texts';
import type { LibraryView } from './use-library';

export interface Column {
  id: string;
  label: string;
  width: string;
  sort?: LibraryView['sort'];
  cell: (item: Item, score: number | undefined) => ReactNode;
}

/** Columns of the table, in their order; which are shown is a person's choice. */
export const COLUMNS = [
  { id: 'name', label: texts.name, width: 'min-w-40 flex-[2]', sort: 'name', cell: (i) => i.name },
  { id: 'kind', label: texts.kind, width: 'w-14', sort: 'kind', cell: (i) => i.kind },
  {
    id: 'length',
    label: texts.length,
    width: 'w-16',
    sort: 'length',
    cell: (i) => `${i.facts.durationS.toFixed(1)} s`,
  },
  { id: 'frames', label: texts.frames, width: 'w-16', cell: (i) => i.facts.frameCount },
  { id: 'rate', label: texts.rate, width: 'w-12', sort: 'rate', cell: (i) => Number(i.facts.fps.toFixed(2)) },
  {
    id: 'travel',
    label: texts.travel,
    width: 'w-24',
    sort: 'travel',
    cell: (i) => (i.facts.inPlace ? texts.onTheSpot : `${i.facts.travelM.toFixed(2)} m`),
  },
  { id: 'tags', label: texts.tags, width: 'min-w-24 flex-1', cell: (i) => <TagWords tags={i.tags} between=", " /> },
  { id: 'fits', label: texts.fits, width: 'w-12', cell: (_, score) => score ?? '' },
  { id: 'rating', label: texts.stars, width: 'w-12', sort: 'rating', cell: (i) => '★'.repeat(i.rating) },
  { id: 'rights', label: texts.rights, width: 'w-28', cell: (i) => RIGHTS_WORDS[i.rights] },
  { id: 'heading', label: texts.heading, width: 'w-32', cell: (i) => i.heading },
  { id: 'made', label: texts.madeFor, width: 'w-24', cell: (i) => i.madeForName ?? '' },
  { id: 'by', label: texts.by, width: 'w-24', cell: (i) => i.createdByName ?? '' },
  {
    id: 'new',
    label: texts.added,
    width: 'w-24',
    sort: 'new',
    cell: (i) => format(new Date(i.createdAt), 'd MMM yyyy'),
  },
  {
    id: 'changed',
    label: texts.changed,
    width: 'w-24',
    sort: 'changed',
    cell: (i) => format(new Date(i.updatedAt), 'd MMM yyyy'),
  },
] as const satisfies readonly Column[] as readonly (Column & { id: ColumnId })[];

export type ColumnId =
  | 'name'
  | 'kind'
  | 'length'
  | 'frames'
  | 'rate'
  | 'travel'
  | 'tags'
  | 'fits'
  | 'rating'
  | 'rights'
  | 'heading'
  | 'made'
  | 'by'
  | 'new'
  | 'changed';

export const FIRST_COLUMNS: readonly ColumnId[] = ['name', 'kind', 'length', 'rate', 'travel', 'tags', 'fits', 'by'];
