'use client';

import { useQueryClient } from '@tanstack/react-query';
import { useEffect } from 'react';
import { create } from 'zustand';
import type { Job, Present } from '@/contract';
import { useMe } from './session';

interface LiveStore {
  /** Whether the server is being heard. */
  connected: boolean;
  present: Present[];
  /** What this page shows. */
  subjectId: string | null;
  /** Where its playhead stands; null where it has none. */
  frame: number | null;
  look: (subjectId: string | null) => void;
}

export const useLive = create<LiveStore>((set) => ({
  connected: true,
  present: [],
  subjectId: null,
  frame: null,
  look: (subjectId) => set({ subjectId, frame: null }),
}));

const clientId = (): string => Math.random().toString(36).slice(2, 14).padEnd(12, '0');
const BEAT_MS = 10_000;
/** A playhead that moves is told no more often. */
const PLAYHEAD_MS = 800;
/** A connection that was refused is tried again after this, then twice as long, up to the longest. */
const FIRST_MS = 1000;
const LONGEST_MS = 30_000;

/** Which lists a change shows in, by what was changed. */
const SHOWS_IN: Record<string, string[]> = {
  item: [
    'items',
    'item',
    'counts',
    'folders',
    'tags',
    'versions',
    'history',
    'uses',
    'freshness',
    'cast-fittings',
    'activity',
    'intakes',
    'completions',
  ],
  folder: ['folders', 'items', 'activity', 'completions'],
  tag: ['tags', 'items', 'activity', 'completions'],
  cast: ['me', 'cast', 'cast-rig', 'cast-fittings', 'freshness', 'counts', 'activity', 'completions'],
  rig: ['rig', 'cast-rig', 'cast', 'cast-fittings', 'freshness', 'activity'],
  fitting: ['document', 'fitting-of', 'activity'],
  reel: ['document', 'reels', 'uses', 'activity'],
  posefield: ['document', 'activity'],
  play: ['document', 'plays', 'uses', 'activity'],
  profile: ['profiles', 'activity'],
  destination: ['destinations', 'activity'],
  person: ['people', 'activity', 'me'],
  job: ['jobs', 'intakes', 'activity'],
  right: ['requests', 'folders', 'activity'],
  search: ['searches'],
  field: ['fields', 'activity'],
};

/** Listens to what colleagues and jobs do, and says what this page shows. Runs once, around everything. */
export function useLiveConnection(): void {
  const client = useQueryClient();
  useEffect(() => {
    const id = clientId();
    const say = (leaving: boolean): void => {
      const { subjectId, frame } = useLive.getState();
      const body = JSON.stringify({ clientId: id, subjectId, frame, leaving });
      void fetch('/api/presence', {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body,
        keepalive: leaving,
      }).catch(() => undefined);
    };
    let due: ReturnType<typeof setTimeout> | undefined;
    const keys = new Set<string>();
    const refreshSoon = (): void => {
      due ??= setTimeout(() => {
        due = undefined;
        for (const key of keys) void client.invalidateQueries({ queryKey: [key] });
        keys.clear();
      }, 120);
    };
    let lost = false;
    let failures = 0;
    let again: ReturnType<typeof setTimeout> | undefined;
    let source: EventSource;
    const opened = (): void => {
      failures = 0;
      useLive.setState({ connected: true });
      // what happened while nobody listened is not told again
      if (lost) void client.invalidateQueries();
      lost = false;
    };
    const failed = (): void => {
      lost = true;
      useLive.setState({ connected: false });
      // the browser tries again by itself only while a connection breaks; an answer that is an error ends it
      if (source.readyState !== EventSource.CLOSED) return;
      clearTimeout(again);
      again = setTimeout(connect, Math.min(LONGEST_MS, FIRST_MS * 2 ** failures));
      failures += 1;
    };
    const heard = (message: MessageEvent): void => {
      const event = JSON.parse(message.data as string) as
        | { type: 'changes'; changes: { subject: string; personId: string }[] }
        | { type: 'jobs'; jobs: Job[] }
        | { type: 'present'; present: Present[] };
      if (event.type === 'changes') {
        for (const c of event.changes) for (const key of SHOWS_IN[c.subject] ?? []) keys.add(key);
        refreshSoon();
      } else if (event.type === 'jobs') {
        client.setQueryData<Job[]>(['jobs'], (before) => {
          const fresh = new Map(event.jobs.map((j) => [j.id, j]));
          const known = (before ?? []).map((j) => fresh.get(j.id) ?? j);
          const seen = new Set(known.map((j) => j.id));
          return [...event.jobs.filter((j) => !seen.has(j.id)), ...known];
        });
        for (const j of event.jobs) void client.invalidateQueries({ queryKey: ['parts', j.id] });
      } else useLive.setState({ present: event.present.filter((p) => p.clientId !== id) });
    };
    const connect = (): void => {
      source = new EventSource('/api/live');
      source.onopen = opened;
      source.onerror = failed;
      source.onmessage = heard;
    };
    connect();
    say(false);
    const beat = setInterval(() => say(false), BEAT_MS);
    let telling: ReturnType<typeof setTimeout> | undefined;
    const unwatch = useLive.subscribe((now, before) => {
      if (now.subjectId !== before.subjectId) say(false);
      else if (now.frame !== before.frame)
        telling ??= setTimeout(() => {
          telling = undefined;
          say(false);
        }, PLAYHEAD_MS);
    });
    const gone = (): void => say(true);
    window.addEventListener('pagehide', gone);
    return () => {
      source.close();
      clearTimeout(again);
      clearInterval(beat);
      clearTimeout(due);
      clearTimeout(telling);
      unwatch();
      window.removeEventListener('pagehide', gone);
      gone();
    };
  }, [client]);
}

/** Says that this page shows a subject, for as long as it does. */
export function useLookingAt(subjectId: string | null | undefined): void {
  const look = useLive((s) => s.look);
  useEffect(() => {
    look(subjectId ?? null);
    return () => look(null);
  }, [subjectId, look]);
}

/** Colleagues who have this open now. */
export const useOthersAt = (subjectId: string | null | undefined, meId: string): string[] => {
  const present = useLive((s) => s.present);
  return [
    ...new Set(present.filter((p) => p.subjectId === subjectId && subjectId && p.personId !== meId).map((p) => p.name)),
  ];
};

/** What has a frame now, and tells when it has another. */
interface Playhead {
  readonly frame: number;
  onTick(run: () => void): () => void;
}

/** Tells colleagues who have the same open where this page's playhead stands; nobody is asked while there are none. */
export function useTellPlayhead(subjectId: string, clock: Playhead): void {
  const meId = useMe().id;
  const watched = useLive((s) => s.present.some((p) => p.subjectId === subjectId && p.personId !== meId));
  useEffect(() => {
    if (!watched) return;
    const tell = (): void => {
      if (useLive.getState().frame !== clock.frame) useLive.setState({ frame: clock.frame });
    };
    tell();
    return clock.onTick(tell);
  }, [watched, clock]);
}

/** The playheads of colleagues who have this open now. */
export const usePlayheadsAt = (subjectId: string, meId: string): (Present & { frame: number })[] => {
  const present = useLive((s) => s.present);
  return present.flatMap((p) =>
    p.subjectId === subjectId && p.personId !== meId && p.frame !== null ? [{ ...p, frame: p.frame }] : [],
  );
};
