import { MotionError } from '../errors';

/** Longest unary part of a Rice code, after which the value stands plainly in 32 bits. */
const ESCAPE = 24;

/** Writes numbers bit by bit, lowest bit first, into bytes that grow. */
export class BitWriter {
  private bytes = new Uint8Array(1024);
  private length = 0;
  private hold = 0;
  private count = 0;

  /** Writes the low n bits (at most 24) of value, lowest bit first. */
  bits(value: number, n: number): void {
    this.hold |= (value & ((1 << n) - 1)) << this.count;
    this.count += n;
    while (this.count >= 8) {
      this.byte(this.hold & 255);
      this.hold >>>= 8;
      this.count -= 8;
    }
  }

  private byte(b: number): void {
    if (this.length === this.bytes.length) {
      const grown = new Uint8Array(this.length * 2);
      grown.set(this.bytes);
      this.bytes = grown;
    }
    this.bytes[this.length++] = b;
  }

  /** Elias's gamma code of an unsigned 32-bit number: as many zeros as it has bits after the first, then the bits. */
  gamma(value: number): void {
    // of one more, so that 0 has a code; 2³² − 1 is told by its 32 zeros alone
    const x = (value + 1) >>> 0;
    const length = x === 0 ? 32 : 31 - Math.clz32(x);
    for (let left = length; left > 0; left -= 24) this.bits(0, Math.min(24, left));
    this.bits(1, 1);
    if (length === 32) return;
    if (length > 16) {
      this.bits(x & 0xffff, 16);
      this.bits((x >>> 16) & ((1 << (length - 16)) - 1), length - 16);
    } else if (length > 0) this.bits(x & ((1 << length) - 1), length);
  }

  /** Pads to a whole byte and returns everything written. */
  finish(): Uint8Array {
    if (this.count > 0) this.byte(this.hold & 255);
    this.hold = 0;
    this.count = 0;
    return this.bytes.slice(0, this.length);
  }
}

/** Reads what BitWriter wrote. Reading past the end throws 'truncated'. */
export class BitReader {
  private at: number;
  private hold = 0;
  private count = 0;

  constructor(
    private readonly bytes: Uint8Array,
    start: number,
    private readonly end: number,
  ) {
    this.at = start;
  }

  private fill(): void {
    while (this.count <= 24) {
      if (this.at < this.end) this.hold |= this.bytes[this.at]! << this.count;
      else if (this.at > this.end + 8)
        throw new MotionError('truncated', 'The packed motion ends inside a block.', { byte: this.end });
      this.at++;
      this.count += 8;
    }
  }

  /** Next n bits, at most 24. */
  bits(n: number): number {
    if (this.count < n) this.fill();
    const value = this.hold & ((1 << n) - 1);
    this.hold >>>= n;
    this.count -= n;
    return value;
  }

  /** Next number that gamma() wrote. */
  gamma(): number {
    let length = 0;
    while (this.bits(1) === 0)
      if (++length > 32) throw new MotionError('bad-structure', 'The packed motion is damaged: a number has no end.');
    if (length === 32) return 0xffffffff;
    let x = 1;
    if (length > 16) {
      const low = this.bits(16);
      x = (((1 << (length - 16)) | this.bits(length - 16)) * 65536 + low) >>> 0;
    } else if (length > 0) x = (1 << length) | this.bits(length);
    return (x - 1) >>> 0;
  }

  /**
   * Decodes a run of Rice-coded residuals, as version 1 has them, and undoes prediction of the given order (0 to 2) on the way.
   * dst[offset + i · stride] for i = 0 … count − 1 receives value · step.
   */
  run(dst: Float32Array, offset: number, stride: number, count: number, k: number, order: number, step: number): void {
    let v1 = 0;
    let v2 = 0;
    for (let i = 0, o = offset; i < count; i++, o += stride) {
      if (this.count < 25) this.fill();
      // count the ones in front
      const zeros = ~this.hold;
      const ones = zeros === 0 ? 32 : 31 - Math.clz32(zeros & -zeros);
      let u: number;
      if (ones >= ESCAPE) {
        this.hold >>>= ESCAPE;
        this.count -= ESCAPE;
        const low = this.bits(16);
        u = (low | (this.bits(16) << 16)) >>> 0;
      } else {
        this.hold >>>= ones + 1;
        this.count -= ones + 1;
        u = ones << k;
        if (k > 16) {
          u |= this.bits(16);
          u |= this.bits(k - 16) << 16;
        } else if (k > 0) u |= this.bits(k);
      }
      const residual = (u >>> 1) ^ -(u & 1);
      const value = order === 0 || i === 0 ? residual : order === 1 || i === 1 ? v1 + residual : 2 * v1 - v2 + residual;
      v2 = v1;
      v1 = value | 0;
      dst[o] = v1 * step;
    }
  }
}

/** Folds a signed number of 32 bits onto 0, −1, 1, −2 … as 0, 1, 2, 3 … */
export const zigzag = (v: number): number => ((v << 1) ^ (v >> 31)) >>> 0;
