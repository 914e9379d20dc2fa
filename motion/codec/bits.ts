import { MotionError } from '../errors';

/** Longest unary part of a Rice code before the value is written plainly in 32 bits. */
const ESCAPE = 24;

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

  /** Rice code with parameter k of an unsigned 32-bit number: quotient in ones, a zero, k low bits. */
  rice(value: number, k: number): void {
    const quotient = value >>> k;
    if (quotient >= ESCAPE) {
      this.bits(0xffffff, ESCAPE);
      this.bits(value & 0xffff, 16);
      this.bits(value >>> 16, 16);
      return;
    }
    this.bits((1 << quotient) - 1, quotient);
    this.bits(0, 1);
    if (k > 16) {
      this.bits(value & 0xffff, 16);
      this.bits((value >>> 16) & ((1 << (k - 16)) - 1), k - 16);
    } else if (k > 0) this.bits(value & ((1 << k) - 1), k);
  }

  /** Pads to a whole byte and returns everything written. */
  finish(): Uint8Array {
    if (this.count > 0) this.byte(this.hold & 255);
    this.hold = 0;
    this.count = 0;
    return this.bytes.slice(0, this.length);
  }
}

/** Bits that rice() would write. */
export function riceCost(value: number, k: number): number {
  const quotient = value >>> k;
  return quotient >= ESCAPE ? ESCAPE + 32 : quotient + 1 + k;
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

  /**
   * Decodes a run of residuals and undoes prediction of the given order (0 to 2) on the way.
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

export const zigzag = (v: number): number => ((v << 1) ^ (v >> 31)) >>> 0;
