import { AsyncLocalStorage } from 'node:async_hooks';
import { join } from 'node:path';
import type { SkinJson } from '@velvet-reel/motion';
import { Piscina } from 'piscina';
import { Refusal } from '../errors';
import type {
  ChangeOrder,
  CharacterOrder,
  ExportOrder,
  FitOrder,
  Outcome,
  ReadClip,
  ReadFile,
  RespaceOrder,
} from './work';

const kept = globalThis as { velvetThreads?: Piscina };

/** Two threads that read files, solve and write, so that the server keeps answering meanwhile. */
function threads(): Piscina {
  kept.velvetThreads ??= new Piscina({
    filename: join(process.env.VELVET_ROOT ?? process.cwd(), 'web/server/threads/thread.mjs'),
    minThreads: 1,
    maxThreads: 2,
    idleTimeout: 120_000,
    resourceLimits: { maxOldGenerationSizeMb: 3072 },
  });
  return kept.velvetThreads;
}

/** Ends the threads; the next order starts new ones. */
export async function closeThreads(): Promise<void> {
  await kept.velvetThreads?.destroy();
  delete kept.velvetThreads;
}

const stopping = new AsyncLocalStorage<AbortSignal>();

/** Runs something whose work in threads is broken off when the signal says so; it then fails with an AbortError. */
export const stoppable = <T>(signal: AbortSignal, what: () => Promise<T>): Promise<T> => stopping.run(signal, what);

async function run<T>(name: string, order: unknown): Promise<T> {
  const signal = stopping.getStore();
  const outcome = (await threads().run(order, { name, ...(signal && { signal }) })) as Outcome<T>;
  if ('refused' in outcome) throw new Refusal(422, outcome.refused.code, outcome.refused.message);
  return outcome.ok;
}

export const readInThread = (bytes: Uint8Array, name: string, skeleton?: Uint8Array): Promise<ReadFile> =>
  run('readFile', { bytes, name, skeleton });
export const respaceInThread = (order: RespaceOrder): Promise<ReadFile> => run('respace', order);
export const measureSkinInThread = (glb: Uint8Array): Promise<SkinJson | null> => run('measureSkin', glb);
export const fitInThread = (order: FitOrder): Promise<ReadClip & { report: unknown }> => run('fitMotion', order);
export const changeInThread = (order: ChangeOrder): Promise<ReadClip> => run('changeMotion', order);
export const exportInThread = (order: ExportOrder): Promise<Uint8Array> => run('exportFile', order);
export const exportCharacterInThread = (order: CharacterOrder): Promise<Uint8Array> => run('exportCharacter', order);
