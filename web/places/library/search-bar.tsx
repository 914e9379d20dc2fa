'use client';

import { Plus, Search, X } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { type Ref, useEffect, useState } from 'react';
import { useCounts, useItem } from '@/client/queries';
import { RemovableChip } from '@/ui/chip';
import { inputLook } from '@/ui/field';

interface View {
  q: string | null;
  kind: string | null;
  tag: string | null;
  like: string | null;
}

interface SearchBarProps {
  ref: Ref<HTMLInputElement>;
  view: View;
  hidden: number;
  narrowed: boolean;
  onChange: (change: Partial<View>) => void;
  onShowAll: () => void;
}

/** One search field, the narrowings that are on, and how many items they hide. */
export function SearchBar({ ref, view, hidden, narrowed, onChange, onShowAll }: SearchBarProps) {
  const { data: counts } = useCounts();
  const { data: model } = useItem(view.like);
  const [text, setText] = useState(view.q ?? '');
  useEffect(() => setText(view.q ?? ''), [view.q]);
  useEffect(() => {
    if (text === (view.q ?? '')) return;
    const timer = setTimeout(() => onChange({ q: text || null }), 160);
    return () => clearTimeout(timer);
  }, [text, view.q, onChange]);
  return (
    <div className="flex flex-wrap items-center gap-2 px-4 pb-2.5">
      <div className="relative min-w-64 flex-1">
        <Search size={14} className="absolute top-2.5 left-2.5 text-muted" />
        <input
          ref={ref}
          aria-label="Search"
          placeholder="Search names, tags and notes; -word leaves out"
          className={`${inputLook} w-full pr-8 pl-8`}
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
        {text && (
          <button
            type="button"
            aria-label="Clear the search"
            onClick={() => setText('')}
            className="absolute top-2 right-2 rounded p-0.5 text-muted hover:text-ink"
          >
            <X size={14} />
          </button>
        )}
      </div>
      {view.kind && <RemovableChip label={`kind: ${view.kind}`} onRemove={() => onChange({ kind: null })} />}
      {view.tag && <RemovableChip label={`tag: ${view.tag}`} onRemove={() => onChange({ tag: null })} />}
      {view.like && (
        <RemovableChip label={`moves like ${model?.name ?? '…'}`} onRemove={() => onChange({ like: null })} />
      )}
      <DropdownMenu.Root>
        <DropdownMenu.Trigger className="inline-flex items-center gap-1 rounded-full border border-line px-2.5 py-0.5 text-muted hover:border-muted hover:text-ink">
          <Plus size={12} /> narrow
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            align="end"
            sideOffset={4}
            className="z-50 max-h-96 min-w-48 overflow-auto rounded-lg border border-line bg-raised p-1 shadow-xl"
          >
            <DropdownMenu.Label className="px-2 py-1 text-[11.5px] text-muted">Kind</DropdownMenu.Label>
            {(counts?.kinds ?? []).map((k) => (
              <DropdownMenu.Item
                key={k.kind}
                onSelect={() => onChange({ kind: k.kind })}
                className="flex justify-between gap-6 rounded px-2 py-1 outline-none data-highlighted:bg-panel"
              >
                {k.kind} <span className="text-muted">{k.n}</span>
              </DropdownMenu.Item>
            ))}
            <DropdownMenu.Label className="px-2 pt-2 pb-1 text-[11.5px] text-muted">Tag</DropdownMenu.Label>
            {(counts?.tags ?? []).map((t) => (
              <DropdownMenu.Item
                key={t.name}
                onSelect={() => onChange({ tag: t.name })}
                className="flex justify-between gap-6 rounded px-2 py-1 outline-none data-highlighted:bg-panel"
              >
                {t.name} <span className="text-muted">{t.n}</span>
              </DropdownMenu.Item>
            ))}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      {narrowed && hidden > 0 && (
        <button
          type="button"
          onClick={onShowAll}
          className="rounded-full border border-brass px-2.5 py-0.5 text-brass-text hover:bg-raised"
        >
          {hidden} hidden · show all <kbd className="font-sans text-muted">Esc</kbd>
        </button>
      )}
    </div>
  );
}
