'use client';

import { useEffect, useRef, useState } from 'react';
import { solver } from '@/client/solver';
import type { FitAnswer } from '@/solver/solve';
import type { FitWish } from '@/solver/solve-fit';

/** Until then nobody need be told that it is being solved. */
const SLOW_MS = 250;

export interface Solved {
  answer: FitAnswer | undefined;
  /** What was wished for the answer; undefined while what was measured is still that of the answer before. */
  of: FitWish | undefined;
  error: Error | null;
  /** Takes so long that it has to be told. */
  busy: boolean;
}

/**
 * Solves in the worker whenever the wish changes. While one solve runs only the newest wish waits, so that a drag is followed
 * without a queue; the former answer stays until the new one is here.
 * @param shown waits until the figure has been seen moving: drawing and measuring would take the processor from one another
 */
export function useFitting(wish: FitWish | undefined, shown: () => Promise<void>): Solved {
  const [solved, setSolved] = useState<Solved>({ answer: undefined, of: undefined, error: null, busy: false });
  const kept = useRef<FitAnswer>(undefined);
  const runner = useRef({ running: false, next: undefined as FitWish | undefined, gone: false });
  useEffect(() => {
    const r = runner.current;
    r.gone = false;
    return () => {
      r.gone = true;
    };
  }, []);
  useEffect(() => {
    if (!wish) return;
    const r = runner.current;
    r.next = wish;
    if (r.running) return;
    r.running = true;
    // told at once it would have everything drawn anew for a word that nobody could read
    const slow = setTimeout(() => setSolved((s) => ({ ...s, busy: true })), SLOW_MS);
    const go = async (): Promise<void> => {
      while (r.next && !r.gone) {
        const now = r.next;
        r.next = undefined;
        try {
          // the figure moves as soon as it is solved; what was measured follows when nothing newer waits
          const before = kept.current;
          const { source, ...motions } = await solver().fit(now, before?.sourceKey ?? '');
          const moved = { ...motions, source: source ?? before!.source };
          if (r.gone) break;
          if (before) {
            const { report, score, swap, keyed, trails } = before;
            kept.current = { ...moved, report, score, swap, keyed, trails };
            setSolved((s) => ({ answer: kept.current, of: undefined, error: null, busy: s.busy }));
          }
          if (before) await shown();
          if (r.next || r.gone) continue;
          const measures = await solver().measure(now);
          if (r.gone) break;
          kept.current = { ...moved, ...measures };
          setSolved((s) => ({ answer: kept.current, of: now, error: null, busy: s.busy && r.next !== undefined }));
        } catch (error) {
          if (!r.gone) setSolved((s) => ({ ...s, error: error as Error, busy: s.busy && r.next !== undefined }));
        }
      }
      clearTimeout(slow);
      r.running = false;
    };
    void go();
  }, [wish, shown]);
  return solved;
}
