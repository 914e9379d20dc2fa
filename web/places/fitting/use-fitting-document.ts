'use client';

import { useQuery } from '@tanstack/react-query';
import { type FittingEdits, isEdited, NO_EDITS } from '@velvet-reel/motion';
import { useCallback, useEffect } from 'react';
import { toast } from 'sonner';
import { create } from 'zustand';
import { API, ApiError, getJson, sendJson } from '@/client/api';
import type { FittingDocument } from '@/client/types';
import { useUndo } from '@/client/undo';
import { FIT_DEFAULTS, type FitSettings } from '@/workers/wishes';

/** What stands of one fitting: for each source and target one. */
export interface FittingState {
  settings: FitSettings;
  edits: FittingEdits;
  version: number;
  state: 'saved' | 'waiting' | 'saving' | 'refused';
  /** Settings that were stored for this pair, while others were carried over from the source before. */
  aside: FitSettings | null;
}
export type FittingChange = Partial<Pick<FittingState, 'settings' | 'edits'>>;

interface Documents {
  byPair: Record<string, FittingState>;
  /** Settings on their way to the next source. */
  carried: FitSettings | null;
  put: (pair: string, change: Partial<FittingState>) => void;
}

const useDocuments = create<Documents>((set) => ({
  byPair: {},
  carried: null,
  put: (pair, change) => set((s) => ({ byPair: { ...s.byPair, [pair]: { ...(s.byPair[pair] ?? EMPTY), ...change } } })),
}));

const EMPTY: FittingState = { settings: FIT_DEFAULTS, edits: NO_EDITS, version: 0, state: 'saved', aside: null };
const SAVE_AFTER_MS = 500;
/** A server that is away is tried again after this. */
const AGAIN_MS = 4000;
const GESTURE_MS = 1200;

const timers = new Map<string, ReturnType<typeof setTimeout>>();
/** Fittings of which a save is under way: the next waits for its version. */
const flying = new Set<string>();
const address = (pair: string): string => {
  const [item, cast] = pair.split(' ');
  return `${API}/cast/${cast}/fittings/${item}`;
};

const load = (pair: string): Promise<FittingDocument> => getJson<FittingDocument>(address(pair));

/** Takes over what the server has, unless own work has still to be stored or nothing is new about it. */
function accept(pair: string, found: FittingDocument, anyhow = false): void {
  const { put, byPair, carried } = useDocuments.getState();
  const mine = byPair[pair];
  if (!anyhow && mine && mine.state !== 'saved') return;
  if (!anyhow && mine && carried === null && found.version <= mine.version) return;
  useDocuments.setState({ carried: null });
  const own = found.settings ?? FIT_DEFAULTS;
  const differs = carried !== null && JSON.stringify(carried) !== JSON.stringify(own);
  put(pair, {
    settings: carried ?? own,
    edits: found.edits ?? NO_EDITS,
    version: found.version,
    state: 'saved',
    aside: differs && found.settings ? found.settings : null,
  });
}

async function save(pair: string, keepalive = false): Promise<void> {
  clearTimeout(timers.get(pair));
  timers.delete(pair);
  const { byPair, put } = useDocuments.getState();
  const now = byPair[pair];
  if (now?.state !== 'waiting' && now?.state !== 'refused') return;
  if (flying.has(pair) && !keepalive) return;
  flying.add(pair);
  put(pair, { state: 'saving' });
  const body = { settings: now.settings, edits: now.edits, version: now.version };
  try {
    const done = keepalive
      ? await fetch(address(pair), {
          method: 'PUT',
          keepalive: true,
          headers: { 'content-type': 'application/json' },
          body: JSON.stringify(body),
        }).then((r) => {
          if (!r.ok) throw new Error(`the server answered with ${r.status}`);
          return r.json() as Promise<{ version: number }>;
        })
      : await sendJson<{ version: number }>('PUT', address(pair), body);
    flying.delete(pair);
    const later = useDocuments.getState().byPair[pair]!;
    put(pair, { version: done.version, state: later.state === 'waiting' ? 'waiting' : 'saved' });
    if (later.state === 'waiting') schedule(pair);
  } catch (error) {
    flying.delete(pair);
    if (error instanceof ApiError && error.code === 'changed-meanwhile') {
      toast.error(error.message);
      accept(pair, await load(pair), true);
    } else {
      put(pair, { state: 'refused' });
      const away = error instanceof ApiError && (error.status === 0 || error.status >= 500);
      if (now.state === 'waiting')
        toast.error(`The fitting is not stored${away ? ' yet; it is tried again' : ''}: ${(error as Error).message}`);
      if (away) schedule(pair, AGAIN_MS);
    }
  }
}

function schedule(pair: string, after = SAVE_AFTER_MS): void {
  clearTimeout(timers.get(pair));
  timers.set(
    pair,
    setTimeout(() => void save(pair), after),
  );
}

/** Settings go along to the next source that is chosen. */
export const carrySettings = (settings: FitSettings): void => useDocuments.setState({ carried: settings });

const lastGesture = { pair: '', label: '', at: 0 };

/** The fitting of an item and a cast member: what is set and done by hand, stored as one works, with a way back for each step. */
export function useFittingDocument(
  itemId: string | null | undefined,
  castId: string | null | undefined,
  mayChange: boolean,
): FittingState & {
  loaded: boolean;
  edited: boolean;
  /** One step; steps of the same name in quick succession (a drag) are taken back together. */
  change: (change: FittingChange, label: string) => void;
  useAside: () => void;
} {
  const pair = itemId && castId ? `${itemId} ${castId}` : '';
  const known = useDocuments((s) => s.byPair[pair]);
  const push = useUndo((s) => s.push);
  // asked again when a colleague works on it
  const { data: found } = useQuery({
    queryKey: ['fitting-document', pair],
    queryFn: () => load(pair),
    enabled: pair !== '',
    staleTime: 0,
  });
  useEffect(() => {
    if (pair && found) accept(pair, found);
  }, [pair, found]);
  useEffect(() => {
    if (pair) return () => void save(pair);
  }, [pair]);
  useEffect(() => {
    const leave = (): void => {
      for (const p of timers.keys()) void save(p, true);
    };
    window.addEventListener('pagehide', leave);
    return () => window.removeEventListener('pagehide', leave);
  }, []);
  const write = useCallback(
    (to: string, change: FittingChange): void => {
      const { put } = useDocuments.getState();
      put(to, { ...change, ...(mayChange ? { state: 'waiting' } : {}) });
      if (mayChange) schedule(to);
    },
    [mayChange],
  );
  const change = useCallback(
    (next: FittingChange, label: string): void => {
      if (!pair) return;
      const before = useDocuments.getState().byPair[pair] ?? EMPTY;
      const now = performance.now();
      const goesOn = lastGesture.pair === pair && lastGesture.label === label && now - lastGesture.at < GESTURE_MS;
      Object.assign(lastGesture, { pair, label, at: now });
      write(pair, next);
      if (goesOn) return;
      const was = { settings: before.settings, edits: before.edits };
      push({
        label,
        undo: () => {
          lastGesture.at = 0;
          write(pair, was);
        },
      });
    },
    [pair, push, write],
  );
  const state = known ?? EMPTY;
  const useAside = useCallback(() => {
    const aside = useDocuments.getState().byPair[pair]?.aside;
    if (!aside) return;
    change({ settings: aside }, 'Took the settings stored for this pair');
    useDocuments.getState().put(pair, { aside: null });
  }, [pair, change]);
  return { ...state, loaded: known !== undefined, edited: isEdited(state.edits), change, useAside };
}
