'use client';

import type { FittingEdits } from '@velvet-reel/motion';
import { TabList } from '@/ui/tabs';
import { paneTabs as texts } from '../texts';
import { PANES, type Pane } from '../use-fitting-view';

export const PANE_WORDS: Readonly<Record<Pane, string>> = {
  trouble: texts.troubleLanes,
  plants: texts.plants,
  goals: texts.goals,
  hand: texts.byHand,
  curves: texts.curves,
  drawings: texts.drawings,
  swap: texts.swap,
};

interface PaneTabsProps {
  troubles: number;
  edits: FittingEdits;
  /** Of a cut-out, which has drawings to choose and no goals in space. */
  flat?: boolean;
  /** One cut-out takes another's place. */
  swap?: boolean;
}

/** What can stand under the clock; a dot where something was done by hand. Stands inside Tabs. */
export function PaneTabs({ troubles, edits, flat = false, swap = false }: PaneTabsProps) {
  const byHand: Readonly<Record<Pane, boolean>> = {
    trouble: false,
    plants: edits.plants !== null,
    goals: edits.goals.length + edits.looks.length > 0,
    hand: edits.corrections.length > 0,
    curves: false,
    drawings: (edits.exposures ?? []).length > 0,
    swap: (edits.offKeys ?? []).length > 0,
  };
  return (
    <TabList
      label={texts.panes}
      className="px-3 pt-1.5 pb-1"
      tabs={PANES.filter((p) => (p === 'swap' ? swap : p !== (flat ? 'goals' : 'drawings'))).map((p) => ({
        value: p,
        title: texts.key(PANES.indexOf(p) + 1),
        word: (
          <>
            {PANE_WORDS[p]}
            {p === 'trouble' && troubles > 0 && <span className="ml-1 text-raspberry">{troubles}</span>}
            {byHand[p] && (
              <span
                className="ml-1 inline-block size-1.5 rounded-full bg-brass align-middle"
                title={texts.changedByHand}
              />
            )}
          </>
        ),
      }))}
    />
  );
}
