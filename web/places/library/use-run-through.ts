'use client';

import { useEffect, useRef, useState } from 'react';
import type { Clock } from '@/stage/clock';

/** What is played one item after the other: what is listed, or the sequence that an item stands in. */
export type Through = 'list' | 'sequence';

/**
 * Plays one item after the other: when one has come to its end, the next is chosen.
 * @param next chooses what comes next; false where nothing does
 */
export function useRunThrough(
  clock: Clock,
  next: (through: Through) => boolean,
): { running: Through | false; toggle: (through: Through) => void } {
  const [running, setRunning] = useState<Through | false>(false);
  const go = useRef(next);
  go.current = next;
  useEffect(() => {
    if (!running) return;
    const looped = clock.loop;
    clock.setLoop(false);
    clock.setPlaying(true);
    let last = clock.time;
    const untick = clock.onTick(() => {
      const ended = clock.duration > 0 && clock.time >= clock.duration - 1e-3 && last < clock.time + 1e-6;
      last = clock.time;
      if (!ended) return;
      if (!go.current(running)) return setRunning(false);
      clock.seekFrame(0);
      clock.setPlaying(true);
    });
    return () => {
      untick();
      clock.setLoop(looped);
    };
  }, [running, clock]);
  return { running, toggle: (through) => setRunning((r) => (r === through ? false : through)) };
}
