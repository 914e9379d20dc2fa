'use client';

import { create } from 'zustand';
import { API, ApiError, getJson, sendFile, sendJson } from '@/client/api';
import { pairFiles, pathOf } from './pair-files';

interface Sending {
  jobId: string;
  total: number;
  sent: number;
  /** Why it came to a stop, if it did. */
  fault: string | null;
}

interface UploadStore {
  sending: Record<string, Sending>;
  /** Opens an intake of many files and sends them; goes on while other places are open. */
  start: (files: readonly File[], wish: { title: string; folder: string; again: boolean }) => Promise<string>;
  /** Sends what has not come yet of an intake that broke off, from the same files chosen again. */
  goOn: (jobId: string, files: readonly File[]) => Promise<number>;
}

const AT_ONCE = 3;
const TRIES = 5;
const aborts = new Map<string, AbortController>();
export const stopSending = (jobId: string): void => aborts.get(jobId)?.abort();

interface Piece {
  number: number;
  file: File;
  skeleton: File | undefined;
}

export const useUploads = create<UploadStore>((set, get) => {
  const patch = (jobId: string, change: Partial<Sending>): void =>
    set((s) => {
      const now = s.sending[jobId];
      return now ? { sending: { ...s.sending, [jobId]: { ...now, ...change } } } : s;
    });

  const send = async (jobId: string, pieces: readonly Piece[]): Promise<void> => {
    const abort = new AbortController();
    aborts.set(jobId, abort);
    set((s) => ({ sending: { ...s.sending, [jobId]: { jobId, total: pieces.length, sent: 0, fault: null } } }));
    const waiting = [...pieces];
    const one = async (): Promise<void> => {
      for (let piece = waiting.shift(); piece && !abort.signal.aborted; piece = waiting.shift()) {
        for (let attempt = 1; ; attempt++) {
          try {
            await sendFile(
              'PUT',
              `${API}/jobs/${jobId}/files/${piece.number}`,
              piece.file,
              piece.skeleton,
              () => undefined,
              abort.signal,
            );
            break;
          } catch (e) {
            // a server that is away for a moment is waited for
            const away = e instanceof ApiError && (e.status === 0 || e.status >= 500) && e.code !== 'cancelled';
            if (!away || attempt >= TRIES) throw e;
            await new Promise((r) => setTimeout(r, 800 * attempt));
          }
        }
        patch(jobId, { sent: (get().sending[jobId]?.sent ?? 0) + 1 });
      }
    };
    try {
      await Promise.all(Array.from({ length: AT_ONCE }, one));
      if (!abort.signal.aborted)
        set((s) => ({ sending: Object.fromEntries(Object.entries(s.sending).filter(([id]) => id !== jobId)) }));
    } catch (e) {
      patch(jobId, { fault: (e as Error).message });
    } finally {
      aborts.delete(jobId);
    }
  };

  return {
    sending: {},
    async start(files, wish) {
      const pairs = pairFiles(files);
      const { id } = await sendJson<{ id: string }>('POST', `${API}/jobs/intake`, {
        ...wish,
        files: pairs.map((p) => ({ name: pathOf(p.file).slice(0, 390), bytes: p.file.size })),
      });
      void send(
        id,
        pairs.map((p, number) => ({ number, ...p })),
      );
      return id;
    },
    async goOn(jobId, files) {
      const missing = await getJson<{ number: number; name: string }[]>(`${API}/jobs/${jobId}/missing`);
      const byName = new Map(pairFiles(files).map((p) => [pathOf(p.file).slice(0, 390), p]));
      const pieces = missing.flatMap(({ number, name }) => {
        const p = byName.get(name);
        return p ? [{ number, ...p }] : [];
      });
      if (pieces.length > 0) void send(jobId, pieces);
      return pieces.length;
    },
  };
});
