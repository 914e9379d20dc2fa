import type { NarrowingField } from '../../search/language';
import { type Bits, eachBit } from './bits';
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

/** Counts of every value of every field. */
export function facetsOf(catalogue: Catalogue, sets: FacetSet, query: CatalogueQuery): Facets {
  const { rows, around } = catalogue;
  const set = (field: NarrowingField): Bits => sets.without.get(field) ?? sets.full;
  const columns: Record<(typeof FIELDS)[number], (r: number) => number> = {
    kind: (r) => rows.kind[r]!,
    travel: (r) => (rows.flags[r]! & IN_PLACE ? 0 : 1),
    loops: (r) => (rows.flags[r]! & LOOPS ? 0 : 1),
    tempo: (r) => rows.tempos[r]!,
    length: (r) => rows.lengths[r]!,
    rate: (r) => rows.rate[r]!,
    support: (r) => rows.supports[r]!,
    rights: (r) => rows.rights[r]!,
    made: (r) => rows.madeFor[r]!,
    by: (r) => rows.by[r]!,
    rated: (r) => rows.rating[r]!,
    fits: (r) => fitBand(query.scores?.get(rows.readings[r]!)),
  };
  const label: Record<(typeof FIELDS)[number], (n: number) => string | undefined> = {
    kind: (n) => rows.kinds.list[n],
    travel: (n) => ['in-place', 'travels'][n],
    loops: (n) => ['yes', 'no'][n],
    tempo: (n) => TEMPO_BANDS[n],
    length: (n) => LENGTH_BANDS[n],
    rate: (n) => String(n),
    support: (n) => SUPPORTS[n],
    rights: (n) => rows.rightsKinds.list[n],
    made: (n) => (n < 0 ? undefined : around.castNames.get(rows.cast.list[n]!)),
    by: (n) => (n < 0 ? undefined : around.peopleNames.get(rows.people.list[n]!)),
    rated: (n) => (n > 0 ? String(n) : undefined),
    fits: (n) => ['good', 'fair', 'poor'][n],
  };
  const out: Facets = {};
  // fields that do not narrow are counted in one walk over what is found
  const loose = FIELDS.filter((f) => !sets.without.has(f) && (f !== 'fits' || query.scores));
  const counts = new Map<NarrowingField, Counter>(FIELDS.map((f) => [f, new Counter()]));
  const walkers = loose.map((f) => ({ read: columns[f], counter: counts.get(f)! }));
  eachBit(sets.full, (r) => {
    for (let i = 0; i < walkers.length; i++) walkers[i]!.counter.add(walkers[i]!.read(r));
  });
  for (const f of FIELDS) {
    if (f === 'fits' && !query.scores) continue;
    const counter = counts.get(f)!;
    if (sets.without.has(f)) eachBit(set(f), (r) => counter.add(columns[f](r)));
    out[f] = counter.values(label[f]);
  }
  out.tag = countTags(catalogue, set('tag'));
  out.moves = countParts(catalogue, set('moves'));
  out.is = countStates(catalogue, set('is'), query.personId);
  return out;
}

class Counter {
  private small = new Int32Array(1024);
  private rest = new Map<number, number>();

  add(n: number): void {
    if (n >= 0 && n < 1024) this.small[n] = this.small[n]! + 1;
    else this.rest.set(n, (this.rest.get(n) ?? 0) + 1);
  }

  values(label: (n: number) => string | undefined): FacetValue[] {
    const sums = new Map<string, number>();
    const take = (n: number, count: number): void => {
      const value = count > 0 ? label(n) : undefined;
      if (value !== undefined) sums.set(value, (sums.get(value) ?? 0) + count);
    };
    this.small.forEach((count, n) => take(n, count));
    for (const [n, count] of this.rest) take(n, count);
    return topOf(sums);
  }
}

const topOf = (sums: ReadonlyMap<string, number>): FacetValue[] =>
  [...sums]
    .map(([value, n]) => ({ value, n }))
    .sort((a, b) => b.n - a.n || (a.value < b.value ? -1 : 1))
    .slice(0, MOST_VALUES);

function countTags({ rows }: Catalogue, bits: Bits): FacetValue[] {
  const counts = new Int32Array(rows.tagNames.list.length);
  eachBit(bits, (r) => {
    const own = rows.tags[r]!;
    for (let i = 0; i < own.length; i++) counts[own[i]!] = counts[own[i]!]! + 1;
  });
  const sums = new Map<string, number>();
  counts.forEach((n, t) => {
    if (n > 0) sums.set(rows.tagNames.list[t]!, n);
  });
  return topOf(sums);
}

function countParts({ rows }: Catalogue, bits: Bits): FacetValue[] {
  const counts = new Int32Array(1 << PARTS.length);
  eachBit(bits, (r) => {
    counts[rows.parts[r]!] = counts[rows.parts[r]!]! + 1;
  });
  return topOf(
    new Map(
      PARTS.map((p, k) => [p, counts.reduce((s, n, mask) => s + (mask & (1 << k) ? n : 0), 0)] as const).filter(
        ([, n]) => n > 0,
      ),
    ),
  );
}

function countStates({ rows, around }: Catalogue, bits: Bits, personId: string): FacetValue[] {
  const me = rows.people.find(personId);
  const own = around.favourites.get(personId);
  const now = Date.now();
  let [mine, fresh, changed, unnamed, favourite] = [0, 0, 0, 0, 0];
  eachBit(bits, (r) => {
    if (rows.by[r] === me && me >= 0) mine++;
    if (now - rows.created[r]! < NEW_MS) fresh++;
    if (now - rows.updated[r]! < NEW_MS && rows.updated[r]! - rows.created[r]! > 5000) changed++;
    if (rows.flags[r]! & UNNAMED) unnamed++;
  });
  for (const id of own ?? []) {
    const r = rows.rowOf.get(id);
    if (r !== undefined && (bits[r >>> 5]! >>> (r & 31)) & 1) favourite++;
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
