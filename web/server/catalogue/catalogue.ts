import { clipDistance, DESCRIPTOR_WIDTH, flatDistance, liesFlat, POSE_RECORD, poseDistance } from '@velvet-reel/motion';
import { parseSearch, type SearchText } from '../../search/language';
import { andInto, andNotInto, type Bits, countBits, eachBit, hasBit, newBits, orInto, setBit } from './bits';
import { type FacetSet, type Facets, facetsOf } from './facets';
import { type Narrower, narrowersOf } from './narrow';
import { Order, type Sort } from './order';
import { type CatalogueItem, Rows } from './rows';
import { plain, tokensOf } from './words';

export interface CatalogueQuery {
  text?: string | undefined;
  /** Folders of which any may hold the item; the caller has put those below in. */
  folderIds?: readonly string[] | undefined;
  /** Folders that hold nothing for whoever asks. */
  outside?: readonly string[] | undefined;
  bin?: boolean | undefined;
  /** Only these items: members of a pack. */
  among?: readonly string[] | undefined;
  /** Likest to this item first, and only what is alike. */
  like?: string | undefined;
  personId: string;
  /** Only what passes through a pose like this record, the likest first. */
  pose?: Uint8Array | undefined;
  /** With `pose`: on the same feet. */
  sameSupport?: boolean | undefined;
  /** Scores of readings on the performer, where known. */
  scores?: ReadonlyMap<string, number> | undefined;
  sort?: Sort | undefined;
  backwards?: boolean | undefined;
  offset?: number | undefined;
  limit?: number | undefined;
  facets?: boolean | undefined;
}

export interface CatalogueAnswer {
  ids: string[];
  /** How many fit. */
  found: number;
  /** How many there are in the same place (library or bin) with nothing narrowed. */
  total: number;
  facets: Facets | null;
  /** Words that were taken for others because nothing begins with them. */
  guessed: { word: string; meant: string[] }[];
}

/** What rows look like from outside: names for what the rows only number. */
export interface Surroundings {
  /** Names of people and cast, by id, for by: and made:. */
  peopleNames: ReadonlyMap<string, string>;
  castNames: ReadonlyMap<string, string>;
  folderNames: ReadonlyMap<string, string>;
  /** Other words for a tag. */
  synonyms: ReadonlyMap<string, readonly string[]>;
  favourites: ReadonlyMap<string, ReadonlySet<string>>;
}

export const NOWHERE: Surroundings = {
  peopleNames: new Map(),
  castNames: new Map(),
  folderNames: new Map(),
  synonyms: new Map(),
  favourites: new Map(),
};

/** Legs of difference up to which a motion counts as like another: walks are, a walk and a run are not. */
const ALIKE = 0.085;
/** So many are shown even where little is alike, unless they are farther off than this. */
const AT_LEAST = 4;
const FAR = 0.15;
const MOST_ALIKE = 500;
/** Poses farther off than this are others, legs. */
const POSE_FAR = 0.3;
/** When so many rows are dead, and more than a quarter, everything is set up anew. */
const WASTE = 20_000;

/** All items of the library in memory, for searches with live counts; the database stays the truth. */
export class Catalogue {
  rows = new Rows(DESCRIPTOR_WIDTH);
  around: Surroundings = NOWHERE;
  private orders = new Map<Sort, Order>();
  /** Counts up with every change, so that answers can be kept until then. */
  generation = 0;

  put(item: CatalogueItem): void {
    this.rows.put(item);
    this.generation++;
  }

  remove(id: string): void {
    this.rows.remove(id);
    this.generation++;
  }

  /** Whether it would pay to load everything anew. */
  get wasteful(): boolean {
    return this.rows.dead > WASTE && this.rows.dead > this.rows.count / 4;
  }

  get size(): number {
    return this.rows.count - this.rows.dead;
  }

  search(query: CatalogueQuery): CatalogueAnswer {
    const { rows } = this;
    const search = parseSearch(query.text ?? '');
    const place = this.place(query.bin === true).slice();
    if (query.outside) andNotInto(place, this.inFolders(query.outside));
    const total = countBits(place);
    const base = place.slice();
    if (query.folderIds) andInto(base, this.inFolders(query.folderIds));
    if (query.among) andInto(base, this.bitsOf(query.among));
    const guessed = this.narrowByWords(base, search);
    const alike =
      query.like !== undefined
        ? this.alike(query.like)
        : query.pose
          ? this.withPose(query.pose, query.sameSupport === true)
          : undefined;
    if (alike) andInto(base, this.bitsOf([...alike.keys()]));
    const narrowers = narrowersOf(search.narrowings, this, query, base);
    const { full, facets } = this.facets(base, narrowers, query);
    const found = countBits(full);
    const offset = query.offset ?? 0;
    const limit = query.limit ?? 100;
    const ids = alike
      ? [...alike.keys()].filter((id) => hasBit(full, rows.rowOf.get(id)!)).slice(offset, offset + limit)
      : this.page(full, query.sort ?? 'name', query.backwards === true, offset, limit, found);
    return { ids, found, total, facets, guessed };
  }

  /** All rows that a search finds, by id; for acting on everything found. */
  all(query: CatalogueQuery): string[] {
    return this.search({ ...query, offset: 0, limit: Number.MAX_SAFE_INTEGER, facets: false }).ids;
  }

  /** Distances to what moves alike, the likest first, the item itself before all. */
  alike(id: string): Map<string, number> {
    const { rows } = this;
    const own = rows.rowOf.get(id);
    if (own === undefined) return new Map();
    const out: [number, number][] = [];
    if (rows.described[own]) {
      const width = rows.width;
      const { descriptors } = rows;
      const at = own * width;
      const model = descriptors.slice(at, at + width);
      // squares up to this are near enough to be worth the root
      const unit = clipDistance(
        model,
        Int8Array.from(model, (x, i) => (i === 0 ? (x > 0 ? x - 1 : x + 1) : x)),
      );
      const most = (FAR / unit) ** 2;
      const flat = liesFlat(model, 0);
      for (let r = 0; r < rows.count; r++) {
        if (r === own || !rows.described[r] || !hasBit(rows.alive, r) || hasBit(rows.binned, r)) continue;
        let sum = 0;
        const o = r * width;
        if (liesFlat(descriptors, o) !== flat) {
          const far = flat ? flatDistance(model, 0, descriptors, o) : flatDistance(descriptors, o, model, 0);
          if (far <= FAR) out.push([r, far]);
          continue;
        }
        for (let k = 0; k < width && sum <= most; k++) {
          const d = model[k]! - descriptors[o + k]!;
          sum += d * d;
        }
        if (sum <= most) out.push([r, Math.sqrt(sum) * unit]);
      }
      out.sort((a, b) => a[1] - b[1] || a[0] - b[0]);
    }
    const near = out.filter(([, d], rank) => d <= (rank < AT_LEAST ? FAR : ALIKE)).slice(0, MOST_ALIKE - 1);
    return new Map([[id, 0] as const, ...near.map(([r, d]) => [rows.ids[r]!, d] as const)]);
  }

  /** Distances of items that pass through a pose, the likest first. */
  withPose(pose: Uint8Array, sameSupport: boolean): Map<string, number> {
    const { rows } = this;
    if (pose.length !== POSE_RECORD) return new Map();
    const wanted = new Int8Array(pose.slice(3).buffer);
    const support = pose[2]!;
    const signed = new Int8Array(rows.poses.buffer);
    const width = wanted.length;
    // one step of one number, in legs; see poseDistance
    const one = Int8Array.from(wanted, (x, i) => (i === 0 ? (x > 0 ? x - 1 : x + 1) : x));
    const unit = poseDistance(wanted, one);
    const most = (POSE_FAR / unit) ** 2;
    const out: [number, number][] = [];
    for (let r = 0; r < rows.count; r++) {
      if (!hasBit(rows.alive, r) || hasBit(rows.binned, r)) continue;
      let best = Number.POSITIVE_INFINITY;
      let o = rows.poseStart[r]!;
      for (let i = 0; i < rows.poseCount[r]!; i++, o += POSE_RECORD) {
        if (sameSupport && rows.poses[o + 2] !== support) continue;
        let sum = 0;
        for (let k = 0; k < width && sum < best && sum <= most; k++) {
          const d = wanted[k]! - signed[o + 3 + k]!;
          sum += d * d;
        }
        if (sum < best) best = sum;
      }
      if (best <= most) out.push([r, Math.sqrt(best) * unit]);
    }
    out.sort((a, b) => a[1] - b[1] || a[0] - b[0]);
    return new Map(out.slice(0, MOST_ALIKE).map(([r, d]) => [rows.ids[r]!, d] as const));
  }

  private place(bin: boolean): Bits {
    const { rows } = this;
    const bits = rows.alive.slice();
    if (bin) andInto(bits, rows.binned);
    else andNotInto(bits, rows.binned);
    return bits;
  }

  private inFolders(ids: readonly string[]): Bits {
    const { rows } = this;
    const wanted = new Set(ids.map((id) => rows.folders.find(id)).filter((n) => n >= 0));
    const bits = newBits(rows.alive.length * 32);
    for (let r = 0; r < rows.count; r++) if (wanted.has(rows.folder[r]!)) setBit(bits, r);
    return bits;
  }

  private bitsOf(ids: readonly string[]): Bits {
    const bits = newBits(this.rows.alive.length * 32);
    for (const id of ids) {
      const row = this.rows.rowOf.get(id);
      if (row !== undefined) setBit(bits, row);
    }
    return bits;
  }

  private narrowByWords(base: Bits, search: SearchText): CatalogueAnswer['guessed'] {
    const { rows } = this;
    const room = rows.alive.length * 32;
    const guessed: CatalogueAnswer['guessed'] = [];
    for (const { text, phrase, not } of search.words) {
      const hit = newBits(room).fill(0xffffffff);
      for (const token of tokensOf(text)) {
        const one = rows.words.rowsWith(token, room);
        for (const [tag, others] of this.around.synonyms)
          if (others.some((o) => tokensOf(o).some((t) => t.startsWith(token)))) orInto(one.bits, this.tagged(tag));
        if (one.guessed) {
          const { tokens } = rows.words.meant(token);
          if (tokens.length > 0) guessed.push({ word: token, meant: tokens.slice(0, 3) });
        }
        andInto(hit, one.bits);
      }
      const wanted = plain(text);
      if (tokensOf(text).length === 0 || phrase) {
        // signs only, or words that stand just so: the text itself decides
        eachBit(hit, (r) => {
          if (r >= rows.count || !(rows.texts[r]!.includes(wanted) || this.hasTag(r, wanted)))
            hit[r >>> 5] = hit[r >>> 5]! & ~(1 << (r & 31));
        });
      }
      if (not) andNotInto(base, hit);
      else andInto(base, hit);
    }
    return guessed;
  }

  private hasTag(row: number, text: string): boolean {
    return this.rows.tags[row]!.some((t) => plain(this.rows.tagNames.list[t]!).includes(text));
  }

  tagged(tag: string): Bits {
    const { rows } = this;
    const n = rows.tagNames.find(tag);
    const bits = newBits(rows.alive.length * 32);
    if (n >= 0) for (let r = 0; r < rows.count; r++) if (rows.tags[r]!.includes(n)) setBit(bits, r);
    return bits;
  }

  /**
   * The rows left by all narrowings, and counts. Each facet is counted over what the other narrowings leave, so that it
   * says what choosing another of its values would show.
   */
  private facets(base: Bits, narrowers: Narrower[], query: CatalogueQuery): { full: Bits; facets: Facets | null } {
    const full = base.slice();
    for (const n of narrowers) andInto(full, n.bits);
    if (!query.facets) return { full, facets: null };
    const sets: FacetSet = { full, without: new Map() };
    for (const { field } of narrowers) {
      const others = base.slice();
      for (const n of narrowers) if (n.field !== field) andInto(others, n.bits);
      sets.without.set(field, others);
    }
    return { full, facets: facetsOf(this, sets, query) };
  }

  private page(full: Bits, sort: Sort, backwards: boolean, offset: number, limit: number, found: number): string[] {
    let order = this.orders.get(sort);
    if (!order) {
      order = new Order(this.rows, sort);
      this.orders.set(sort, order);
    }
    const list = order.current();
    const out: string[] = [];
    const last = Math.min(found, offset + limit);
    let seen = 0;
    for (let i = 0; i < list.length && seen < last; i++) {
      const row = list[backwards ? list.length - 1 - i : i]!;
      if (!hasBit(full, row)) continue;
      if (seen >= offset) out.push(this.rows.ids[row]!);
      seen++;
    }
    return out;
  }
}
