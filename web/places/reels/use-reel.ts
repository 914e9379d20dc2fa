'use client';

import { useMemo } from 'react';
import { API } from '@/client/api';
import type { ReelDocument } from '@/contract';
import { REEL, type ReelContent } from '@/documents/reel';
import { type DocumentHandle, type DocumentSource, useDocument } from '@/documents/use-document';

const read = (answer: unknown) => {
  const { content, version } = answer as ReelDocument;
  return { content, version };
};

/** A reel under work, together with colleagues. */
export function useReel(id: string | null, mayChange: boolean): DocumentHandle<ReelContent> {
  const source = useMemo<DocumentSource<ReelContent> | null>(
    () => (id ? { address: `${API}/reels/${id}`, kind: REEL, read, mayChange } : null),
    [id, mayChange],
  );
  return useDocument(source, REEL.empty);
}
