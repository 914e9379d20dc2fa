'use client';

import { useQuery } from '@tanstack/react-query';
import type { Item, RigAnswer } from '@/contract';
import type { Reading } from '@/solver/solve';
import { solver } from './solver';

/** Suggested words, props, loops and the fit score of an item, worked out in the solver thread once it is wanted. */
export function useReading(
  item: Item | undefined,
  source: RigAnswer | undefined,
  performer: RigAnswer | undefined,
): Reading | undefined {
  const { data } = useQuery({
    queryKey: ['reading', item?.motionHash, source?.id, source?.mapVersion, performer?.id, performer?.mapVersion],
    queryFn: () => solver().read(item!.motionHash, source!, performer),
    enabled: Boolean(item && source && source.id === item.rigId),
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
  });
  return data;
}
