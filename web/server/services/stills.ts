import { insertFile } from '../db/bytes';
import type { Queries } from '../db/client';

import { Refusal } from '../errors';
import { sha256 } from '../ids';

const PNG = [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a];
const MOST_PIXELS = 4096;

/** Keeps a picture. Only PNG of a sane size is taken; it is served as such and nothing else. */
export async function keepStill(db: Queries, bytes: Uint8Array): Promise<string> {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const isPng = bytes.length > 33 && PNG.every((b, i) => bytes[i] === b) && view.getUint32(12) === 0x49484452;
  const [width, height] = isPng ? [view.getUint32(16), view.getUint32(20)] : [0, 0];
  if (!isPng || width === 0 || height === 0 || width > MOST_PIXELS || height > MOST_PIXELS)
    throw new Refusal(422, 'no-picture', `A picture is a PNG of at most ${MOST_PIXELS} pixels a side.`);
  const hash = sha256(bytes);
  await insertFile(db, hash, 'image/png', bytes);
  return hash;
}
