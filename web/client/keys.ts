'use client';

import { useHotkeys } from 'react-hotkeys-hook';

/** A key of a place. Works while a list row has the focus too, but never while somebody types. */
export function useKeys(keys: string, run: () => unknown): void {
  useHotkeys(keys, () => void run(), {
    preventDefault: true,
    enableOnFormTags: ['option'],
    // what lies over the place has the keys for itself; a focused button or link keeps its own Space and Enter,
    // but what lies on a lane is no button to press: time is what Space is for there
    ignoreEventWhen: (e) =>
      // Escape that has just closed something
      e.defaultPrevented ||
      document.querySelector('[role=dialog][data-state=open], [role=menu][data-state=open]') !== null ||
      ((e.key === ' ' || e.key === 'Enter') &&
        e.target instanceof Element &&
        e.target.closest('button:not([data-lane]), a, [role=switch]') !== null),
  });
}
