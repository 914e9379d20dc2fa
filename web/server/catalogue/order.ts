import { hasBit } from './bits';
import type { Rows } from './rows';

export const SORTS = ['name', 'new', 'changed', 'length', 'rating', 'travel', 'rate', 'kind'] as const;
export type Sort = (typeof SORTS)[number];

type Compare = (a: number, b: number) => number;

function compareBy(rows: Rows, sort: Sort): Compare {
  const name: Compare = (a, b) => {
    const [x, y] = [rows.texts[a]!, rows.texts[b]!];
    return x < y ? -1 : x > y ? 1 : rows.ids[a]! < rows.ids[b]! ? -1 : 1;
  };
  const then =
    (value: (row: number) => number): Compare =>
    (a, b) =>
      value(a) - value(b) || name(a, b);
  switch (sort) {
    case 'name':
      return name;
    case 'new':
      return then((r) => -rows.created[r]!);
    case 'changed':
      return then((r) => -rows.updated[r]!);
    case 'length':
      return then((r) => rows.duration[r]!);
    case 'rating':
      return then((r) => -rows.rating[r]!);
    case 'travel':
      return then((r) => rows.travel[r]!);
    case 'rate':
      return then((r) => rows.rate[r]!);
    case 'kind':
      return (a, b) => {
        const [x, y] = [rows.kinds.list[rows.kind[a]!]!, rows.kinds.list[rows.kind[b]!]!];
        return x < y ? -1 : x > y ? 1 : name(a, b);
      };
  }
}

/** Rows in the order of one sort, kept in step as rows are added; dead rows drop out when it is made anew. */
export class Order {
  private list: Uint32Array = new Uint32Array(0);
  private length = 0;
  /** Rows up to here are in the list. */
  private upTo = 0;
  private readonly compare: Compare;

  constructor(
    private readonly rows: Rows,
    sort: Sort,
  ) {
    this.compare = compareBy(rows, sort);
  }

  /** The rows in order, dead ones among them; valid until the next call. */
  current(): Uint32Array {
    const added = this.rows.count - this.upTo;
    if (added > 2000 || this.length === 0) this.rebuild();
    else for (; this.upTo < this.rows.count; this.upTo++) this.insert(this.upTo);
    return this.list.subarray(0, this.length);
  }

  private rebuild(): void {
    const { alive, count } = this.rows;
    const list: number[] = [];
    for (let r = 0; r < count; r++) if (hasBit(alive, r)) list.push(r);
    this.list = Uint32Array.from(list.sort(this.compare));
    this.length = list.length;
    this.upTo = count;
  }

  private insert(row: number): void {
    let low = 0;
    let high = this.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.compare(this.list[middle]!, row) < 0) low = middle + 1;
      else high = middle;
    }
    if (this.length === this.list.length) {
      const wider = new Uint32Array(Math.max(64, this.length + (this.length >> 3) + 1024));
      wider.set(this.list);
      this.list = wider;
    }
    this.list.copyWithin(low + 1, low, this.length);
    this.list[low] = row;
    this.length++;
  }
}
