'use client';

import { useQueries } from '@tanstack/react-query';
import { NO_EDITS, type ReelMember } from '@velvet-reel/motion';
import { useEffect, useMemo, useRef, useState } from 'react';
import { API, getJson } from '@/client/api';
import { useCastRigs, useRigs } from '@/client/queries';
import { solver } from '@/client/solver';
import type { FittingDocument, Item, RigAnswer } from '@/contract';
import type { ReelContent } from '@/documents/reel';
import type { ReelPerformance, ReelWish } from '@/solver/solve-reel';
import type { ReelSource } from '@/wishes/reel-source';
import { FIT_DEFAULTS } from '@/wishes/wishes';
import type { Layable } from './reel-edits';

export interface ReelData {
  /** Items on the reel, by id; those that are gone are missing. */
  readonly items: ReadonlyMap<string, Item>;
  /** Rigs of the members, by member id. */
  readonly rigs: ReadonlyMap<string, RigAnswer>;
  /** What each member does, by member id; the former one while the next is worked out. */
  readonly done: ReadonlyMap<string, ReelPerformance>;
  /** What is asked of the solver for a member; missing until all of it is here. */
  readonly wishes: ReadonlyMap<string, ReelWish>;
  /** Why a member cannot be shown, by member id. */
  readonly errors: ReadonlyMap<string, string>;
}

export const layable = ({ id, name, kind, facts }: Item): Layable => ({
  id,
  name,
  frameCount: facts.frameCount,
  fps: facts.fps,
  loops: kind === 'cycle' || facts.loops,
});

const usedBy = (m: ReelMember): string[] => [...new Set([...m.base, ...m.overlays].map((s) => s.itemId))].sort();

/** Everything a reel needs from the library, and what its members do, worked out anew whenever something changes. */
export function usePerformances(reel: ReelContent): ReelData {
  const itemIds = useStableList([...new Set(reel.members.flatMap(usedBy))].sort());
  const castIds = useStableList(reel.members.map((m) => m.castId));
  const pairs = useStableList(
    [...new Set(reel.members.flatMap((m) => usedBy(m).map((i) => `${m.castId} ${i}`)))].sort(),
  );
  const items = useQueries({
    queries: itemIds.map((id) => ({
      queryKey: ['item', id],
      queryFn: () => getJson<Item>(`${API}/items/${id}`),
      retry: false,
    })),
    combine: byId,
  });
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
      for (const id of usedBy(member)) {
        const item = items.get(id);
        const fitting = fittingOf.get(`${member.castId} ${id}`);
        if (!item) continue;
        const source = rigById.get(item.rigId);
        if (!source || fitting === undefined) return undefined;
        const own = item.rigId === target.id && !fitting?.settings;
        out.push({
          itemId: id,
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
  return useMemo(() => ({ items, rigs: rigOf, done, wishes, errors }), [items, rigOf, done, wishes, errors]);
}

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
      s.itemId === o.itemId &&
      s.motionHash === o.motionHash &&
      s.fit?.source === o.fit?.source &&
      s.fit?.settings === o.fit?.settings &&
      s.fit?.edits === o.fit?.edits
    );
  });
