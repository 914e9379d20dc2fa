'use client';

import { useQueries } from '@tanstack/react-query';
import { laidOf, NO_EDITS, type ReelMember, type Stretch } from '@velvet-reel/motion';
import { useEffect, useMemo, useRef, useState } from 'react';
import { API, getJson } from '@/client/api';
import { useCastRigs, useRigs } from '@/client/queries';
import { solver } from '@/client/solver';
import type { FittingDocument, Item, RigAnswer, Version } from '@/contract';
import type { ReelContent } from '@/documents/reel';
import type { ReelPerformance, ReelWish } from '@/solver/solve-reel';
import type { ReelSource } from '@/wishes/reel-source';
import { FIT_DEFAULTS } from '@/wishes/wishes';
import type { Layable } from './reel-edits';

export interface ReelData {
  /** What is laid, by laidOf, in the version that is laid; what is gone is missing. */
  readonly items: ReadonlyMap<string, Item>;
  /** Items as they are now, by id. */
  readonly newest: ReadonlyMap<string, Item>;
  /** Rigs of the members, by member id. */
  readonly rigs: ReadonlyMap<string, RigAnswer>;
  /** What each member does, by member id; the former one while the next is worked out. */
  readonly done: ReadonlyMap<string, ReelPerformance>;
  /** What is asked of the solver for a member; missing until all of it is here. */
  readonly wishes: ReadonlyMap<string, ReelWish>;
  /** Why a member cannot be shown, by member id. */
  readonly errors: ReadonlyMap<string, string>;
}

export const layable = ({ id, versionId, name, kind, facts }: Item): Layable => ({
  id,
  versionId,
  name,
  frameCount: facts.frameCount,
  fps: facts.fps,
  loops: kind === 'cycle' || facts.loops,
});

const stretchesOf = (m: ReelMember): Stretch[] => [...m.base, ...m.overlays];
const usedBy = (m: ReelMember): string[] => [...new Set(stretchesOf(m).map((s) => s.itemId))].sort();
const laidBy = (m: ReelMember): string[] => [...new Set(stretchesOf(m).map(laidOf))].sort();

/** Everything a reel needs from the library, and what its members do, worked out anew whenever something changes. */
export function usePerformances(reel: ReelContent): ReelData {
  const itemIds = useStableList([...new Set(reel.members.flatMap(usedBy))].sort());
  const castIds = useStableList(reel.members.map((m) => m.castId));
  const pairs = useStableList(
    [...new Set(reel.members.flatMap((m) => usedBy(m).map((i) => `${m.castId} ${i}`)))].sort(),
  );
  const newest = useQueries({
    queries: itemIds.map((id) => ({
      queryKey: ['item', id],
      queryFn: () => getJson<Item>(`${API}/items/${id}`),
      retry: false,
    })),
    combine: byId,
  });
  const laid = useStableList([...new Set(reel.members.flatMap(laidBy))].sort());
  const items = useLaid(laid, newest);
  const rigs = useCastRigs(castIds);
  const rigIds = useStableList([...new Set([...items.values()].map((i) => i.rigId))].sort());
  const sourceRigs = useRigs(rigIds);
  const fittings = useQueries({
    queries: pairs.map((pair) => {
      const [cast, item] = pair.split(' ');
      return {
        queryKey: ['fitting-of', cast, item],
        queryFn: () => getJson<FittingDocument>(`${API}/cast/${cast}/fittings/${item}`),
        staleTime: 30_000,
        retry: false,
      };
    }),
    combine: settled,
  });
  const rigOf = useMemo(
    () => new Map(reel.members.flatMap((m, i) => (rigs[i] ? [[m.id, rigs[i]] as const] : []))),
    [reel.members, rigs],
  );
  const sources = useMemo(() => {
    const rigById = new Map(rigIds.map((id, i) => [id, sourceRigs[i]]));
    const fittingOf = new Map(pairs.map((pair, i) => [pair, fittings[i]]));
    return (member: ReelMember, target: RigAnswer): ReelSource[] | undefined => {
      const out: ReelSource[] = [];
      for (const key of laidBy(member)) {
        const item = items.get(key);
        const fitting = fittingOf.get(`${member.castId} ${item?.id}`);
        if (!item) continue;
        const source = rigById.get(item.rigId);
        if (!source || fitting === undefined) return undefined;
        const own = item.rigId === target.id && !fitting?.settings;
        out.push({
          laid: key,
          motionHash: item.motionHash,
          fit: own ? null : { source, settings: fitting?.settings ?? FIT_DEFAULTS, edits: fitting?.edits ?? NO_EDITS },
        });
      }
      return out;
    };
  }, [items, rigIds, sourceRigs, pairs, fittings]);
  const wishes = useMemo(() => {
    const out = new Map<string, ReelWish>();
    for (const member of reel.members) {
      const target = rigOf.get(member.id);
      const own = target && sources(member, target);
      if (own) out.set(member.id, { fps: reel.fps, frames: reel.frames, member, target, sources: own });
    }
    return out;
  }, [reel.members, reel.fps, reel.frames, rigOf, sources]);
  const { done, errors } = usePerformed(wishes);
  return useMemo(
    () => ({ items, newest, rigs: rigOf, done, wishes, errors }),
    [items, newest, rigOf, done, wishes, errors],
  );
}

/** What is laid, as an item: with the motion of its version where that is not in force any more. */
function useLaid(laid: readonly string[], newest: ReadonlyMap<string, Item>): ReadonlyMap<string, Item> {
  const older = useStableList(
    [
      ...new Set(
        laid.flatMap((key) => {
          const [id, version] = key.split(' ');
          const item = newest.get(id!);
          return version !== undefined && item && item.versionId !== version ? [id!] : [];
        }),
      ),
    ].sort(),
  );
  const versions = useQueries({
    queries: older.map((id) => ({
      queryKey: ['versions', id],
      queryFn: () => getJson<Version[]>(`${API}/items/${id}/versions`),
      retry: false,
    })),
    combine: versionsOf,
  });
  return useMemo(() => {
    const out = new Map<string, Item>();
    for (const key of laid) {
      const [id, version] = key.split(' ');
      const item = newest.get(id!);
      if (!item) continue;
      if (version === undefined || item.versionId === version) out.set(key, item);
      else {
        const own = versions.get(version);
        if (!own) continue;
        const { motionHash, rigId, readingId, frames, fps } = own;
        const facts = { ...item.facts, frameCount: frames, fps };
        out.set(key, { ...item, versionId: version, motionHash, rigId, readingId, facts });
      }
    }
    return out;
  }, [laid, newest, versions]);
}
const versionsOf = (queries: readonly { data: Version[] | undefined }[]): ReadonlyMap<string, Version> =>
  new Map(queries.flatMap(({ data }) => (data ?? []).map((v) => [v.id, v] as const)));

function byId(queries: readonly { data: Item | undefined }[]): ReadonlyMap<string, Item> {
  return new Map(queries.flatMap(({ data }) => (data && data.binnedAt === null ? [[data.id, data] as const] : [])));
}
/** undefined while one is on its way, null where there is none to be had. */
const settled = (queries: readonly { data: FittingDocument | undefined; isError: boolean }[]) =>
  queries.map((q) => q.data ?? (q.isError ? null : undefined));

/** The same array until what it says differs. */
function useStableList(list: string[]): readonly string[] {
  const kept = useRef(list);
  if (kept.current.length !== list.length || kept.current.some((x, i) => x !== list[i])) kept.current = list;
  return kept.current;
}

/** Asks the solver for every member whose wish has changed; of those that wait only the newest is worked out. */
function usePerformed(wishes: ReadonlyMap<string, ReelWish>) {
  const [shown, setShown] = useState<{
    done: ReadonlyMap<string, ReelPerformance>;
    errors: ReadonlyMap<string, string>;
  }>({ done: new Map(), errors: new Map() });
  const state = useRef({ running: false, wanted: wishes, asked: new Map<string, ReelWish>(), gone: false });
  useEffect(() => {
    const s = state.current;
    s.gone = false;
    return () => {
      s.gone = true;
    };
  }, []);
  useEffect(() => {
    const s = state.current;
    s.wanted = wishes;
    if (s.running) return;
    s.running = true;
    void (async () => {
      for (;;) {
        const due = [...s.wanted].find(([id, wish]) => !sameWish(s.asked.get(id), wish));
        if (!due || s.gone) break;
        const [id, wish] = due;
        s.asked.set(id, wish);
        try {
          const performed = await solver().perform(wish);
          if (s.gone) break;
          setShown(({ done, errors }) => ({
            done: new Map(done).set(id, performed),
            errors: without(errors, id),
          }));
        } catch (error) {
          if (!s.gone)
            setShown(({ done, errors }) => ({ done, errors: new Map(errors).set(id, (error as Error).message) }));
        }
      }
      s.running = false;
    })();
  }, [wishes]);
  return shown;
}

const without = (map: ReadonlyMap<string, string>, id: string): ReadonlyMap<string, string> => {
  if (!map.has(id)) return map;
  const out = new Map(map);
  out.delete(id);
  return out;
};

/** Whether two wishes ask the same. */
export const sameWish = (a: ReelWish | undefined, b: ReelWish): boolean =>
  a !== undefined &&
  a.member === b.member &&
  a.fps === b.fps &&
  a.frames === b.frames &&
  a.target === b.target &&
  a.sources.length === b.sources.length &&
  a.sources.every((s, i) => {
    const o = b.sources[i]!;
    return (
      s.laid === o.laid &&
      s.motionHash === o.motionHash &&
      s.fit?.source === o.fit?.source &&
      s.fit?.settings === o.fit?.settings &&
      s.fit?.edits === o.fit?.edits
    );
  });
