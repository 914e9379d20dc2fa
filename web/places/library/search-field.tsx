'use client';

import { Search, X } from 'lucide-react';
import { type Ref, useEffect, useId, useMemo, useState } from 'react';
import { useCompletions } from '@/client/queries';
import { acceptCompletion, complete, parseSearch, withWords, writeWords } from '@/search/language';
import { inputLook } from '@/ui/field';
import { searchField as texts } from './texts';

interface SearchFieldProps {
  ref: Ref<HTMLInputElement>;
  /** The whole search; its narrowings stand beside the field. */
  q: string;
  onChange: (q: string) => void;
}

/** One field for words and narrowings. A finished narrowing leaves the field and becomes a chip beside it. */
export function SearchField({ ref, q, onChange }: SearchFieldProps) {
  const words = writeWords(parseSearch(q).words);
  const [text, setText] = useState(words);
  const [open, setOpen] = useState(false);
  const [at, setAt] = useState(0);
  const listId = useId();
  const { data: values } = useCompletions();
  // biome-ignore lint/correctness/useExhaustiveDependencies: only what comes from outside replaces what is being typed
  useEffect(() => {
    if (writeWords(parseSearch(text).words) !== words) setText(words);
  }, [words]);
  const offers = useMemo(() => (open ? complete(text, values) : []), [open, text, values]);
  const send = (typed: string): void => onChange(withWords(q, typed));
  // biome-ignore lint/correctness/useExhaustiveDependencies: the text alone starts the wait
  useEffect(() => {
    // a narrowing that is still being typed waits for a blank or Enter
    const unfinished = /(^|\s)-?[a-z]+:("[^"]*|\S*)$/i.test(text);
    if (unfinished || writeWords(parseSearch(text).words) === words) return;
    const timer = setTimeout(() => send(text), 160);
    return () => clearTimeout(timer);
  }, [text]);
  const type = (typed: string): void => {
    setOpen(true);
    setAt(0);
    if (/\s$/.test(typed) && parseSearch(typed).narrowings.length > 0) {
      send(typed);
      setText(`${writeWords(parseSearch(typed).words)} `.trimStart());
    } else setText(typed);
  };
  const accept = (index: number): void => {
    const offer = offers[index];
    if (offer) type(acceptCompletion(text, offer));
  };
  return (
    <div className="relative min-w-64 flex-1">
      <Search size={14} className="absolute top-2.5 left-2.5 text-muted" />
      <input
        ref={ref}
        role="combobox"
        aria-label={texts.search}
        aria-expanded={offers.length > 0}
        aria-controls={listId}
        aria-activedescendant={offers.length > 0 ? `${listId}-${at}` : undefined}
        placeholder={texts.wordsExactWordsWithout}
        className={`${inputLook} w-full pr-8 pl-8`}
        value={text}
        onChange={(e) => type(e.target.value)}
        onBlur={() => setOpen(false)}
        onKeyDown={(e) => {
          if (offers.length > 0 && (e.key === 'ArrowDown' || e.key === 'ArrowUp')) {
            e.preventDefault();
            setAt((i) => (i + (e.key === 'ArrowDown' ? 1 : offers.length - 1)) % offers.length);
          } else if (offers.length > 0 && (e.key === 'Tab' || (e.key === 'Enter' && !/:\S+$/.test(text)))) {
            e.preventDefault();
            accept(at);
          } else if (e.key === 'Enter') {
            type(`${text} `);
            setOpen(false);
          } else if (e.key === 'Escape') {
            e.stopPropagation();
            if (offers.length > 0) setOpen(false);
            else e.currentTarget.blur();
          }
        }}
      />
      {text && (
        <button
          type="button"
          aria-label={texts.clearTheSearch}
          onClick={() => {
            setText('');
            send('');
          }}
          className="absolute top-2 right-2 rounded p-0.5 text-muted hover:text-ink"
        >
          <X size={14} />
        </button>
      )}
      {offers.length > 0 && (
        <div
          id={listId}
          role="listbox"
          aria-label={texts.suggestions}
          className="absolute inset-x-0 top-full z-30 mt-1 rounded-lg border border-line bg-raised p-1 shadow-xl"
        >
          {offers.map((o, i) => (
            <div
              key={o.text}
              id={`${listId}-${i}`}
              role="option"
              tabIndex={-1}
              aria-selected={i === at}
              onMouseDown={(e) => {
                e.preventDefault();
                accept(i);
              }}
              className={`flex justify-between gap-4 rounded px-2 py-1 ${i === at ? 'bg-panel text-brass-text' : ''}`}
            >
              <span>{o.text}</span>
              <span className="truncate text-muted">{o.about}</span>
            </div>
          ))}
        </div>
      )}
    </div>
  );
}
