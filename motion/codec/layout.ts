// The packed motion, version 2. All numbers little-endian. Described for readers in docs/formats/packed-motion.md.
//
//   0  4  magic "VLVT"
//   4  1  version
//   5  3  zero
//   8  4  frames F                (u32)
//  12  4  joints J                (u32)
//  16  4  frames per second       (f32)
//  20  4  frames a block          (u32)
//  24  4  number of tracks beside the turns (u32)
//  28  4  bytes of the table part (u32)
//  32  4  bound kept, metres      (f32)
//  36  4  zero
//  40  4  checksum of all that follows (Adler-32)
//  44     table part, then the blocks

export const MAGIC = [0x56, 0x4c, 0x56, 0x54] as const;
export const VERSION = 2;
export const HEADER_BYTES = 44;
export const BLOCK_FRAMES = 128;
/** A packed byte may stand for at most so many numbers: bounds what a hostile file can make a reader allocate. */
export const MAX_NUMBERS_PER_BYTE = 65536;

/** Kinds of a joint's turn track. */
export const STILL = 0;
export const MOVING = 1;

/** Kinds of the other tracks, and what lies between their frames, by their numbers in a file. */
export const KINDS = ['place', 'scale', 'number', 'step'] as const;
export const BETWEEN = ['line', 'curve', 'hold'] as const;

/** Highest order of prediction: 0 the value itself, 1 the one before, 2 and 3 the line and the parabola through those before. */
export const ORDERS = 3;
/** So many first values of a run are told plainly; widths are known from then on. */
export const SEEDS = 2;

/** Checksum of the bytes from `start` on (RFC 1950). */
export function adler32(bytes: Uint8Array, start: number): number {
  let a = 1;
  let b = 0;
  for (let i = start; i < bytes.length; ) {
    const end = Math.min(i + 3800, bytes.length);
    for (; i < end; i++) {
      a += bytes[i]!;
      b += a;
    }
    a %= 65521;
    b %= 65521;
  }
  return ((b << 16) | a) >>> 0;
}
