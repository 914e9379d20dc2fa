import type { Narrowing, NarrowingField } from '../../search/language';
import { type Bits, eachBit, newBits, orInto, setBit } from './bits';
import type { Catalogue, CatalogueQuery } from './catalogue';
import { IN_PLACE, LENGTH_BANDS, LOOPS, PARTS, type Rows, SUPPORTS, TEMPO_BANDS, UNNAMED } from './rows';
import { plain } from './words';

export interface Narrower {
  field: NarrowingField;
  bits: Bits;
}

/** How long something counts as new or changed, milliseconds. */
const NEW_MS = 7 * 24 * 3600_000;
export const FIT_GOOD = 80;
export const FIT_FAIR = 50;

type Test = (row: number) => boolean;
const NEVER: Test = () => false;

/** Values of one field are alternatives (tags and moving parts all have to be there); what is turned round must not be. */
export function narrowersOf(
  narrowings: readonly Narrowing[],
  catalogue: Catalogue,
  query: Pick<CatalogueQuery, 'personId' | 'scores'>,
  /** Only rows of this set are looked at. */
  base: Bits,
): Narrower[] {
  const { rows } = catalogue;
  const room = rows.alive.length * 32;
  const out: Narrower[] = [];
  const fields = [...new Set(narrowings.map((n) => n.field))];
  for (const field of fields) {
    const own = narrowings.filter((n) => n.field === field);
    const wanted = own.filter((n) => !n.not);
    const all = field === 'tag' || field === 'moves' || field === 'is';
    const yes = wanted.map((n) => testOf(field, n.value, catalogue, query));
    const no = own.filter((n) => n.not).map((n) => testOf(field, n.value, catalogue, query));
    const bits = newBits(room);
    eachBit(base, (r) => {
      let fits = all || yes.length === 0;
      for (let i = 0; i < yes.length; i++) {
        if (yes[i]!(r) === fits) continue;
        // one decides: for alternatives one that fits, else one that does not
        fits = !fits;
        break;
      }
      for (let i = 0; i < no.length && fits; i++) if (no[i]!(r)) fits = false;
      if (fits) setBit(bits, r);
    });
    out.push({ field, bits });
  }
  return out;
}

function testOf(
  field: NarrowingField,
  value: string,
  catalogue: Catalogue,
  { personId, scores }: Pick<CatalogueQuery, 'personId' | 'scores'>,
): Test {
  const { rows, around } = catalogue;
  switch (field) {
    case 'kind':
      return equals(rows.kind, rows.kinds.find(value));
    case 'tag':
      return tagTest(catalogue, value);
    case 'folder':
      return named(rows.folder, rows.folders.list, around.folderNames, value);
    case 'by':
      return named(rows.by, rows.people.list, around.peopleNames, value);
    case 'made':
      return named(rows.madeFor, rows.cast.list, around.castNames, value);
    case 'moves': {
      const k = PARTS.indexOf(value);
      return k < 0 ? NEVER : (r) => (rows.parts[r]! & (1 << k)) !== 0;
    }
    case 'travel':
      return flag(rows, IN_PLACE, value === 'in-place', value === 'travels');
    case 'loops':
      return flag(rows, LOOPS, value === 'yes', value === 'no');
    case 'tempo':
      return equals(rows.tempos, TEMPO_BANDS.indexOf(value));
    case 'length':
      return equals(rows.lengths, LENGTH_BANDS.indexOf(value));
    case 'support':
      return equals(rows.supports, SUPPORTS.indexOf(value));
    case 'longer':
      return compare(value, (x) => (r) => rows.duration[r]! > x);
    case 'shorter':
      return compare(value, (x) => (r) => rows.duration[r]! < x);
    case 'rate':
      return compare(value, (x) => (r) => rows.rate[r]! === Math.round(x));
    case 'rated':
      return compare(value, (x) => (r) => rows.rating[r]! >= x);
    case 'rights':
      return equals(rows.rights, rows.rightsKinds.find(value));
    case 'fits': {
      const band = ['good', 'fair', 'poor'].indexOf(value);
      return band < 0 || !scores ? NEVER : (r) => fitBand(scores.get(rows.readings[r]!)) === band;
    }
    case 'is':
      return stateTest(catalogue, value, personId);
  }
}

/** 0 good, 1 fair, 2 poor; −1 not known yet. */
export const fitBand = (score: number | undefined): number =>
  score === undefined ? -1 : score >= FIT_GOOD ? 0 : score >= FIT_FAIR ? 1 : 2;

const equals = (column: Uint8Array, n: number): Test => (n < 0 ? NEVER : (r) => column[r] === n);

const flag = (rows: Rows, mask: number, on: boolean, off: boolean): Test =>
  on ? (r) => (rows.flags[r]! & mask) !== 0 : off ? (r) => (rows.flags[r]! & mask) === 0 : NEVER;

function compare(value: string, make: (x: number) => Test): Test {
  const x = Number(value.replace(/s$/, ''));
  return Number.isFinite(x) ? make(x) : NEVER;
}

/** Rows of which the thing numbered in the column is called so. */
function named(column: Int32Array, ids: readonly string[], names: ReadonlyMap<string, string>, value: string): Test {
  const wanted = plain(value);
  const hits = new Uint8Array(ids.length);
  ids.forEach((id, n) => {
    if (plain(names.get(id) ?? '').includes(wanted)) hits[n] = 1;
  });
  return (r) => column[r]! >= 0 && hits[column[r]!] === 1;
}

function tagTest({ rows, around }: Catalogue, value: string): Test {
  const wanted = plain(value);
  const hits = new Set<number>();
  rows.tagNames.list.forEach((tag, n) => {
    if (plain(tag) === wanted || (around.synonyms.get(tag) ?? []).some((s) => plain(s) === wanted)) hits.add(n);
  });
  return (r) => rows.tags[r]!.some((t) => hits.has(t));
}

function stateTest({ rows, around }: Catalogue, value: string, personId: string): Test {
  const now = Date.now();
  switch (value) {
    case 'favourite': {
      const own = around.favourites.get(personId);
      return own ? (r) => own.has(rows.ids[r]!) : NEVER;
    }
    case 'mine':
      return equals32(rows.by, rows.people.find(personId));
    case 'new':
      return (r) => now - rows.created[r]! < NEW_MS;
    case 'changed':
      return (r) => now - rows.updated[r]! < NEW_MS && rows.updated[r]! - rows.created[r]! > 5000;
    case 'unnamed':
      return (r) => (rows.flags[r]! & UNNAMED) !== 0;
    default:
      return NEVER;
  }
}
const equals32 = (column: Int32Array, n: number): Test => (n < 0 ? NEVER : (r) => column[r] === n);

export const unionOf = (sets: readonly Bits[], room: number): Bits => {
  const out = newBits(room);
  for (const s of sets) orInto(out, s);
  return out;
};
