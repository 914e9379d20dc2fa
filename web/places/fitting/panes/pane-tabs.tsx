'use client';

import type { FittingEdits } from '@velvet-reel/motion';
import { clsx } from 'clsx';
import { PANES, type Pane } from '../use-fitting-view';

export const PANE_WORDS: Readonly<Record<Pane, string>> = {
  trouble: 'Trouble lanes',
  plants: 'Plants',
  goals: 'Goals',
  hand: 'By hand',
  curves: 'Curves',
};

interface PaneTabsProps {
  pane: Pane;
  troubles: number;
  edits: FittingEdits;
  onPane: (pane: Pane) => void;
}

/** What can stand under the clock; a dot where something was done by hand. */
export function PaneTabs({ pane, troubles, edits, onPane }: PaneTabsProps) {
  const byHand: Readonly<Record<Pane, boolean>> = {
    trouble: false,
    plants: edits.plants !== null,
    goals: edits.goals.length + edits.looks.length > 0,
    hand: edits.corrections.length > 0,
    curves: false,
  };
  return (
    <div role="tablist" aria-label="Panes" className="flex gap-1 px-3 pt-1.5 pb-1">
      {PANES.map((p, i) => (
        <button
          key={p}
          type="button"
          role="tab"
          aria-selected={pane === p}
          title={`Key ${i + 1}`}
          onClick={() => onPane(p)}
          className={clsx(
            'rounded px-2 py-0.5 text-[13px]',
            pane === p ? 'heading bg-raised text-ink' : 'text-muted hover:text-ink',
          )}
        >
          {PANE_WORDS[p]}
          {p === 'trouble' && troubles > 0 && <span className="ml-1 text-raspberry">{troubles}</span>}
          {byHand[p] && (
            <span className="ml-1 inline-block size-1.5 rounded-full bg-brass align-middle" title="changed by hand" />
          )}
        </button>
      ))}
    </div>
  );
}
