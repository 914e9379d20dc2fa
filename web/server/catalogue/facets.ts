import type { NarrowingField } from '../../search/language';
import { type Bits, countBits, eachBit } from './bits';
import type { Catalogue, CatalogueQuery } from './catalogue';
import { fitBand } from './narrow';
import { IN_PLACE, LENGTH_BANDS, LOOPS, PARTS, SUPPORTS, TEMPO_BANDS, UNNAMED } from './rows';

export interface FacetValue {
  value: string;
  n: number;
}
export type Facets = Partial<Record<NarrowingField, FacetValue[]>>;

export interface FacetSet {
  full: Bits;
  /** For a field that narrows: what the others leave. */
  without: Map<NarrowingField, Bits>;
}

const MOST_VALUES = 60;
const NEW_MS = 7 * 24 * 3600_000;

/** Fields that are counted, each by a number a row. */
const FIELDS = [
  'kind',
  'travel',
  'loops',
  'tempo',
  'length',
  'rate',
  'support',
  'rights',
  'made',
  'by',
  'rated',
  'fits',
] as const;
type Field = (typeof FIELDS)[number];

interface Counted {
  /** A number a row. */
  column: ArrayLike<number>;
  /** What is kept of the number: with a mask 0 or 1, else the number less `low`. */
  mask?: number;
  low: number;
  /** How many different numbers there can be. */
  values: number;
  label: (n: number) => string | undefined;
}

function counted({ rows, around }: Catalogue, field: Field, bands: Uint8Array | undefined): Counted | undefined {
  const plain = (column: ArrayLike<number>, labels: readonly string[]): Counted => ({
    column,
    low: 0,
    values: labels.length,
    label: (n) => labels[n],
  });
  const flag = (mask: number, on: string, off: string): Counted => ({
    column: rows.flags,
    mask,
    low: 0,
    values: 2,
    label: (n) => (n === 1 ? on : off),
  });
  const named = (column: Int32Array, ids: readonly string[], names: ReadonlyMap<string, string>): Counted => ({
    column,
    low: -1,
    values: ids.length + 1,
    label: (n) => (n === 0 ? undefined : names.get(ids[n - 1]!)),
  });
  switch (field) {
    case 'kind':
      return plain(rows.kind, rows.kinds.list);
    case 'travel':
      return flag(IN_PLACE, 'in-place', 'travels');
    case 'loops':
      return flag(LOOPS, 'yes', 'no');
    case 'tempo':
      return plain(rows.tempos, TEMPO_BANDS);
    case 'length':
      return plain(rows.lengths, LENGTH_BANDS);
    case 'rate':
      return { column: rows.rate, low: 0, values: 65536, label: String };
    case 'support':
      return plain(rows.supports, SUPPORTS);
    case 'rights':
      return plain(rows.rights, rows.rightsKinds.list);
    case 'made':
      return named(rows.madeFor, rows.cast.list, around.castNames);
    case 'by':
      return named(rows.by, rows.people.list, around.peopleNames);
    case 'rated':
      return { column: rows.rating, low: 0, values: 6, label: (n) => (n > 0 ? String(n) : undefined) };
    case 'fits':
      return bands && plain(bands, ['good', 'fair', 'poor', '']);
  }
}

/** Counts of every value of every field: one tight loop a field over the rows found. */
export function facetsOf(catalogue: Catalogue, sets: FacetSet, query: CatalogueQuery): Facets {
  const lists = new Map<Bits, Uint32Array>();
  const rowsOf = (field: NarrowingField): Uint32Array => {
    const bits = sets.without.get(field) ?? sets.full;
    let list = lists.get(bits);
    if (!list) {
      list = new Uint32Array(countBits(bits));
      let n = 0;
      const into = list;
      eachBit(bits, (r) => {
        into[n++] = r;
      });
      lists.set(bits, list);
    }
    return list;
  };
  const bands = query.scores && bandsOf(catalogue, query.scores);
  const out: Facets = {};
  for (const field of FIELDS) {
    const c = counted(catalogue, field, bands);
    if (c) out[field] = valuesOf(c, rowsOf(field));
  }
  out.tag = countTags(catalogue, rowsOf('tag'));
  out.moves = countParts(catalogue, rowsOf('moves'));
  out.is = countStates(catalogue, rowsOf('is'), query.personId);
  return out;
}

function valuesOf({ column, mask, low, values, label }: Counted, list: Uint32Array): FacetValue[] {
  const counts = new Int32Array(values);
  if (mask === undefined)
    for (let i = 0; i < list.length; i++) {
      const n = column[list[i]!]! - low;
      counts[n] = counts[n]! + 1;
    }
  else
    for (let i = 0; i < list.length; i++) {
      const n = (column[list[i]!]! & mask) === 0 ? 0 : 1;
      counts[n] = counts[n]! + 1;
    }
  const sums = new Map<string, number>();
  counts.forEach((n, k) => {
    const value = n > 0 ? label(k) : undefined;
    if (value) sums.set(value, (sums.get(value) ?? 0) + n);
  });
  return topOf(sums);
}

const topOf = (sums: ReadonlyMap<string, number>): FacetValue[] =>
  [...sums]
    .map(([value, n]) => ({ value, n }))
    .sort((a, b) => b.n - a.n || (a.value < b.value ? -1 : 1))
    .slice(0, MOST_VALUES);

interface Bands {
  rows: number;
  scores: number;
  generation: number;
  bands: Uint8Array;
}
const knownBands = new WeakMap<ReadonlyMap<string, number>, Bands>();

/** Band of every row's fit score, 3 where it is not known; kept until rows or scores change. */
export function bandsOf({ rows, generation }: Catalogue, scores: ReadonlyMap<string, number>): Uint8Array {
  const known = knownBands.get(scores);
  if (known && known.rows === rows.count && known.scores === scores.size && known.generation === generation)
    return known.bands;
  const bands = new Uint8Array(rows.count);
  for (let r = 0; r < rows.count; r++) {
    const band = fitBand(scores.get(rows.readings[r]!));
    bands[r] = band < 0 ? 3 : band;
  }
  knownBands.set(scores, { rows: rows.count, scores: scores.size, generation, bands });
  return bands;
}

function countTags({ rows }: Catalogue, list: Uint32Array): FacetValue[] {
  const counts = new Int32Array(rows.tagNames.list.length);
  for (let k = 0; k < list.length; k++) {
    const own = rows.tags[list[k]!]!;
    for (let i = 0; i < own.length; i++) counts[own[i]!] = counts[own[i]!]! + 1;
  }
  const sums = new Map<string, number>();
  counts.forEach((n, t) => {
    if (n > 0) sums.set(rows.tagNames.list[t]!, n);
  });
  return topOf(sums);
}

function countParts({ rows }: Catalogue, list: Uint32Array): FacetValue[] {
  const counts = new Int32Array(1 << PARTS.length);
  for (let k = 0; k < list.length; k++) {
    const mask = rows.parts[list[k]!]!;
    counts[mask] = counts[mask]! + 1;
  }
  return topOf(
    new Map(
      PARTS.map((p, k) => [p, counts.reduce((s, n, mask) => s + (mask & (1 << k) ? n : 0), 0)] as const).filter(
        ([, n]) => n > 0,
      ),
    ),
  );
}

function countStates({ rows, around }: Catalogue, list: Uint32Array, personId: string): FacetValue[] {
  const me = rows.people.find(personId);
  const own = around.favourites.get(personId);
  const now = Date.now();
  let [mine, fresh, changed, unnamed, favourite] = [0, 0, 0, 0, 0];
  for (let k = 0; k < list.length; k++) {
    const r = list[k]!;
    if (rows.by[r] === me && me >= 0) mine++;
    if (now - rows.created[r]! < NEW_MS) fresh++;
    if (now - rows.updated[r]! < NEW_MS && rows.updated[r]! - rows.created[r]! > 5000) changed++;
    if (rows.flags[r]! & UNNAMED) unnamed++;
    if (own?.has(rows.ids[r]!)) favourite++;
  }
  return (
    [
      ['favourite', favourite],
      ['mine', mine],
      ['new', fresh],
      ['changed', changed],
      ['unnamed', unnamed],
    ] as const
  )
    .filter(([, n]) => n > 0)
    .map(([value, n]) => ({ value, n }));
}
