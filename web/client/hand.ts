'use client';

import { create } from 'zustand';
import { persist } from 'zustand/middleware';

/** What lies in the tray besides the performer. */
interface Hand {
  items: { id: string; name: string; about: string }[];
  pickUp: (item: { id: string; name: string; about: string }) => void;
  putDown: (id: string) => void;
}

export const useHand = create<Hand>()(
  persist(
    (set) => ({
      items: [],
      pickUp: (item) => set((s) => ({ items: [item, ...s.items.filter((x) => x.id !== item.id)].slice(0, 4) })),
      putDown: (id) => set((s) => ({ items: s.items.filter((x) => x.id !== id) })),
    }),
    { name: 'velvet-hand', version: 1 },
  ),
);
