'use client';

import { type FittingEdits, isEdited } from '@velvet-reel/motion';
import { dequal } from 'dequal';
import { useCallback, useMemo, useState } from 'react';
import { API } from '@/client/api';
import { useUndo } from '@/client/undo';
import type { FittingDocument } from '@/contract';
import { FITTING, type FittingContent } from '@/documents/fitting';
import type { SavingState } from '@/documents/shared-document';
import { type DocumentSource, useDocument } from '@/documents/use-document';
import type { FitSettings } from '@/wishes/wishes';
import { useFittingDocument as texts } from './texts';

export type FittingChange = Partial<FittingContent>;

export interface FittingWork {
  settings: FitSettings;
  edits: FittingEdits;
  loaded: boolean;
  /** Whether anything is done by hand. */
  edited: boolean;
  state: SavingState;
  trouble: string | null;
  /** One step; changes of one gesture (a drag) are taken back together. */
  change: (change: FittingChange, label: string, gesture?: string) => void;
  retry: () => void;
  giveUp: () => void;
  /** Settings go along to the source that is chosen next. */
  carry: () => void;
  dropCarried: () => void;
  /** Whether settings were carried over while this pair has stored ones of its own. */
  aside: boolean;
  /** Takes those that are stored. */
  useAside: () => void;
}

const read = (answer: unknown) => {
  const { settings, edits, version } = answer as FittingDocument;
  return { content: { ...FITTING.empty, ...(settings && { settings }), ...(edits && { edits }) }, version };
};

/** The fitting of an item and a cast member: what is set and done by hand, stored as one works, together with colleagues. */
export function useFittingDocument(
  itemId: string | null | undefined,
  castId: string | null | undefined,
  mayChange: boolean,
): FittingWork {
  const source = useMemo<DocumentSource<FittingContent> | null>(
    () =>
      itemId && castId ? { address: `${API}/cast/${castId}/fittings/${itemId}`, kind: FITTING, read, mayChange } : null,
    [itemId, castId, mayChange],
  );
  const document = useDocument(source, FITTING.empty);
  const { content, loaded, version, change: write } = document;
  const [carried, setCarried] = useState<FitSettings | null>(null);
  const push = useUndo((s) => s.push);
  const settings = carried ?? content.settings;
  const { edits } = content;
  const change = useCallback(
    (next: FittingChange, label: string, gesture?: string): void => {
      setCarried(null);
      write({ settings, edits, ...next }, label, gesture);
    },
    [write, settings, edits],
  );
  const carry = useCallback(() => setCarried(settings), [settings]);
  const dropCarried = useCallback(() => setCarried(null), []);
  const useAside = useCallback(() => {
    setCarried(null);
    push({
      label: texts.tookTheSettingsStored,
      undo: () => setCarried(carried),
      redo: () => setCarried(null),
    });
  }, [push, carried]);
  return {
    settings,
    edits,
    loaded,
    edited: isEdited(edits),
    state: document.state,
    trouble: document.trouble,
    change,
    retry: document.retry,
    giveUp: document.giveUp,
    carry,
    dropCarried,
    aside: carried !== null && loaded && version > 0 && !dequal(carried, content.settings),
    useAside,
  };
}
