import { sniffFormat } from '@velvet-reel/motion';
import type { Queries } from '../db/client';
import { readInThread } from '../threads/pool';
import type { ReadFile } from '../threads/work';
import { markerBodies } from './rigs';

/** Reads a file that is to come in; a take of markers is solved on the body of an earlier one where it fits. */
export async function readForLibrary(
  db: Queries,
  bytes: Uint8Array,
  name: string,
  skeleton?: Uint8Array,
): Promise<ReadFile> {
  return readInThread(bytes, name, skeleton, holdsMarkers(bytes, name) ? await markerBodies(db) : undefined);
}

function holdsMarkers(bytes: Uint8Array, name: string): boolean {
  try {
    return ['c3d', 'trc'].includes(sniffFormat(bytes, name));
  } catch {
    // what is wrong with it is told when it is read
    return false;
  }
}
