'use client';

import { useMemo, useRef } from 'react';
import type { ReelContent } from '@/documents/reel';
import type { ReelWish } from '@/solver/solve-reel';
import { type ReelData, sameWish } from './use-performances';

/** What a trial is asked of: what is kept, whatever is shown on top of it; the same until that changes. */
export function useTrialWish(
  reel: ReelContent,
  memberId: string | undefined,
  { wishes }: ReelData,
): ReelWish | undefined {
  const member = reel.members.find((m) => m.id === memberId);
  const wish = memberId ? wishes.get(memberId) : undefined;
  const now = useMemo(() => (wish && member ? { ...wish, member } : undefined), [wish, member]);
  const last = useRef(now);
  if (!now || !last.current || !sameWish(last.current, now)) last.current = now;
  return last.current;
}
