import { Refusal } from '../errors';

/** Pages of one person that hear what is done. */
const MOST_STREAMS = 20;

const kept = globalThis as { velvetStreams?: Map<string, number> };

/**
 * Takes one of a person's places at the live stream.
 * @returns gives it back, however often it is called
 * @throws Refusal 429 where all are taken
 */
export function takeStream(personId: string): () => void {
  kept.velvetStreams ??= new Map();
  const streams = kept.velvetStreams;
  const open = streams.get(personId) ?? 0;
  if (open >= MOST_STREAMS)
    throw new Refusal(429, 'too-many', `You have ${open} pages of the library open. Close some of them.`);
  streams.set(personId, open + 1);
  let left = false;
  return () => {
    if (left) return;
    left = true;
    const now = (streams.get(personId) ?? 1) - 1;
    if (now > 0) streams.set(personId, now);
    else streams.delete(personId);
  };
}
