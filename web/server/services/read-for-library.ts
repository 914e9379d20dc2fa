import { sniffFormat } from '@velvet-reel/motion';
import type { Queries } from '../db/client';
import { readInThread } from '../threads/pool';
import type { ReadFile } from '../threads/work';
import { markerBodies } from './rigs';

/**
 * Reads a file that is to come in and keeps it; a take of markers is solved on the body of an earlier one where it fits. Such takes
 * come in one after the other, since one of several that are dropped at once may show the body of the others.
 * @param keep stores what was read @returns what it answers
 */
export async function readForLibrary<T>(
  db: Queries,
  bytes: Uint8Array,
  name: string,
  skeleton: Uint8Array | undefined,
  keep: (read: ReadFile) => Promise<T>,
): Promise<T> {
  if (!holdsMarkers(bytes, name)) return keep(await readInThread(bytes, name, skeleton));
  return inTurn(async () => keep(await readInThread(bytes, name, skeleton, await markerBodies(db))));
}

let turn: Promise<unknown> = Promise.resolve();

/** Waits until all that asked before have ended, well or not. */
function inTurn<T>(run: () => Promise<T>): Promise<T> {
  const own = turn.then(run);
  turn = own.catch(() => undefined);
  return own;
}

function holdsMarkers(bytes: Uint8Array, name: string): boolean {
  try {
    return ['c3d', 'trc'].includes(sniffFormat(bytes, name));
  } catch {
    // what is wrong with it is told when it is read
    return false;
  }
}
