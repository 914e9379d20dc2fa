import { ApiError } from '@/client/api';
import type { RigAnswer } from '@/client/types';

export type Slots = RigAnswer['map']['slots'];
export type SlotChange = (slots: Slots) => Slots;

/** A rig's slots as the server holds them. */
export interface KeptMap {
  slots: Slots;
  version: number;
}

/** Somebody who keeps changing the same map at the same moment is not chased for ever. */
const MOST_TRIES = 3;

interface Queue {
  kept: KeptMap | undefined;
  /** What the page holds may have a refused change in it. */
  doubtful: boolean;
  waiting: number;
  last: Promise<unknown>;
}

/** Writes changes of body maps, those of one rig one after another, each onto what the server holds by then. */
export class MapWrites {
  private readonly queues = new Map<string, Queue>();

  constructor(
    private readonly get: (rigId: string) => Promise<KeptMap>,
    private readonly put: (rigId: string, slots: Slots, version: number) => Promise<KeptMap>,
  ) {}

  /** A rig's map after the last change; undefined while others are on their way, or where the last was refused. */
  kept(rigId: string): KeptMap | undefined {
    const queue = this.queues.get(rigId);
    return queue?.waiting === 0 ? queue.kept : undefined;
  }

  /**
   * Carries a change out. The server is asked first only where nothing is known of its map; where a colleague was quicker,
   * the change is made on theirs.
   * @param known the server's slots as the page holds them; not used while changes are on their way
   * @returns what takes the change back, and nothing else
   */
  write(rigId: string, change: SlotChange, known: KeptMap | undefined): Promise<SlotChange> {
    const queue = this.queues.get(rigId) ?? { kept: known, doubtful: false, waiting: 0, last: Promise.resolve() };
    this.queues.set(rigId, queue);
    if (queue.waiting === 0) queue.kept = queue.doubtful ? undefined : known;
    queue.waiting++;
    const run = async (): Promise<SlotChange> => {
      try {
        for (let tries = 1; ; tries++) {
          queue.kept ??= await this.get(rigId);
          const { slots, version } = queue.kept;
          try {
            queue.kept = await this.put(rigId, change({ ...slots }), version);
            queue.doubtful = false;
            return takesBack(slots, queue.kept.slots);
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

/** Puts the slots that a change touched back to what they were; others keep what has become of them. */
export function takesBack(before: Slots, after: Slots): SlotChange {
  const touched = [...new Set([...Object.keys(before), ...Object.keys(after)])].filter(
    (name) => JSON.stringify(before[name]) !== JSON.stringify(after[name]),
  );
  return (slots) => {
    for (const name of touched) {
      const was = before[name];
      if (was) slots[name] = was;
      else delete slots[name];
    }
    return slots;
  };
}
