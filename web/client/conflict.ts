'use client';

import { create } from 'zustand';
import type { Conflict, Edit } from '@/contract';

export interface OpenConflict {
  edits: Edit[];
  label: string;
  conflicts: Conflict[];
}

interface ConflictStore {
  open: OpenConflict | null;
  show: (conflict: OpenConflict) => void;
  close: () => void;
}

/** An edit that met somebody else's: kept until its person has decided, so that nothing of theirs is lost. */
export const useConflict = create<ConflictStore>((set) => ({
  open: null,
  show: (open) => set({ open }),
  close: () => set({ open: null }),
}));
