import { type Bits, newBits, setBit } from './bits';

/** So many new words are looked through one by one before all are sorted anew. */
const MOST_PENDING = 2000;

/** Rows that hold a token, in growing order. */
interface Posting {
  rows: Uint32Array;
  length: number;
}

/** Words of a text as they are looked up: lower case, no accents, letters and digits only. */
export function tokensOf(text: string): string[] {
  return plain(text).match(/[\p{L}\p{N}]+/gu) ?? [];
}

export const plain = (text: string): string => text.toLowerCase().normalize('NFD').replace(/\p{M}/gu, '');

/**
 * Which rows hold which words. Rows are only ever added, in growing order; a changed item gets a new row. Words are found
 * by their beginning and, where nothing begins so, with a small typing error.
 */
export class WordIndex {
  private readonly postings = new Map<string, Posting>();
  private sorted: string[] = [];
  /** Those without digits, in which typing errors are looked for: of numbers every other one is near. */
  private lettered: string[] = [];
  /** New since the last sorting; looked through one by one until there are many. */
  private pending: string[] = [];

  add(row: number, tokens: Iterable<string>): void {
    for (const token of new Set(tokens)) {
      let p = this.postings.get(token);
      if (!p) {
        p = { rows: new Uint32Array(4), length: 0 };
        this.postings.set(token, p);
        this.pending.push(token);
      }
      if (p.length === p.rows.length) {
        const wider = new Uint32Array(2 * p.length);
        wider.set(p.rows);
        p.rows = wider;
      }
      p.rows[p.length++] = row;
    }
  }

  get size(): number {
    return this.postings.size;
  }

  /** Tokens that a typed word may mean: those that begin so, else those one or two letters away. */
  meant(word: string): { tokens: string[]; guessed: boolean } {
    if (this.pending.length > MOST_PENDING) {
      this.sorted = [...this.postings.keys()].sort();
      this.lettered = this.sorted.filter((t) => !/\d/.test(t));
      this.pending = [];
    }
    const { sorted } = this;
    let low = 0;
    let high = sorted.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (sorted[middle]! < word) low = middle + 1;
      else high = middle;
    }
    const tokens: string[] = [];
    for (let i = low; i < sorted.length && sorted[i]!.startsWith(word); i++) tokens.push(sorted[i]!);
    for (const t of this.pending) if (t.startsWith(word)) tokens.push(t);
    if (tokens.length > 0 || word.length < 4) return { tokens, guessed: false };
    const most = word.length >= 8 ? 2 : 1;
    const near = (t: string): boolean => within(word, t, most);
    return {
      tokens: [...this.lettered.filter(near), ...this.pending.filter((t) => !/\d/.test(t) && near(t))],
      guessed: true,
    };
  }

  /** Rows that hold any token which the word may mean. */
  rowsWith(word: string, rows: number): { bits: Bits; guessed: boolean } {
    const bits = newBits(rows);
    const { tokens, guessed } = this.meant(word);
    for (const t of tokens) {
      const p = this.postings.get(t)!;
      for (let i = 0; i < p.length; i++) setBit(bits, p.rows[i]!);
    }
    return { bits, guessed };
  }
}

/** Whether b begins like a but for `most` letters put in, left out, exchanged or swapped with their neighbour. */
export function within(a: string, b: string, most: number): boolean {
  if (b.length < a.length - most || b.length > a.length + most) return false;
  // restricted Damerau–Levenshtein in a band
  let before: number[] = [];
  let last = Array.from({ length: b.length + 1 }, (_, j) => j);
  for (let i = 1; i <= a.length; i++) {
    const now = [i];
    let best = i;
    for (let j = 1; j <= b.length; j++) {
      let d = Math.min(last[j]! + 1, now[j - 1]! + 1, last[j - 1]! + (a[i - 1] === b[j - 1] ? 0 : 1));
      if (i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1]) d = Math.min(d, before[j - 2]! + 1);
      now.push(d);
      best = Math.min(best, d);
    }
    if (best > most) return false;
    before = last;
    last = now;
  }
  return last[b.length]! <= most;
}
