'use client';

import { create } from 'zustand';

interface SelectionStore {
  ids: ReadonlySet<string>;
  /** Where a stretch begins. */
  anchor: number;
  only: (id: string, index: number) => void;
  toggle: (id: string, index: number) => void;
  add: (ids: readonly string[]) => void;
  set: (ids: readonly string[]) => void;
  clear: () => void;
}

/** Items that one action is for. */
export const useSelection = create<SelectionStore>((set) => ({
  ids: new Set(),
  anchor: 0,
  only: (id, anchor) => set({ ids: new Set([id]), anchor }),
  toggle: (id, anchor) =>
    set((s) => {
      const ids = new Set(s.ids);
      if (!ids.delete(id)) ids.add(id);
      return { ids, anchor };
    }),
  add: (more) => set((s) => ({ ids: new Set([...s.ids, ...more]) })),
  set: (ids) => set({ ids: new Set(ids) }),
  clear: () => set({ ids: new Set() }),
}));
