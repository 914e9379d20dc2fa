import { MotionError } from '../errors';

const TENTHS = Float64Array.from({ length: 12 }, (_, i) => 10 ** -i);
const POWERS = Float64Array.from({ length: 23 }, (_, i) => 10 ** i);
const isSpace = (c: number): boolean => c === 32 || c === 10 || c === 13 || c === 9 || c === 44 || c === 59;

/** Number of the line (from 1) that holds a byte; only for messages, so it may count from the start. */
export function lineAt(bytes: Uint8Array, byte: number): number {
  let line = 1;
  const end = Math.min(byte, bytes.length);
  for (let i = 0; i < end; i++) if (bytes[i] === 10) line++;
  return line;
}

/**
 * Reads numbers out of text bytes, one after the other, without making strings.
 * Separators: blanks, tabs, line ends, commas, semicolons. '#' and '//' start a comment to the line's end.
 */
export class NumberScanner {
  /** Byte at which the next read starts. */
  at: number;

  constructor(
    private readonly bytes: Uint8Array,
    start: number,
  ) {
    this.at = start;
  }

  /** Moves to the next number; false at the end of the bytes. */
  private skip(): boolean {
    const { bytes } = this;
    let i = this.at;
    for (;;) {
      while (i < bytes.length && isSpace(bytes[i]!)) i++;
      const c = bytes[i];
      if (c === 35 || (c === 47 && bytes[i + 1] === 47)) while (i < bytes.length && bytes[i] !== 10) i++;
      else break;
    }
    this.at = i;
    return i < bytes.length && bytes[i] !== 0;
  }

  /**
   * Fills row[0…count) and returns how many numbers there were before the end. Throws where a token is no finite number.
   * Plain numbers of up to nine digits, which is nearly all of them, take a short way in whole-number arithmetic.
   */
  read(row: Float64Array, count: number): number {
    const { bytes } = this;
    const safe = bytes.length - 32;
    let i = this.at;
    for (let n = 0; n < count; n++) {
      let c = bytes[i]!;
      while (i < safe && c <= 32 && c > 0) c = bytes[++i]!;
      if (i >= safe) return this.handOver(row, n, count, i);
      let negative = false;
      let at = i;
      if (c === 45) {
        negative = true;
        c = bytes[++at]!;
      }
      let digit = c - 48;
      let mantissa = 0;
      let left = 9;
      while (digit >= 0 && digit <= 9 && left > 0) {
        mantissa = (mantissa * 10 + digit) | 0;
        left--;
        digit = bytes[++at]! - 48;
      }
      let scale = 0;
      if (digit === -2) {
        const before = left;
        digit = bytes[++at]! - 48;
        while (digit >= 0 && digit <= 9 && left > 0) {
          mantissa = (mantissa * 10 + digit) | 0;
          left--;
          digit = bytes[++at]! - 48;
        }
        scale = before - left;
      }
      // a blank or a line end must follow, else it is one of the rarer forms
      if (left === 9 || (digit !== -16 && digit !== -38 && digit !== -35 && digit !== -39))
        return this.handOver(row, n, count, i);
      const value = mantissa * TENTHS[scale]!;
      row[n] = negative ? -value : value;
      i = at;
    }
    this.at = i;
    return count;
  }

  /** The rest of a row in full generality. */
  private handOver(row: Float64Array, n: number, count: number, at: number): number {
    this.at = at;
    return this.readAny(row, n, count);
  }

  /** Fills row[from…count) in every form a number may have; returns how many of the row are filled. */
  private readAny(row: Float64Array, from: number, count: number): number {
    const { bytes } = this;
    for (let n = from; n < count; n++) {
      let i = this.at;
      if (i < bytes.length && bytes[i]! <= 32 && bytes[i + 1]! > 47) this.at = ++i;
      else {
        if (!this.skip()) return n;
        i = this.at;
      }
      const start = i;
      let c = bytes[i]!;
      let negative = false;
      if (c === 45) {
        negative = true;
        c = bytes[++i]!;
      } else if (c === 43) c = bytes[++i]!;
      let mantissa = 0;
      let digits = 0;
      let scale = 0;
      while (c >= 48 && c <= 57) {
        mantissa = mantissa * 10 + (c - 48);
        digits++;
        c = bytes[++i]!;
      }
      if (c === 46) {
        c = bytes[++i]!;
        while (c >= 48 && c <= 57) {
          if (digits < 17) {
            mantissa = mantissa * 10 + (c - 48);
            scale++;
          }
          digits++;
          c = bytes[++i]!;
        }
      }
      if (digits === 0) this.refuse(start);
      if (c === 101 || c === 69) {
        c = bytes[++i]!;
        let sign = 1;
        if (c === 45 || c === 43) {
          if (c === 45) sign = -1;
          c = bytes[++i]!;
        }
        let e = 0;
        const first = i;
        while (c >= 48 && c <= 57) {
          e = Math.min(e * 10 + (c - 48), 9999);
          c = bytes[++i]!;
        }
        if (i === first) this.refuse(start);
        scale -= sign * e;
      }
      if (i < bytes.length && !isSpace(c)) this.refuse(start);
      const value =
        scale === 0 ? mantissa : scale > 0 && scale <= 22 ? mantissa / POWERS[scale]! : mantissa * 10 ** -scale;
      if (!(value < 1e30)) this.refuse(start);
      row[n] = negative ? -value : value;
      this.at = i;
    }
    return count;
  }

  /** Number of numbers left; for messages. */
  countRest(): number {
    const one = new Float64Array(1);
    let n = 0;
    while (this.read(one, 1) === 1) n++;
    return n;
  }

  private refuse(start: number): never {
    let end = start;
    while (end < this.bytes.length && !isSpace(this.bytes[end]!) && end - start < 24) end++;
    const token = String.fromCharCode(...this.bytes.subarray(start, end)).replace(/[^\x20-\x7e]/g, '?');
    throw new MotionError('bad-number', `"${token}" is not a finite number.`, { line: lineAt(this.bytes, start) });
  }
}
