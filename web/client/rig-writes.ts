import type { QueryClient } from '@tanstack/react-query';
import { API, ApiError, getJson } from './api';
import type { RigAnswer } from './types';

interface Queue {
  kept: RigAnswer | undefined;
  /** What the page holds may have a refused change in it. */
  doubtful: boolean;
  waiting: number;
  last: Promise<unknown>;
}

/** Somebody who keeps changing the same rig at the same moment is not chased for ever. */
const MOST_TRIES = 3;

/**
 * Writes what is set for rigs (maps, poses for matching, limits, pairs, sets): changes of one rig one after another, each on
 * what the server holds by then.
 */
export class RigWrites {
  private readonly queues = new Map<string, Queue>();

  constructor(private readonly get: (rigId: string) => Promise<RigAnswer>) {}

  /** A rig after its last change; undefined while others are on their way, or where the last was refused. */
  kept(rigId: string): RigAnswer | undefined {
    const queue = this.queues.get(rigId);
    return queue?.waiting === 0 ? queue.kept : undefined;
  }

  /** A rig as the server holds it after all that is on its way there: what was asked for in between would undo it for a moment. */
  async read(get: () => Promise<RigAnswer>): Promise<RigAnswer> {
    for (;;) {
      const rig = await get();
      const queue = this.queues.get(rig.id);
      if (!queue?.waiting) return rig;
      await queue.last;
    }
  }

  /**
   * Carries a change out. The server is asked first only where nothing is known of the rig; where a colleague was quicker,
   * the change is made on theirs.
   * @param known the rig as the page holds it from the server; not used while changes are on their way
   * @param send makes the change on a rig as the server holds it, and hands back what the server holds then
   * @returns the rig before and after
   */
  write(
    rigId: string,
    known: RigAnswer | undefined,
    send: (now: RigAnswer) => Promise<RigAnswer>,
  ): Promise<{ before: RigAnswer; after: RigAnswer }> {
    const queue = this.queues.get(rigId) ?? { kept: known, doubtful: false, waiting: 0, last: Promise.resolve() };
    this.queues.set(rigId, queue);
    if (queue.waiting === 0) queue.kept = queue.doubtful ? undefined : known;
    queue.waiting++;
    const run = async (): Promise<{ before: RigAnswer; after: RigAnswer }> => {
      try {
        for (let tries = 1; ; tries++) {
          queue.kept ??= await this.get(rigId);
          const before = queue.kept;
          try {
            const after = await send(before);
            queue.kept = after;
            queue.doubtful = false;
            return { before, after };
          } catch (error) {
            queue.kept = undefined;
            queue.doubtful = true;
            if (!(error instanceof ApiError && error.code === 'changed-meanwhile') || tries === MOST_TRIES) throw error;
          }
        }
      } finally {
        queue.waiting--;
      }
    };
    const done = queue.last.then(run);
    queue.last = done.catch(() => undefined);
    return done;
  }
}

/** The one of this window: every place that sets something for a rig waits for the others. */
export const rigWrites = new RigWrites((rigId) => getJson<RigAnswer>(`${API}/rigs/${rigId}`));

/** The newest answer about a rig that the page holds. */
export const knownRig = (client: QueryClient, rigId: string): RigAnswer | undefined =>
  ['rig', 'cast-rig']
    .flatMap((key) => client.getQueriesData<RigAnswer>({ queryKey: [key] }))
    .flatMap(([, rig]) => (rig?.id === rigId ? [rig] : []))
    .sort((a, b) => b.mapVersion - a.mapVersion)[0];
