import { AsyncLocalStorage } from 'node:async_hooks';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import type { EngineCondition, MarkerBody, SkinJson } from '@velvet-reel/motion';
import { Piscina } from 'piscina';
import { Refusal } from '../errors';
import { Spent } from './spent';
import { Turns } from './turns';
import type {
  BakeOrder,
  ChangeOrder,
  CharacterOrder,
  ConditionsOrder,
  DrawingSetOrder,
  ExportOrder,
  FitOrder,
  MarkedFigure,
  MarkOrder,
  Outcome,
  ReadClip,
  ReadFile,
  RespaceOrder,
  SceneOrder,
} from './work';

/**
 * Prompt threads serve requests that somebody is waiting for. Patient ones give way to them: they serve jobs, and people who have
 * used a lot of late. Both give way to the thread that answers requests.
 */
type Pace = 'prompt' | 'patient';
const NICE: Readonly<Record<Pace, number>> = { prompt: 5, patient: 19 };
const kept = globalThis as { velvetThreads?: Partial<Record<Pace, Piscina>>; velvetTurns?: Turns; velvetSpent?: Spent };

/** Somebody waits for what is ordered: it is given up after so long. Jobs take longer, and may. */
const WAITED_FOR_MS = 120_000;

/**
 * Threads that read files, solve and write, so that the server keeps answering meanwhile: more than two people can hold up at
 * once, for each has one at most.
 */
function threads(pace: Pace): Piscina {
  kept.velvetThreads ??= {};
  kept.velvetThreads[pace] ??= new Piscina({
    filename: join(process.env.VELVET_ROOT ?? process.cwd(), 'web/server/threads/thread.mjs'),
    minThreads: 1,
    maxThreads: Math.max(4, availableParallelism()),
    idleTimeout: 120_000,
    workerData: { nice: NICE[pace] },
    // numbers of motions lie outside of this: it holds text and objects
    resourceLimits: { maxOldGenerationSizeMb: 1024 },
  });
  return kept.velvetThreads[pace];
}

/** Ends the threads; the next order starts new ones. */
export async function closeThreads(): Promise<void> {
  await Promise.all(Object.values(kept.velvetThreads ?? {}).map((pool) => pool.destroy()));
  delete kept.velvetThreads;
}

interface Asking {
  readonly signal: AbortSignal;
  /** Whose request waits for the work; missing in jobs. */
  readonly personId?: string;
  /** Whether the request as a whole has this person's turn. */
  readonly inTurn?: boolean;
}
const asking = new AsyncLocalStorage<Asking>();

/** Runs something whose work in threads is broken off when the signal says so; it then fails with an AbortError. */
export const stoppable = <T>(signal: AbortSignal, what: () => Promise<T>): Promise<T> => asking.run({ signal }, what);

/**
 * Runs what somebody's request waits for: its work in threads waits for the same person's other work alone, and ends with the
 * request, or when it takes too long.
 */
export const onBehalfOf = <T>(personId: string, signal: AbortSignal, what: () => Promise<T>): Promise<T> =>
  asking.run({ signal, personId }, what);

/** The same for a request that is heavy from its beginning: it waits for its turn before it reads anything. */
export const inTurnOf = <T>(personId: string, signal: AbortSignal, what: () => Promise<T>): Promise<T> =>
  turns().take(personId, signal, () => asking.run({ signal, personId, inTurn: true }, what));

function turns(): Turns {
  kept.velvetTurns ??= new Turns();
  return kept.velvetTurns;
}

function spent(): Spent {
  kept.velvetSpent ??= new Spent();
  return kept.velvetSpent;
}

async function run<T>(name: string, order: unknown): Promise<T> {
  const { signal, personId, inTurn } = asking.getStore() ?? {};
  const outcome =
    personId === undefined
      ? await ordered<T>('patient', name, order, signal, 0)
      : await waitedFor(inTurn ? null : personId, signal!, (s) => orderedBy<T>(personId, name, order, s));
  if ('refused' in outcome) throw new Refusal(422, outcome.refused.code, outcome.refused.message);
  return outcome.ok;
}

/**
 * Breaking an order off ends its thread, and a new one has to be started and to grow quick again. What a person gives up is
 * therefore left to end, and only holds up that person; it is broken off when it takes longer than this.
 */
const GRACE_MS = 30_000;

async function ordered<T>(
  pace: Pace,
  name: string,
  order: unknown,
  signal: AbortSignal | undefined,
  graceMs: number,
): Promise<Outcome<T>> {
  signal?.throwIfAborted();
  const late = new AbortController();
  let timer: NodeJS.Timeout | undefined;
  const given = (): void => {
    timer = setTimeout(() => late.abort(signal!.reason), graceMs);
  };
  signal?.addEventListener('abort', given, { once: true });
  try {
    const done = (await threads(pace).run(order, { name, signal: late.signal })) as Outcome<T>;
    // done all the same, but nobody waits for it any more
    signal?.throwIfAborted();
    return done;
  } finally {
    signal?.removeEventListener('abort', given);
    clearTimeout(timer);
  }
}

async function orderedBy<T>(personId: string, name: string, order: unknown, signal: AbortSignal): Promise<Outcome<T>> {
  const began = performance.now();
  try {
    return await ordered<T>(spent().much(personId) ? 'patient' : 'prompt', name, order, signal, GRACE_MS);
  } finally {
    spent().add(personId, performance.now() - began);
  }
}

/** @param personId whose turn it waits for; null where it has it */
function waitedFor<T>(
  personId: string | null,
  signal: AbortSignal,
  work: (signal: AbortSignal) => Promise<T>,
): Promise<T> {
  const limited = async (): Promise<T> => {
    // not AbortSignal.any: Node 20 forgets such a signal when memory is tidied
    const stop = new AbortController();
    const give = (): void => stop.abort(signal.reason);
    signal.addEventListener('abort', give, { once: true });
    let late = false;
    const timer = setTimeout(() => {
      late = true;
      stop.abort();
    }, WAITED_FOR_MS);
    try {
      return await work(stop.signal);
    } catch (error) {
      if (!late || signal.aborted) throw error;
      throw new Refusal(
        422,
        'too-long',
        `It took more than ${WAITED_FOR_MS / 60_000} minutes and was stopped. Try less at once, or run it as a job.`,
      );
    } finally {
      clearTimeout(timer);
      signal.removeEventListener('abort', give);
    }
  };
  return personId === null ? limited() : turns().take(personId, signal, limited);
}

export const readInThread = (
  bytes: Uint8Array,
  name: string,
  skeleton?: Uint8Array,
  bodies?: readonly MarkerBody[],
): Promise<ReadFile> => run('readFile', { bytes, name, skeleton, bodies });
export const respaceInThread = (order: RespaceOrder): Promise<ReadFile> => run('respace', order);
export const measureSkinInThread = (glb: Uint8Array): Promise<SkinJson | null> => run('measureSkin', glb);
export const fitInThread = (order: FitOrder): Promise<ReadClip & { report: unknown }> => run('fitMotion', order);
export const sceneInThread = (order: SceneOrder): Promise<Uint8Array> => run('writeReel', order);
export const bakeInThread = (order: BakeOrder): Promise<ReadClip> => run('bakeReel', order);
export const changeInThread = (order: ChangeOrder): Promise<ReadClip> => run('changeMotion', order);
export const drawingSetInThread = (order: DrawingSetOrder): Promise<ReadClip> => run('makeDrawingSet', order);
export const markJointsInThread = (order: MarkOrder): Promise<MarkedFigure> => run('markJoints', order);
export const exportInThread = (order: ExportOrder): Promise<Uint8Array> => run('exportFile', order);
export const exportCharacterInThread = (order: CharacterOrder): Promise<Uint8Array> => run('exportCharacter', order);

export const conditionsInThread = (order: ConditionsOrder): Promise<EngineCondition[]> => run('conditions', order);
