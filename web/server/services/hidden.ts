import { and, eq, inArray, isNull, notInArray, or } from 'drizzle-orm';
import type { Person } from '../auth/person';
import type { Queries } from '../db/client';
import { folders, items, itemVersions, readings } from '../db/schema';
import { notFound } from '../errors';
import { can, hiddenFolders } from './rights';

// Somebody without a right to a hidden folder sees neither it nor what lies in it. One guard stands in front of all addresses
// and behind them: no request may name what is hidden, and no answer does.

/** How long what is hidden from somebody is remembered. */
const FRESH_MS = 2000;

/** What is hidden from one person. */
export class Hidden {
  constructor(
    readonly folders: ReadonlySet<string>,
    /** Items and their versions; pictures, readings and motions that no visible item has, by id or address. */
    private readonly names: ReadonlySet<string>,
    private readonly items: ReadonlySet<string>,
  ) {}

  /** @throws Refusal 404 where anything in what was asked names what is hidden */
  demand(...asked: unknown[]): void {
    for (const value of asked) {
      if (typeof value === 'string') {
        // some addresses take several ids with commas between
        if (value.split(',').some((name) => this.names.has(name) || this.folders.has(name)))
          throw notFound('What you asked for');
      } else if (Array.isArray(value)) this.demand(...value);
      else if (value !== null && typeof value === 'object') this.demand(...Object.values(value));
    }
  }

  /** An answer without what names something hidden; the same object where nothing does. */
  sift<T>(answer: T): T {
    if (Array.isArray(answer)) {
      const kept = answer.filter((x) => !this.tells(x)).map((x) => this.sift(x));
      return (kept.length === answer.length && kept.every((x, i) => x === answer[i]) ? answer : kept) as T;
    }
    if (!isPlain(answer)) return answer;
    let changed = false;
    const entries = Object.entries(answer).map(([key, value]) => {
      const kept = isPlain(value) && this.tells(value) ? null : this.sift(value);
      changed ||= kept !== value;
      return [key, kept];
    });
    return changed ? (Object.fromEntries(entries) as T) : answer;
  }

  private tells(x: unknown): boolean {
    if (typeof x === 'string') return this.items.has(x) || this.folders.has(x);
    if (!isPlain(x)) return false;
    const { id, itemId, subjectId, folderId, subjects } = x as Record<string, unknown>;
    return (
      [id, itemId, subjectId].some((v) => typeof v === 'string' && (this.items.has(v) || this.folders.has(v))) ||
      (typeof folderId === 'string' && this.folders.has(folderId)) ||
      // an entry of the activity, which tells by name what was done to whom
      (Array.isArray(subjects) && subjects.some((s) => this.tells(s)))
    );
  }
}

const isPlain = (x: unknown): x is object =>
  x !== null && typeof x === 'object' && !Array.isArray(x) && Object.getPrototypeOf(x) === Object.prototype;

const remembered = new Map<string, { until: number; hidden: Hidden }>();

/** What is hidden from a person; undefined where nothing is, as nearly always. */
export async function hiddenFrom(db: Queries, person: Pick<Person, 'id' | 'role'>): Promise<Hidden | undefined> {
  if (can(person, 'curate')) return undefined;
  // asked with every request: most libraries hide nothing
  const [any] = await db.select({ id: folders.id }).from(folders).where(eq(folders.hidden, true)).limit(1);
  const within = any ? await hiddenFolders(db, person) : new Set<string>();
  if (within.size === 0) return undefined;
  const key = [...within].sort().join(' ');
  const known = remembered.get(key);
  if (known && known.until > Date.now()) return known.hidden;
  const hidden = await readHidden(db, within);
  for (const [old, { until }] of remembered) if (until < Date.now()) remembered.delete(old);
  remembered.set(key, { until: Date.now() + FRESH_MS, hidden });
  return hidden;
}

async function readHidden(db: Queries, hidden: ReadonlySet<string>): Promise<Hidden> {
  const within = [...hidden];
  const rows = await db
    .select({
      item: items.id,
      version: itemVersions.id,
      reading: readings.id,
      motion: readings.motionHash,
      still: items.stillHash,
    })
    .from(items)
    .leftJoin(itemVersions, eq(itemVersions.itemId, items.id))
    .leftJoin(readings, eq(readings.id, itemVersions.readingId))
    .where(inArray(items.folderId, within));
  const own = new Set(rows.map((r) => r.item));
  const names = new Set<string>(own);
  for (const { version, reading, motion, still } of rows)
    for (const name of [version, reading, motion, still]) if (name !== null) names.add(name);
  // what somebody else has in the open is no secret
  const motions = [...new Set(rows.flatMap((r) => (r.motion === null ? [] : [r.motion])))];
  if (motions.length > 0) {
    const open = await db
      .selectDistinct({ reading: readings.id, motion: readings.motionHash })
      .from(readings)
      .innerJoin(itemVersions, eq(itemVersions.readingId, readings.id))
      .innerJoin(items, eq(items.id, itemVersions.itemId))
      .where(
        and(inArray(readings.motionHash, motions), or(isNull(items.folderId), notInArray(items.folderId, within))),
      );
    for (const { reading, motion } of open) {
      names.delete(reading);
      names.delete(motion);
    }
  }
  const stills = [...new Set(rows.flatMap((r) => (r.still === null ? [] : [r.still])))];
  if (stills.length > 0) {
    const open = await db
      .selectDistinct({ still: items.stillHash })
      .from(items)
      .where(and(inArray(items.stillHash, stills), or(isNull(items.folderId), notInArray(items.folderId, within))));
    for (const { still } of open) if (still !== null) names.delete(still);
  }
  return new Hidden(hidden, names, own);
}
