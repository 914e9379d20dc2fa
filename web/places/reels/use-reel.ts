'use client';

import { useCallback, useMemo } from 'react';
import { API } from '@/client/api';
import type { ReelDocument } from '@/contract';
import { REEL, type ReelContent } from '@/documents/reel';
import { type DocumentHandle, type DocumentSource, useDocument } from '@/documents/use-document';

const read = (answer: unknown) => {
  const { content, version } = answer as ReelDocument;
  return { content, version };
};

export type Change = (content: ReelContent, label: string, gesture?: string) => void;

/** A reel under work, together with colleagues. */
export function useReel(id: string | null, mayChange: boolean): DocumentHandle<ReelContent> {
  const source = useMemo<DocumentSource<ReelContent> | null>(
    () => (id ? { address: `${API}/reels/${id}`, kind: REEL, read, mayChange } : null),
    [id, mayChange],
  );
  return useDocument(source, REEL.empty);
}

/** Changes that are worked out on what the reel is when they are made. */
export function useChange({ content, change }: DocumentHandle<ReelContent>): Change {
  return useCallback(
    (next, label, gesture) => {
      if (next !== content) change(next, label, gesture);
    },
    [content, change],
  );
}
