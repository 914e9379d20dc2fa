'use client';

import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { solver } from '@/client/solver';
import type { Item, RigAnswer } from '@/client/types';
import type { FitSettings } from '@/workers/settings';
import type { FitAnswer } from '@/workers/solve';

/** Solves in the worker whenever source, target, maps or settings change; the former answer stays until the new one is here. */
export function useFitting(
  item: Item | undefined,
  source: RigAnswer | undefined,
  target: RigAnswer | undefined,
  settings: FitSettings,
): { answer: FitAnswer | undefined; error: Error | null; busy: boolean } {
  const { data, error, isFetching } = useQuery({
    queryKey: [
      'fitting',
      item?.motionHash,
      source?.id,
      source?.mapVersion,
      target?.id,
      target?.mapVersion,
      target?.floorM,
      settings,
    ],
    queryFn: () => solver().fit({ motionHash: item!.motionHash, source: source!, target: target!, settings }),
    enabled: Boolean(item && source && target),
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 30_000,
    retry: false,
    placeholderData: keepPreviousData,
  });
  return { answer: data, error, busy: isFetching };
}
