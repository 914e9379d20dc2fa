'use client';

import { useHotkeys } from 'react-hotkeys-hook';

/** What has the focus and is not written into: a slider that was just moved must not swallow the keys of its place. */
const NOT_WRITTEN = ['input', 'slider', 'option', 'radio'] as const;
const PRESSED_TYPES = new Set(['range', 'checkbox', 'radio', 'button', 'submit', 'file', 'color']);
/** Keys that move a slider or change a choice while it has the focus. */
const OWN_KEYS = /^(Arrow|Page|Home$|End$)/;

const isWritten = (target: EventTarget | null): boolean =>
  target instanceof HTMLInputElement && !PRESSED_TYPES.has(target.type);
const keepsKey = (target: EventTarget | null, key: string): boolean =>
  OWN_KEYS.test(key) && target instanceof Element && target.closest('input, [role=slider], [role=radio]') !== null;

/** A key of a place. Works while a list row or a slider has the focus too, but never while somebody types. */
export function useKeys(keys: string, run: () => unknown): void {
  useHotkeys(keys, () => void run(), {
    preventDefault: true,
    enableOnFormTags: NOT_WRITTEN,
    // what lies over the place has the keys for itself; a focused button or link keeps its own Space and Enter,
    // but what lies on a lane is no button to press: time is what Space is for there
    ignoreEventWhen: (e) =>
      // Escape that has just closed something
      e.defaultPrevented ||
      isWritten(e.target) ||
      keepsKey(e.target, e.key) ||
      document.querySelector('[role=dialog][data-state=open], [role=menu][data-state=open]') !== null ||
      ((e.key === ' ' || e.key === 'Enter') &&
        e.target instanceof Element &&
        e.target.closest('button:not([data-lane]), a, [role=switch], input:not([type=range])') !== null),
  });
}

/** A key of the whole application, such as undo; not while somebody types, where it belongs to the text. */
export function useGlobalKeys(keys: string, run: () => unknown): void {
  useHotkeys(keys, () => void run(), {
    preventDefault: true,
    enableOnFormTags: NOT_WRITTEN,
    ignoreEventWhen: (e) => isWritten(e.target),
  });
}
