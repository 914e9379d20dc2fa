'use client';

import { useCallback, useLayoutEffect, useMemo, useRef, useState, useSyncExternalStore } from 'react';
import { toast } from 'sonner';
import { API } from '@/client/api';
import { useMe } from '@/client/session';
import type { RigAnswer } from '@/contract';
import { RIG_SETUP, type RigSetup } from './rig-setup';
import type { SharedDocument, Stored } from './shared-document';
import { type DocumentSource, pushStep, useDocuments } from './use-document';

/** What an answer about a rig says of its set-up. */
const read = (answer: unknown): Stored<RigSetup> => {
  const { map, match, limits, pairs, sets, mapVersion } = answer as RigAnswer;
  return { content: { slots: map.slots, match, limits, pairs, sets }, version: mapVersion };
};

const refused = (why: string): void => void toast.error(why);

function useSource(): (rigId: string) => DocumentSource<RigSetup> {
  const mayChange = useMe().role !== 'viewer';
  return useCallback(
    (rigId) => ({ address: `${API}/rigs/${rigId}`, kind: RIG_SETUP, read, mayChange, refused }),
    [mayChange],
  );
}

export interface RigSetups {
  /** One step, put on the way back; what is on show follows at once. */
  readonly change: (rig: RigAnswer, label: string, how: (setup: RigSetup) => RigSetup) => void;
  /** A step that the server makes. It is asked when it has all that was set before. @throws what `ask` throws */
  readonly changeThere: (rig: RigAnswer, label: string, ask: (version: number) => Promise<RigAnswer>) => Promise<void>;
}

/** Changes what is set for rigs, together with colleagues. */
export function useRigSetups(): RigSetups {
  const documents = useDocuments();
  const source = useSource();
  return useMemo(() => {
    const of = (rig: RigAnswer): SharedDocument<RigSetup> => {
      const document = documents.get(source(rig.id));
      if (!document.snapshot().loaded) document.take(read(rig));
      return document;
    };
    return {
      change: (rig, label, how) => {
        const document = of(rig);
        pushStep(document.change(how(document.snapshot().content), label));
      },
      changeThere: async (rig, label, ask) => {
        const document = of(rig);
        await document.save();
        pushStep(document.adopt(read(await ask(document.snapshot().version)), label));
      },
    };
  }, [documents, source]);
}

/**
 * Rigs as they are set up on this page: what the server says, with what it does not have yet on top.
 * @param rigs answers about rigs, missing while they are on their way
 * @returns in the same order; the same objects until something changes
 */
export function useSetUp(rigs: readonly (RigAnswer | undefined)[]): readonly (RigAnswer | undefined)[] {
  const documents = useDocuments();
  const source = useSource();
  const ids = rigs.map((rig) => rig?.id ?? '').join(' ');
  const open = useMemo(
    () => ids.split(' ').map((id) => (id === '' ? null : documents.get(source(id)))),
    [ids, documents, source],
  );
  const subscribe = useCallback(
    (listener: () => void) => {
      const ends = open.map((document) => document?.subscribe(listener));
      return () => {
        for (const end of ends) end?.();
      };
    },
    [open],
  );
  useLayoutEffect(() => {
    open.forEach((document, i) => {
      const rig = rigs[i];
      if (document && rig) document.take(read(rig));
    });
  }, [open, rigs]);
  useLayoutEffect(
    () => () => {
      for (const id of ids.split(' ')) if (id !== '') void documents.close(source(id).address);
    },
    [ids, documents, source],
  );
  const [laid] = useState(() => new WeakMap<RigAnswer, { over: RigSetup; version: number; made: RigAnswer }>());
  const last = useRef<readonly (RigAnswer | undefined)[]>([]);
  const snapshot = (): readonly (RigAnswer | undefined)[] => {
    const now = rigs.map((rig, i) => {
      const shown = open[i]?.snapshot();
      if (!rig || !shown?.loaded) return rig;
      const { content, version } = shown;
      const known = laid.get(rig);
      if (known?.over === content && known.version === version) return known.made;
      const { slots, match, limits, pairs, sets } = content;
      const made = {
        ...rig,
        map: { ...rig.map, slots },
        mapVersion: version,
        match,
        limits,
        pairs,
        sets,
      } as RigAnswer;
      laid.set(rig, { over: content, version, made });
      return made;
    });
    if (now.length !== last.current.length || now.some((rig, i) => rig !== last.current[i])) last.current = now;
    return last.current;
  };
  return useSyncExternalStore(subscribe, snapshot, snapshot);
}
