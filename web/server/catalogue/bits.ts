/** A set of rows, one bit each. */
export type Bits = Uint32Array;

export const newBits = (rows: number): Bits => new Uint32Array((rows + 31) >>> 5);
export const hasBit = (bits: Bits, row: number): boolean => ((bits[row >>> 5]! >>> (row & 31)) & 1) === 1;
export const setBit = (bits: Bits, row: number): void => {
  bits[row >>> 5] = bits[row >>> 5]! | (1 << (row & 31));
};
export const clearBit = (bits: Bits, row: number): void => {
  bits[row >>> 5] = bits[row >>> 5]! & ~(1 << (row & 31));
};

/** a ∧ b into a; a may be longer. */
export function andInto(a: Bits, b: Bits): void {
  for (let i = 0; i < a.length; i++) a[i] = a[i]! & (b[i] ?? 0);
}
export function orInto(a: Bits, b: Bits): void {
  for (let i = 0; i < a.length; i++) a[i] = a[i]! | (b[i] ?? 0);
}
export function andNotInto(a: Bits, b: Bits): void {
  for (let i = 0; i < a.length; i++) a[i] = a[i]! & ~(b[i] ?? 0);
}

export function countBits(bits: Bits): number {
  let n = 0;
  for (let i = 0; i < bits.length; i++) {
    let x = bits[i]!;
    x -= (x >>> 1) & 0x55555555;
    x = (x & 0x33333333) + ((x >>> 2) & 0x33333333);
    n += (((x + (x >>> 4)) & 0x0f0f0f0f) * 0x01010101) >>> 24;
  }
  return n;
}

/** Calls for every row of the set, in order. */
export function eachBit(bits: Bits, visit: (row: number) => void): void {
  for (let i = 0; i < bits.length; i++) {
    let x = bits[i]!;
    while (x !== 0) {
      const low = x & -x;
      visit((i << 5) + 31 - Math.clz32(low));
      x ^= low;
    }
  }
}
