'use client';

import { useQuery } from '@tanstack/react-query';
import { createContext, type ReactNode, useContext, useEffect, useMemo, useState, useSyncExternalStore } from 'react';
import { toast } from 'sonner';
import { ApiError, getJson, sendJson } from '@/client/api';
import { useMe } from '@/client/session';
import { useUndo } from '@/client/undo';
import type { DocumentKind } from './cells';
import {
  Away,
  type Batch,
  type Keeping,
  SharedDocument,
  type Snapshot,
  type Step,
  type Store,
  type Stored,
} from './shared-document';
import { useDocument as texts } from './texts';

/** As many as there are steps to take back. */
const MOST_OPEN = 100;

/** The documents that this page has open or has still to store. */
class OpenDocuments {
  private readonly open = new Map<string, SharedDocument<unknown>>();

  /** @param personId what one person could not save is never saved in the name of the next who signs in here */
  constructor(private readonly personId: string) {}

  get<C>(source: DocumentSource<C>): SharedDocument<C> {
    const known = this.open.get(source.address) as SharedDocument<C> | undefined;
    if (known) return known;
    // a name for each time that a document is opened: its batches are counted from one
    const client = newClient();
    const made = new SharedDocument<C>(
      source.kind,
      storeOf(source),
      client,
      source.mayChange ? keepingOf(`${this.personId} ${source.address}`, client) : undefined,
    );
    this.open.set(source.address, made as SharedDocument<unknown>);
    return made;
  }

  /** Stores a document that is not looked at any more. The way back may lead to it, so those used last stay open. */
  async close(address: string): Promise<void> {
    const document = this.open.get(address);
    if (!document) return;
    this.open.delete(address);
    this.open.set(address, document);
    await document.save();
    for (const [other, { settled, watched }] of this.open)
      if (this.open.size > MOST_OPEN && settled && !watched) this.open.delete(other);
  }

  /** Stores whatever is not stored yet: for what the server is to do with it next. Ends also where that cannot be. */
  saved = async (): Promise<void> => {
    await Promise.all([...this.open.values()].map((d) => d.save()));
  };

  all(): Iterable<SharedDocument<unknown>> {
    return this.open.values();
  }
}

/** Names one who edits to the server. */
const newClient = (): string =>
  Array.from(crypto.getRandomValues(new Uint8Array(12)), (x) => (x % 36).toString(36)).join('');

/** What a document is and where it lies. */
export interface DocumentSource<C> {
  /** Answers GET with the document and PATCH, a batch of writes, with the document after them. */
  readonly address: string;
  readonly kind: DocumentKind<C>;
  readonly read: (answer: unknown) => Stored<C>;
  readonly mayChange: boolean;
  /** See Store.refused. */
  readonly refused?: (why: string) => void;
}

function storeOf<C>({ address, read, mayChange, refused }: DocumentSource<C>): Store<C> {
  const load = async (): Promise<Stored<C>> => read(await getJson(address));
  if (!mayChange) return { load };
  return {
    load,
    ...(refused && { refused }),
    send: async (batch) => {
      try {
        return read(await sendJson('PATCH', address, batch));
      } catch (error) {
        const away = error instanceof ApiError && (error.status === 0 || error.status >= 500 || error.status === 429);
        throw away ? new Away(error.message) : error;
      }
    },
  };
}

/** Another page that is still open stores its own: only what has lain for so long is taken over. */
const ABANDONED_MS = 60_000;
const PREFIX = 'velvet-unsaved ';

/**
 * Keeps unsaved writes in the browser's store, a place for each page, and takes over what closed pages left behind.
 * @param of whose writes, and of which document
 */
function keepingOf(of: string, client: string): Keeping {
  const own = `${PREFIX}${of} ${client}`;
  return {
    read: () => {
      const found: Batch[] = [];
      try {
        for (const key of Object.keys(localStorage)) {
          if (!key.startsWith(`${PREFIX}${of} `) || key === own) continue;
          const { at, batches } = JSON.parse(localStorage.getItem(key) ?? '{}') as { at: number; batches: Batch[] };
          if (Date.now() - at < ABANDONED_MS) continue;
          found.push(...batches);
          localStorage.removeItem(key);
        }
        if (found.length > 0) localStorage.setItem(own, JSON.stringify({ at: Date.now(), batches: found }));
      } catch {
        // a browser without a store, or with a full one, keeps nothing
      }
      return found;
    },
    write: (batches) => {
      try {
        if (batches.length === 0) localStorage.removeItem(own);
        else localStorage.setItem(own, JSON.stringify({ at: Date.now(), batches }));
      } catch {
        // as above
      }
    },
  };
}

const Context = createContext<OpenDocuments | null>(null);

/** Holds the documents of the page, and stores what is left of them when it closes or comes back on line. */
export function DocumentsProvider({ children }: { children: ReactNode }) {
  const { id } = useMe();
  const [documents] = useState(() => new OpenDocuments(id));
  useEffect(() => {
    const leave = (): void => {
      for (const d of documents.all()) d.leave();
    };
    const back = (): void => {
      for (const d of documents.all()) if (!d.settled) void d.save();
    };
    window.addEventListener('pagehide', leave);
    window.addEventListener('online', back);
    return () => {
      window.removeEventListener('pagehide', leave);
      window.removeEventListener('online', back);
    };
  }, [documents]);
  return <Context.Provider value={documents}>{children}</Context.Provider>;
}

export interface DocumentHandle<C> extends Snapshot<C> {
  /** One step, put on the way back; with a gesture, all changes of that gesture are one. See SharedDocument.change. */
  readonly change: (content: C, label: string, gesture?: string) => void;
  /** Sends what is not stored at once. */
  readonly retry: () => void;
  /** Throws away what the server refuses. */
  readonly giveUp: () => void;
}

const NOTHING = (): void => undefined;
const NEVER = (): (() => void) => NOTHING;

/** The documents of this page. */
export function useDocuments(): Pick<OpenDocuments, 'get' | 'close' | 'saved'> {
  const documents = useContext(Context);
  if (!documents) throw new Error('Documents belong inside DocumentsProvider.');
  return documents;
}

/** Puts a step of a document on the way back. */
export const pushStep = (step: Step | null): void => {
  if (!step) return;
  const { label } = step;
  useUndo.getState().push({ label, undo: () => said(step.undo()), redo: () => said(step.redo()) });
};

/** A document that several people edit, kept up to date while it is on show. @param source null while none is chosen */
export function useDocument<C>(source: DocumentSource<C> | null, empty: C): DocumentHandle<C> {
  const documents = useDocuments();
  const document = source ? documents.get(source) : null;
  const address = source?.address;
  // asked again when a colleague works on it
  const { error } = useQuery({
    queryKey: ['document', address],
    queryFn: async () => {
      await document!.load();
      return document!.snapshot().version;
    },
    enabled: document !== null,
    staleTime: 0,
  });
  const [nothing] = useState<Snapshot<C>>(() => ({
    content: empty,
    version: 0,
    loaded: false,
    state: 'saved',
    trouble: null,
  }));
  const snapshot = useSyncExternalStore(
    document?.subscribe ?? NEVER,
    document?.snapshot ?? (() => nothing),
    () => nothing,
  );
  useEffect(() => {
    if (address) return () => void documents.close(address);
  }, [documents, address]);
  return useMemo(
    () => ({
      ...snapshot,
      trouble: snapshot.trouble ?? (snapshot.loaded ? null : (error?.message ?? null)),
      change: (content, label, gesture) => pushStep(document?.change(content, label, gesture) ?? null),
      retry: () => void document?.save(),
      giveUp: () => document?.giveUp(),
    }),
    [snapshot, error, document],
  );
}

/** Tells what of a step was left as a colleague has set it since. */
function said(left: readonly string[]): void {
  if (left.length > 0) toast(texts.somebodyHasChangedPart);
}
