import type { Facts } from '@velvet-reel/motion';
import { and, asc, eq, gt, inArray } from 'drizzle-orm';
import type { Queries } from '../db/client';
import { castMembers, favourites, folders, items, itemTags, itemVersions, people, readings, tags } from '../db/schema';
import type { Catalogue, Surroundings } from './catalogue';
import type { CatalogueItem } from './rows';

const CHUNK = 5000;

const columns = {
  id: items.id,
  kind: items.kind,
  name: items.name,
  note: items.note,
  heading: items.heading,
  folderId: items.folderId,
  by: items.createdBy,
  madeFor: items.madeFor,
  rights: items.rights,
  rating: items.rating,
  binnedAt: items.binnedAt,
  createdAt: items.createdAt,
  updatedAt: items.updatedAt,
  readingId: itemVersions.readingId,
};

type Reading = Pick<
  Facts,
  'frameCount' | 'fps' | 'durationS' | 'travelM' | 'inPlace' | 'loops' | 'tempo' | 'parts' | 'support'
> & {
  descriptor: Int8Array;
  poses: Uint8Array;
};

/** Reads all items into a catalogue, in chunks; what was read off one motion is looked up once. */
export async function loadInto(db: Queries, catalogue: Catalogue): Promise<void> {
  catalogue.around = await surroundings(db);
  const known = new Map<string, Reading>();
  let last = '';
  for (;;) {
    const rows = await db
      .select(columns)
      .from(items)
      .innerJoin(itemVersions, eq(itemVersions.id, items.versionId))
      .where(gt(items.id, last))
      .orderBy(asc(items.id))
      .limit(CHUNK);
    if (rows.length === 0) return;
    last = rows.at(-1)!.id;
    for (const item of await complete(db, rows, known)) catalogue.put(item);
    if (known.size > 4 * CHUNK) known.clear();
    if (rows.length < CHUNK) return;
  }
}

/** Some items as a catalogue takes them in; those that are gone are missing from the answer. */
export async function readItems(db: Queries, ids: readonly string[]): Promise<CatalogueItem[]> {
  if (ids.length === 0) return [];
  const rows = await db
    .select(columns)
    .from(items)
    .innerJoin(itemVersions, eq(itemVersions.id, items.versionId))
    .where(inArray(items.id, [...ids]));
  return complete(db, rows, new Map());
}

type Row = {
  [K in keyof typeof columns]: (typeof columns)[K]['_']['notNull'] extends true
    ? (typeof columns)[K]['_']['data']
    : (typeof columns)[K]['_']['data'] | null;
};

async function complete(db: Queries, rows: readonly Row[], known: Map<string, Reading>): Promise<CatalogueItem[]> {
  const wanted = [...new Set(rows.map((r) => r.readingId))].filter((id) => !known.has(id));
  if (wanted.length > 0) {
    const found = await db
      .select({ id: readings.id, facts: readings.facts, descriptor: readings.descriptor, poses: readings.poses })
      .from(readings)
      .where(inArray(readings.id, wanted));
    for (const { id, facts, descriptor, poses } of found)
      known.set(id, { ...facts, descriptor: descriptor.slice(), poses: poses.slice() });
  }
  const tagged = new Map<string, string[]>();
  if (rows.length > 0) {
    const named = await db
      .select({ itemId: itemTags.itemId, name: tags.name })
      .from(itemTags)
      .innerJoin(tags, eq(tags.id, itemTags.tagId))
      .where(
        rows.length > 200
          ? and(
              gt(itemTags.itemId, ''),
              inArray(
                itemTags.itemId,
                rows.map((r) => r.id),
              ),
            )
          : inArray(
              itemTags.itemId,
              rows.map((r) => r.id),
            ),
      );
    for (const { itemId, name } of named) {
      const own = tagged.get(itemId);
      if (own) own.push(name);
      else tagged.set(itemId, [name]);
    }
  }
  return rows.flatMap((r) => {
    const reading = known.get(r.readingId);
    if (!reading) return [];
    return [
      {
        id: r.id,
        kind: r.kind,
        name: r.name,
        note: r.note,
        heading: r.heading,
        folderId: r.folderId,
        tags: tagged.get(r.id) ?? [],
        by: r.by,
        madeFor: r.madeFor,
        rights: r.rights,
        rating: r.rating,
        binned: r.binnedAt !== null,
        createdAt: r.createdAt.getTime(),
        updatedAt: r.updatedAt.getTime(),
        frames: reading.frameCount,
        fps: reading.fps,
        durationS: reading.durationS,
        travelM: reading.travelM,
        inPlace: reading.inPlace,
        loops: reading.loops,
        tempo: reading.tempo,
        left: reading.support.left,
        right: reading.support.right,
        parts: reading.parts,
        readingId: r.readingId,
        descriptor: reading.descriptor,
        poses: reading.poses,
      },
    ];
  });
}

export async function surroundings(db: Queries): Promise<Surroundings> {
  const [persons, members, places, words, likes] = await Promise.all([
    db.select({ id: people.id, name: people.name }).from(people),
    db.select({ id: castMembers.id, name: castMembers.name }).from(castMembers),
    db.select({ id: folders.id, name: folders.name }).from(folders),
    db.select({ name: tags.name, synonyms: tags.synonyms }).from(tags),
    db.select().from(favourites),
  ]);
  const own = new Map<string, Set<string>>();
  for (const { personId, itemId } of likes) {
    const set = own.get(personId);
    if (set) set.add(itemId);
    else own.set(personId, new Set([itemId]));
  }
  return {
    peopleNames: new Map(persons.map((p) => [p.id, p.name])),
    castNames: new Map(members.map((c) => [c.id, c.name])),
    folderNames: new Map(places.map((f) => [f.id, f.name])),
    synonyms: new Map(words.flatMap((t) => (t.synonyms.length > 0 ? [[t.name, t.synonyms] as const] : []))),
    favourites: own,
  };
}
