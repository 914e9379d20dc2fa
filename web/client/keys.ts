'use client';

import { useHotkeys } from 'react-hotkeys-hook';

/** A key of a place. Works while a list row has the focus too, but never while somebody types. */
export function useKeys(keys: string, run: () => unknown): void {
  useHotkeys(keys, () => void run(), { preventDefault: true, enableOnFormTags: ['option'] });
}
