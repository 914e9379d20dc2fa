'use client';

import { useEffect, useRef, useState } from 'react';
import type { Clock } from '@/stage/clock';

/** Plays what is listed one after the other: when an item has come to its end, the next is chosen. */
export function useRunThrough(
  clock: Clock,
  count: number,
  index: number,
  choose: (index: number) => void,
): { running: boolean; toggle: () => void } {
  const [running, setRunning] = useState(false);
  const next = useRef({ index, count, choose });
  next.current = { index, count, choose };
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
      const { index: now, count: all, choose: go } = next.current;
      if (now + 1 >= all) return setRunning(false);
      clock.seekFrame(0);
      go(now + 1);
      clock.setPlaying(true);
    });
    return () => {
      untick();
      clock.setLoop(looped);
    };
  }, [running, clock]);
  return { running, toggle: () => setRunning((r) => !r) };
}
