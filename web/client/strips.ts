'use client';

import { type Strip, stripFromBytes } from '@velvet-reel/motion';
import { useEffect, useState } from 'react';
import { API, getBytes } from './api';

const known = new Map<string, Strip>();
const waiting = new Map<string, Set<() => void>>();
let asked = false;

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
    .catch(() => undefined)
    .finally(() => {
      for (const id of wanted) {
        for (const tell of waiting.get(id) ?? []) tell();
        waiting.delete(id);
      }
      if (waiting.size > 0) askSoon(0);
    });
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
