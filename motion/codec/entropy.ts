import { MotionError } from '../errors';

// Entropy coding of residuals. Every residual is coded under a distribution whose width follows the ones before it, so that
// quiet stretches cost next to nothing and lively ones what they must. Tables are worked out from whole numbers and square
// roots alone, which every machine rounds alike: writer and reader have to agree to the bit.
// Method: range variant of asymmetric numeral systems (Duda 2013) with 12-bit tables; widths adapt as in Golomb coders
// (Weinberger, Seroussi, Sapiro, LOCO-I, 2000).

const BITS = 12;
const SLOTS = 1 << BITS;
/** Lowest value of the coder's state between symbols; 16 bits go in or out at a time. */
const LOW = 1 << 15;
/** Levels of width per octave: two bits after the leading one. */
const PER_OCTAVE = 4;
/** Mean sizes of residuals are kept in these parts. */
export const ONE = 256;
/** From this level on low bits are written plainly, an octave a bit: there they are as good as random. */
const SHIFT_FROM = 8 * PER_OCTAVE + 10;
/** Highest level: means of some four million. */
export const TOP = 30 * PER_OCTAVE - 1;
/** Symbols of a table at most; the last one stands for all that is beyond, told plainly. */
const MOST_SYMBOLS = 120;
/** What a reader's slot says for that one. */
const BEYOND = 127;
/** From this level on tables come round, an octave later. */
const LEVELS = SHIFT_FROM + PER_OCTAVE;

interface Table {
  readonly freq: Uint16Array;
  readonly start: Uint16Array;
  /** The symbol that stands for all beyond. */
  readonly beyond: number;
}

/** Least mean of a level, in parts of ONE: four levels an octave, evenly within it. */
const edgeOf = (level: number): number => 2 ** (level >> 2) * (1 + (level & 3) / PER_OCTAVE);

const tables: (Table | undefined)[] = [];
/** For readers, level after level: the symbol of each slot. */
const symbolAt = new Uint8Array(LEVELS * SLOTS);
/** For readers, level after level: how frequent a symbol is, and in the low 12 bits its first slot. */
const shares = new Int32Array(LEVELS << 7);

/** How many low bits of a residual are written plainly at a level. */
export const plainBits = (level: number): number => (level < SHIFT_FROM ? 0 : ((level - SHIFT_FROM) >> 2) + 1);

/** Level of a mean size in parts of ONE, 4 or more: its leading bit and the two bits after it. */
export function levelOf(mean: number): number {
  const octave = 31 - Math.clz32(mean);
  return (octave << 2) + ((mean >>> (octave - 2)) & 3);
}

const keptLevel = (level: number): number =>
  level < LEVELS ? level : SHIFT_FROM + ((level - SHIFT_FROM) & (PER_OCTAVE - 1));

/** The table of a level: a two-sided geometric distribution of that mean size, folded, low bits left out. */
function tableOf(level: number): Table {
  const kept = keptLevel(level);
  const known = tables[kept];
  if (known) return known;
  const shift = plainBits(kept);
  const mean = edgeOf(kept) / ONE;
  const t = (Math.sqrt(1 + mean * mean) - 1) / mean;
  // chance of each folded residual: 0, −1, 1, −2, 2 …
  const chances: number[] = [];
  let left = 1;
  let p = (1 - t) / (1 + t);
  for (let u = 0; chances.length < MOST_SYMBOLS - 1 && left > 1 / SLOTS; ) {
    let sum = 0;
    for (let i = 0; i < 1 << shift; i++, u++) {
      sum += p;
      // after 0, 2, 4 … the next size begins
      if (u % 2 === 0) p *= t;
    }
    chances.push(sum);
    left -= sum;
  }
  chances.push(Math.max(left, 0));
  const freq = new Uint16Array(chances.length);
  const room = SLOTS - chances.length;
  let used = 0;
  chances.forEach((c, i) => {
    freq[i] = 1 + Math.floor(c * room);
    used += freq[i]!;
  });
  freq[0] = freq[0]! + SLOTS - used;
  const start = new Uint16Array(chances.length);
  const last = chances.length - 1;
  let at = 0;
  freq.forEach((f, i) => {
    start[i] = at;
    const symbol = i === last ? BEYOND : i;
    shares[(kept << 7) | symbol] = (f << BITS) | at;
    symbolAt.fill(symbol, kept * SLOTS + at, kept * SLOTS + at + f);
    at += f;
  });
  const table = { freq, start, beyond: last };
  tables[kept] = table;
  return table;
}

let complete = false;

/** Makes every table: a reader does not ask each time whether one is there. */
function allTables(): void {
  if (complete) return;
  for (let level = 0; level < LEVELS; level++) tableOf(level);
  complete = true;
}

/** Collects symbols in reading order, then codes them from the last to the first. */
export class SymbolWriter {
  private levels = new Uint8Array(4096);
  private symbols = new Uint8Array(4096);
  private length = 0;

  /** Codes a folded residual under a level; low bits and what is beyond the table go to `plain`. */
  add(folded: number, level: number, plain: { bits(value: number, n: number): void }): void {
    const { beyond } = tableOf(level);
    const shift = plainBits(level);
    const high = folded >>> shift;
    if (this.length === this.levels.length) {
      this.levels = grown(this.levels);
      this.symbols = grown(this.symbols);
    }
    this.levels[this.length] = level;
    this.symbols[this.length++] = Math.min(high, beyond);
    if (high >= beyond) {
      plain.bits(folded & 0xffff, 16);
      plain.bits(folded >>> 16, 16);
      return;
    }
    if (shift > 16) {
      plain.bits(folded & 0xffff, 16);
      plain.bits((folded >>> 16) & ((1 << (shift - 16)) - 1), shift - 16);
    } else if (shift > 0) plain.bits(folded & ((1 << shift) - 1), shift);
  }

  /** The coded symbols, and an empty writer again. */
  finish(): Uint8Array {
    const words: number[] = [];
    const states = [LOW, LOW];
    for (let i = this.length - 1; i >= 0; i--) {
      const { freq, start } = tableOf(this.levels[i]!);
      const s = this.symbols[i]!;
      const f = freq[s]!;
      let state = states[i & 1]!;
      if (state >= f * (1 << (31 - BITS))) {
        words.push(state & 0xffff);
        state >>>= 16;
      }
      states[i & 1] = (Math.floor(state / f) << BITS) + (state % f) + start[s]!;
    }
    this.length = 0;
    const bytes = new Uint8Array(8 + 2 * words.length);
    const view = new DataView(bytes.buffer);
    view.setUint32(0, states[0]!, true);
    view.setUint32(4, states[1]!, true);
    words.reverse().forEach((w, i) => {
      view.setUint16(8 + 2 * i, w, true);
    });
    return bytes;
  }
}

const grown = (from: Uint8Array): Uint8Array<ArrayBuffer> => {
  const to = new Uint8Array(2 * from.length);
  to.set(from);
  return to;
};

/** Reads what SymbolWriter coded. */
export class SymbolReader {
  /** The state that the next symbol comes from, and the one after that: they take turns, so neither waits for the other. */
  private state: number;
  private other: number;
  private at: number;

  /** @throws MotionError 'truncated' where the bytes end too soon, 'bad-structure' where they cannot be a coder's */
  constructor(
    private readonly bytes: Uint8Array,
    start: number,
    private readonly end: number,
  ) {
    if (start + 8 > end) throw new MotionError('truncated', 'The packed motion ends inside a block.', { byte: end });
    allTables();
    this.state = this.first(start);
    this.other = this.first(start + 4);
    this.at = start + 8;
  }

  private first(at: number): number {
    const { bytes } = this;
    const state = bytes[at]! | (bytes[at + 1]! << 8) | (bytes[at + 2]! << 16) | (bytes[at + 3]! << 24);
    if (state < LOW)
      throw new MotionError(
        'bad-structure',
        'The packed motion is damaged: a block starts with a state that no writer leaves.',
        {
          byte: at,
        },
      );
    return state;
  }

  /** Next folded residual under a level, as a signed number of 32 bits. */
  next(level: number, plain: { bits(n: number): number }): number {
    const kept = keptLevel(level);
    const { state } = this;
    const slot = state & (SLOTS - 1);
    const s = symbolAt[(kept << BITS) | slot]!;
    const share = shares[(kept << 7) | s]!;
    // never more than 31 bits: as whole numbers they are multiplied at once
    let after = (Math.imul(share >>> BITS, state >>> BITS) + slot - (share & (SLOTS - 1))) | 0;
    if (after < LOW) {
      const { at, bytes } = this;
      if (at + 2 > this.end)
        throw new MotionError('truncated', 'The packed motion ends inside a block.', { byte: this.end });
      after = (after << 16) | bytes[at]! | (bytes[at + 1]! << 8);
      this.at = at + 2;
    }
    this.state = this.other;
    this.other = after;
    if (s === BEYOND) return wide(plain);
    return level < SHIFT_FROM ? s : shifted(s, plainBits(level), plain);
  }
}

/** A residual that no table holds: 32 plain bits. */
function wide(plain: { bits(n: number): number }): number {
  const low = plain.bits(16);
  return low | (plain.bits(16) << 16);
}

/** A residual whose low bits are told plainly. */
function shifted(s: number, shift: number, plain: { bits(n: number): number }): number {
  if (shift <= 16) return (s << shift) | plain.bits(shift);
  const low = plain.bits(16);
  return (s << shift) | (plain.bits(shift - 16) << 16) | low;
}
