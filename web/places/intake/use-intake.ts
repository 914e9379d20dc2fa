'use client';

import { useCallback, useEffect, useRef, useState } from 'react';
import { sendFile } from '@/client/api';
import { useRefresh } from '@/client/queries';
import type { IntakeRow } from '@/client/types';
import { type Dropped, pairFiles } from './pair-files';

export interface Pending extends Dropped {
  key: number;
  /** 0 … 1 while it travels, then 'reading'. */
  progress: number | 'reading';
  error?: string;
  abort: AbortController;
}

const AT_ONCE = 2;
let nextKey = 1;

/** Sends dropped files two at a time; each ends as a row of the report or as an error that can be tried again. */
export function useIntake(): {
  pending: Pending[];
  add: (files: File[]) => void;
  cancel: (key: number) => void;
  retry: (key: number) => void;
} {
  const [pending, setPending] = useState<Pending[]>([]);
  // what has been started is never started again, however often the list is drawn anew meanwhile
  const started = useRef(new Set<number>());
  const running = useRef(0);
  const refresh = useRefresh();
  const patch = useCallback(
    (key: number, change: Partial<Pending>) =>
      setPending((all) => all.map((p) => (p.key === key ? { ...p, ...change } : p))),
    [],
  );
  const drop = useCallback((key: number) => setPending((all) => all.filter((p) => p.key !== key)), []);

  useEffect(() => {
    for (const p of pending) {
      if (running.current >= AT_ONCE) return;
      if (started.current.has(p.key)) continue;
      started.current.add(p.key);
      running.current++;
      void sendFile<IntakeRow>(
        'POST',
        '/api/v1/intake',
        p.file,
        p.skeleton,
        (share) => patch(p.key, { progress: share >= 1 ? 'reading' : share }),
        p.abort.signal,
      )
        .then(() => drop(p.key))
        .catch((error: Error) => (p.abort.signal.aborted ? drop(p.key) : patch(p.key, { error: error.message })))
        .finally(() => {
          running.current--;
          refresh();
          setPending((all) => [...all]);
        });
    }
  }, [pending, patch, drop, refresh]);

  return {
    pending,
    add: (files) =>
      setPending((all) => [
        ...all,
        ...pairFiles(files).map((one) => ({ ...one, key: nextKey++, progress: 0, abort: new AbortController() })),
      ]),
    cancel: (key) => {
      pending.find((p) => p.key === key)?.abort.abort();
      if (!started.current.has(key) || pending.find((p) => p.key === key)?.error) drop(key);
    },
    retry: (key) =>
      setPending((all) =>
        all.map((p) =>
          p.key === key
            ? { key: nextKey++, file: p.file, skeleton: p.skeleton, progress: 0, abort: new AbortController() }
            : p,
        ),
      ),
  };
}
