'use client';

import { clsx } from 'clsx';
import { useState } from 'react';
import { useItems } from '@/client/queries';
import { useLater } from '@/client/use-later';
import type { Item } from '@/contract';
import { kindOf } from '@/kinds/kinds';
import { inputLook } from '../ui/field';
import { itemPicker as texts } from './texts';

interface ItemPickerProps {
  label: string;
  /** What may be picked; everything but packs where left out. */
  fits?: (item: Item) => boolean;
  /** Said where nothing fits. */
  nothing: string;
  chosen?: string | undefined;
  onPick: (item: Item) => void;
}

/** So many of what is found are looked through, and shown. */
const LOOKED = 200;
const SHOWN = 6;

/** Names that are what was asked for come before those that begin so, those before names that hold it, and others last. */
function farness(name: string, asked: string): number {
  const [n, a] = [name.toLowerCase(), asked.toLowerCase()];
  if (n === a) return 0;
  if (n.startsWith(a)) return 1;
  return n.includes(a) ? 2 : 3;
}

/** Finds one stored item by words. */
export function ItemPicker({ label, fits = () => true, nothing, chosen, onPick }: ItemPickerProps) {
  const [words, setWords] = useState('');
  const asked = useLater(words.trim(), 200);
  const { data } = useItems({ q: asked }, LOOKED);
  const found = (data?.items ?? [])
    .filter((i) => kindOf(i).fits && fits(i))
    .map((item) => ({ item, far: farness(item.name, asked) }))
    .sort((a, b) => a.far - b.far)
    .map(({ item }) => item);
  return (
    <div>
      <input
        type="search"
        aria-label={label}
        placeholder={texts.findAnItemBy}
        className={`${inputLook} w-full py-0.5!`}
        value={words}
        onChange={(e) => setWords(e.target.value)}
      />
      {data && found.length === 0 && <p className="mt-1 text-[12px] text-muted">{nothing}</p>}
      <ul className="mt-1 flex flex-col">
        {found.slice(0, SHOWN).map((i) => (
          <li key={i.id}>
            <button
              type="button"
              aria-pressed={i.id === chosen}
              onClick={() => onPick(i)}
              className={clsx(
                'flex w-full min-w-0 gap-2 rounded px-1.5 py-px text-left text-[12.5px] hover:bg-raised',
                i.id === chosen && 'text-brass-text',
              )}
            >
              <span className="min-w-0 flex-1 truncate">{i.name}</span>
              <span className="shrink-0 text-muted">{i.kind}</span>
            </button>
          </li>
        ))}
      </ul>
      {found.length > SHOWN && <p className="px-1.5 text-[12px] text-muted">{texts.andMore(found.length - SHOWN)}</p>}
    </div>
  );
}
