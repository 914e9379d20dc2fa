'use client';

import { create } from 'zustand';
import { sendFile } from '@/client/api';
import type { IntakeRow } from '@/contract';
import { type Dropped, pairFiles } from './pair-files';

export interface Pending extends Dropped {
  key: number;
  /** 0 … 1 while it travels, then 'reading'. */
  progress: number | 'reading';
  state: 'waiting' | 'sending' | 'failed';
  error?: string;
  abort: AbortController;
}

interface IntakeStore {
  pending: readonly Pending[];
  /** How many have ended: a list that shows what came of them is read anew. */
  ended: number;
  add: (files: readonly File[]) => void;
  cancel: (key: number) => void;
  retry: (key: number) => void;
}

const AT_ONCE = 2;

/**
 * Sends dropped files two at a time; each ends as a row of the report or as an error that can be tried again. It belongs to the
 * session, not to a place: whoever drops files and goes on working elsewhere finds them brought in.
 */
export const useIntake = create<IntakeStore>((set, get) => {
  let nextKey = 1;
  const patch = (key: number, change: Partial<Pending>): void =>
    set((s) => ({ pending: s.pending.map((p) => (p.key === key ? { ...p, ...change } : p)) }));
  const drop = (key: number): void => set((s) => ({ pending: s.pending.filter((p) => p.key !== key) }));
  const fresh = (one: Dropped): Pending => ({
    ...one,
    key: nextKey++,
    progress: 0,
    state: 'waiting',
    abort: new AbortController(),
  });

  const send = async (p: Pending): Promise<void> => {
    patch(p.key, { state: 'sending' });
    try {
      await sendFile<IntakeRow>(
        'POST',
        '/api/v1/intake',
        p.file,
        p.skeleton,
        (share) => patch(p.key, { progress: share >= 1 ? 'reading' : share }),
        p.abort.signal,
      );
      drop(p.key);
    } catch (error) {
      if (p.abort.signal.aborted) drop(p.key);
      else patch(p.key, { state: 'failed', error: (error as Error).message });
    }
    set((s) => ({ ended: s.ended + 1 }));
    next();
  };

  const next = (): void => {
    const { pending } = get();
    const free = AT_ONCE - pending.filter((p) => p.state === 'sending').length;
    for (const p of pending.filter((x) => x.state === 'waiting').slice(0, Math.max(0, free))) void send(p);
  };

  return {
    pending: [],
    ended: 0,
    add: (files) => {
      set((s) => ({ pending: [...s.pending, ...pairFiles(files).map(fresh)] }));
      next();
    },
    cancel: (key) => {
      const p = get().pending.find((x) => x.key === key);
      p?.abort.abort();
      if (p?.state !== 'sending') drop(key);
    },
    retry: (key) => {
      set((s) => ({ pending: s.pending.map((p) => (p.key === key ? fresh(p) : p)) }));
      next();
    },
  };
});
