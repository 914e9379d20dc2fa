'use client';

import { Bookmark, LayoutGrid, Rows3, Table2 } from 'lucide-react';
import type { Ref } from 'react';
import { useItem } from '@/client/queries';
import type { ItemList } from '@/contract';
import { parseSearch, withoutNarrowing } from '@/search/language';
import { IconButton } from '@/ui/button';
import { RemovableChip } from '@/ui/chip';
import { Select } from '@/ui/field';
import { NarrowPanel, narrowingWords } from './narrow-panel';
import { SavedSearches } from './saved-searches';
import { SearchField } from './search-field';
import { searchBar as texts } from './texts';
import { type Density, type LibraryView, SORTS } from './use-library';

interface SearchBarProps {
  ref: Ref<HTMLInputElement>;
  view: LibraryView;
  list: ItemList | undefined;
  onChange: (change: Partial<LibraryView>) => void;
  onShowAll: () => void;
}

const SORT_WORDS: Record<(typeof SORTS)[number], string> = {
  name: texts.byName,
  new: texts.newestFirst,
  changed: texts.lastChangedFirst,
  length: texts.byLength,
  rating: texts.byStars,
  travel: texts.byTravel,
  rate: texts.byRate,
  kind: 'by kind',
};

const VIEWS: readonly [Density, string, typeof Rows3][] = [
  ['strips', texts.strips, Rows3],
  ['table', texts.table, Table2],
  ['tiles', texts.tiles, LayoutGrid],
];

/** The search, what narrows it, how many items it hides, and how the rest is shown. */
export function SearchBar({ ref, view, list, onChange, onShowAll }: SearchBarProps) {
  const { data: model } = useItem(view.like);
  const { data: pack } = useItem(view.pack);
  const q = view.q ?? '';
  const search = parseSearch(q);
  const hidden = (list?.total ?? 0) - (list?.found ?? 0);
  const narrowed = Boolean(q || view.folder || view.like || view.pose || view.pack);
  const set = (text: string): void => onChange({ q: text || null });
  return (
    <div className="flex flex-col gap-2 px-4 pb-2.5">
      <div className="flex items-center gap-2">
        <SearchField ref={ref} q={q} onChange={set} />
        <SavedSearches view={view} onOpen={onChange} icon={<Bookmark size={14} />} />
        <Select
          label={texts.order}
          className="w-44"
          value={view.sort}
          onChange={(sort) => onChange({ sort, backwards: null })}
          options={SORTS.map((s) => ({ value: s, label: SORT_WORDS[s] }))}
        />
        <fieldset className="flex gap-0.5" aria-label={texts.howItemsAreShown}>
          {VIEWS.map(([value, label, Icon], i) => (
            <IconButton
              key={value}
              label={label}
              keys={String(i + 1)}
              quiet
              pressed={view.view === value}
              onClick={() => onChange({ view: value })}
            >
              <Icon size={15} />
            </IconButton>
          ))}
        </fieldset>
      </div>
      <div className="flex min-h-6 flex-wrap items-center gap-1.5">
        {search.narrowings.map((n) => (
          <RemovableChip
            key={`${n.not}${n.field}:${n.value}`}
            label={narrowingWords(n)}
            onRemove={() => set(withoutNarrowing(q, n))}
          />
        ))}
        {view.like && (
          <RemovableChip label={texts.movesLike(model?.name ?? '…')} onRemove={() => onChange({ like: null })} />
        )}
        {view.pose && (
          <>
            <RemovableChip label={texts.hasAPoseLike} onRemove={() => onChange({ pose: null, support: null })} />
            <button
              type="button"
              aria-pressed={view.support === true}
              onClick={() => onChange({ support: view.support ? null : true })}
              className={`rounded-full border px-2 py-0.5 ${view.support ? 'border-brass text-brass-text' : 'border-line text-muted hover:text-ink'}`}
            >
              {texts.onTheSameFeet}
            </button>
          </>
        )}
        {view.pack && <RemovableChip label={texts.inIt(pack?.name ?? '…')} onRemove={() => onChange({ pack: null })} />}
        <NarrowPanel facets={list?.facets ?? null} q={q} onChange={set} />
        {(list?.guessed ?? []).map((g) => (
          <span key={g.word} className="text-muted">
            {texts.readAs(g.word, g.meant.join(', '))}
          </span>
        ))}
        {narrowed && hidden > 0 && (
          <button
            type="button"
            onClick={onShowAll}
            className="ml-auto rounded-full border border-brass px-2.5 py-0.5 text-brass-text hover:bg-raised"
          >
            {texts.hiddenShowAll(hidden)} <kbd className="font-sans text-muted">{texts.esc}</kbd>
          </button>
        )}
      </div>
    </div>
  );
}
