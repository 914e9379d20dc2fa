'use client';

import { useCallback, useRef } from 'react';

/** A function that stays the same from render to render and always does what the newest one does. For events only. */
export function useStable<A extends unknown[], R>(run: (...all: A) => R): (...all: A) => R {
  const newest = useRef(run);
  newest.current = run;
  return useCallback((...all: A) => newest.current(...all), []);
}
