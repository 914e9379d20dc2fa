'use client';

import { useCallback, useEffect, useRef } from 'react';

type Task = () => Promise<void>;

/**
 * Runs one thing at a time; of what is asked for while one runs only the newest waits, so that a drag never makes a queue.
 * Answers that come after the component has gone are dropped.
 */
export function useNewest(): <T>(
  ask: () => Promise<T>,
  done: (answer: T) => void,
  failed: (error: Error) => void,
) => void {
  const state = useRef({ running: false, next: undefined as Task | undefined, gone: false });
  useEffect(() => {
    const s = state.current;
    s.gone = false;
    return () => {
      s.gone = true;
      s.next = undefined;
    };
  }, []);
  return useCallback((ask, done, failed) => {
    const s = state.current;
    s.next = async () => {
      try {
        const answer = await ask();
        if (!s.gone) done(answer);
      } catch (error) {
        if (!s.gone) failed(error as Error);
      }
    };
    if (s.running) return;
    s.running = true;
    void (async () => {
      while (s.next) {
        const task = s.next;
        s.next = undefined;
        await task();
      }
      s.running = false;
    })();
  }, []);
}
