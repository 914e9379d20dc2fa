'use client';

import { type Match, meetAt, type Placement } from '@velvet-reel/motion';
import { useState } from 'react';
import { toast } from 'sonner';
import { solver } from '@/client/solver';
import { useStable } from '@/client/use-stable';
import type { ReelWish } from '@/solver/solve-reel';

type Met = ReturnType<typeof meetAt>;
interface Found {
  /** The placement they lead to. */
  readonly of: string;
  readonly list: readonly Match[];
  readonly items: Parameters<typeof meetAt>[3];
}

/** Finds the pairs of frames at which two placements are most alike, and has them meet at one of those. */
export function useMatching({
  wish,
  previous,
  placement,
  fps,
  onMeet,
}: {
  wish: ReelWish | undefined;
  previous: Placement | undefined;
  /** The placement of the join that is chosen. */
  placement: Placement | undefined;
  fps: number;
  onMeet: (previous: Met['previous'], next: Met['next']) => void;
}) {
  const [found, setFound] = useState<Found | null>(null);
  const [tried, setTried] = useState<number | null>(null);
  const ofThis = found && found.of === placement?.id ? found : undefined;
  const takeOf = useStable((from: Found, i: number): void => {
    if (!previous || !placement || from.of !== placement.id || !from.list[i]) return;
    const met = meetAt({ ...previous, to: null }, { ...placement, from: 0 }, from.list[i], from.items, fps);
    onMeet(met.previous, met.next);
    setTried(i);
  });
  const find = useStable(async (): Promise<void> => {
    if (!wish || !previous || !placement) return;
    try {
      const { matches, items } = await solver().matches(wish, previous, placement);
      const now = { of: placement.id, list: matches, items };
      setFound(now);
      setTried(null);
      takeOf(now, 0);
    } catch (e) {
      toast.error((e as Error).message);
    }
  });
  return {
    /** Best first; undefined until they are asked for. */
    matches: ofThis?.list,
    trying: ofThis ? tried : null,
    find: () => void find(),
    take: (i: number) => ofThis && takeOf(ofThis, i),
  };
}
