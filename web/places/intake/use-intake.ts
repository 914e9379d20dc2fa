'use client';

import { useCallback, useEffect, useRef, useState } from 'react';
import { sendFile } from '@/client/api';
import { useRefresh } from '@/client/queries';
import type { IntakeRow } from '@/client/types';

export interface Pending {
  key: number;
  file: File;
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
  const running = useRef(new Set<number>());
  const refresh = useRefresh();
  const patch = useCallback(
    (key: number, change: Partial<Pending>) =>
      setPending((all) => all.map((p) => (p.key === key ? { ...p, ...change } : p))),
    [],
  );
  const drop = useCallback((key: number) => setPending((all) => all.filter((p) => p.key !== key)), []);

  useEffect(() => {
    for (const p of pending) {
      if (running.current.size >= AT_ONCE) return;
      if (running.current.has(p.key) || p.error) continue;
      running.current.add(p.key);
      void sendFile<IntakeRow>(
        '/api/intake',
        p.file,
        (share) => patch(p.key, { progress: share >= 1 ? 'reading' : share }),
        p.abort.signal,
      )
        .then(() => drop(p.key))
        .catch((error: Error) => (p.abort.signal.aborted ? drop(p.key) : patch(p.key, { error: error.message })))
        .finally(() => {
          running.current.delete(p.key);
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
        ...files.map((file) => ({ key: nextKey++, file, progress: 0, abort: new AbortController() })),
      ]),
    cancel: (key) => {
      pending.find((p) => p.key === key)?.abort.abort();
      if (!running.current.has(key)) drop(key);
    },
    retry: (key) =>
      setPending((all) =>
        all.map((p) => (p.key === key ? { key, file: p.file, progress: 0, abort: new AbortController() } : p)),
      ),
  };
}
