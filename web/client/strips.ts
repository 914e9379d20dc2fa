'use client';

import { type Strip, stripFromBytes } from '@velvet-reel/motion';
import { LRUCache } from 'lru-cache';
import { useEffect, useState } from 'react';
import { API, getBytes } from './api';

/** Strips that are kept, the ones used last; a strip takes some 2 to 20 kB. */
const known = new LRUCache<string, Strip>({ max: 4000 });
const waiting = new Map<string, Set<() => void>>();
let asked = false;
let failures = 0;
/** Strips that did not come are asked for again after this, then twice as long, up to half a minute. */
const AGAIN_MS = 1000;
const LONGEST_MS = 30_000;

function askSoon(delay: number): void {
  if (asked) return;
  asked = true;
  setTimeout(ask, delay);
}

/** Asks for all strips wanted within a moment in one request. */
function ask(): void {
  asked = false;
  const wanted = [...waiting.keys()].slice(0, 100);
  void getBytes(`${API}/strips?readings=${wanted.join(',')}`)
    .then((bytes) => {
      const view = new DataView(bytes.buffer);
      for (let at = 0; at < bytes.length; ) {
        const idLength = bytes[at]!;
        const id = new TextDecoder().decode(bytes.subarray(at + 1, at + 1 + idLength));
        const size = view.getUint32(at + 1 + idLength, true);
        const start = at + 5 + idLength;
        known.set(id, stripFromBytes(bytes.slice(start, start + size)));
        at = start + size;
      }
    })
    .then(
      () => {
        failures = 0;
        for (const id of wanted) {
          for (const tell of waiting.get(id) ?? []) tell();
          waiting.delete(id);
        }
        if (waiting.size > 0) askSoon(0);
      },
      () => {
        // rows that are not on the screen any longer are not asked for again
        for (const id of wanted) if (waiting.get(id)?.size === 0) waiting.delete(id);
        if (waiting.size > 0) askSoon(Math.min(LONGEST_MS, AGAIN_MS * 2 ** failures++));
      },
    );
}

/** The strip of a reading; undefined until it is here. */
export function useStrip(readingId: string): Strip | undefined {
  const [, redraw] = useState(0);
  useEffect(() => {
    if (known.has(readingId)) return;
    const tell = (): void => redraw((n) => n + 1);
    const set = waiting.get(readingId) ?? new Set();
    set.add(tell);
    waiting.set(readingId, set);
    askSoon(8);
    return () => {
      set.delete(tell);
    };
  }, [readingId]);
  return known.get(readingId);
}
