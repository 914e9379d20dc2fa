'use client';

import { Fragment, type ReactNode, useEffect } from 'react';
import { create } from 'zustand';

/** A film that is made, or waits for the one before it. */
interface Queued {
  readonly number: number;
  /** What makes it. It ends itself. */
  readonly studio: (onEnd: () => void) => ReactNode;
}

interface FilmQueue {
  readonly queue: readonly Queued[];
  readonly add: (studio: Queued['studio']) => void;
  readonly end: (number: number) => void;
}

let count = 0;
/** Films belong to the session: they go on while their maker is elsewhere in the application, one after the other. */
export const useFilms = create<FilmQueue>((set) => ({
  queue: [],
  add: (studio) => set(({ queue }) => ({ queue: [...queue, { number: ++count, studio }] })),
  end: (number) => set(({ queue }) => ({ queue: queue.filter((f) => f.number !== number) })),
}));

/** Where films are made, beside whatever is on show. */
export function Filming() {
  const first = useFilms((s) => s.queue[0]);
  const end = useFilms((s) => s.end);
  const busy = first !== undefined;
  useEffect(() => {
    if (!busy) return;
    const hold = (e: BeforeUnloadEvent): void => e.preventDefault();
    window.addEventListener('beforeunload', hold);
    return () => window.removeEventListener('beforeunload', hold);
  }, [busy]);
  return first ? <Fragment key={first.number}>{first.studio(() => end(first.number))}</Fragment> : null;
}
