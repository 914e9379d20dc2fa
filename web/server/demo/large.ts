// Fills the library with any number of made-up items for scale tests. Motions are shared with what is there; the rest is
// generated: names, folders, tags, dates, people.
import { seeded } from '@velvet-reel/motion';
import { eq, sql } from 'drizzle-orm';
import { type Database, openDatabase } from '../db/client';
import { items, itemTags, itemVersions, people, readings, tags } from '../db/schema';
import { newId } from '../ids';
import { folderByPath } from '../services/folders';
import { newGroup, record } from '../services/history';

const WHO = ['Ines', 'Tove', 'Winch', 'Skerry', 'Pip', 'Cook', 'Gull', 'Mate', 'Pilot', 'Stoker'];
const DOES = [
  'hauls',
  'coils',
  'walks',
  'crawls',
  'turns',
  'waves',
  'climbs',
  'limps',
  'lifts',
  'mops',
  'points',
  'kneels',
  'runs',
  'braces',
  'signals',
  'ducks',
  'stows',
  'belays',
];
const WHAT = [
  'the tarred rope',
  'a crate',
  'the gangway',
  'the fog bell',
  'a lantern',
  'the boom',
  'the hatch',
  'a cleat',
  'the rail',
  'a kettle',
  'the net',
  'the buoy',
];
const HOW = [
  'slowly',
  'in the swell',
  'by night',
  'with wet hands',
  'for the third time',
  'against the wind',
  'without looking',
  'in a hurry',
  'with a limp',
  'half asleep',
];
const PLACES = ['Deck', 'Galley', 'Engine room', 'Quay', 'Gangway', 'Wheelhouse', 'Hold', 'Sheds'];
const DAYS = ['first day', 'second day', 'third day', 'night watch', 'rehearsal'];
const TAGS = [
  'walk',
  'rope',
  'two hands',
  'carry',
  'turn',
  'idle',
  'wet',
  'night',
  'limp',
  'stairs',
  'run',
  'crouch',
  'wave',
  'heavy',
  'careful',
  'retake',
  'clean',
  'hero',
  'crowd',
  'left',
];
const BATCH = 2000;

/** Adds `count` items. Answers with how many there are then. */
export async function fillLarge(
  db: Database,
  count: number,
  say: (text: string) => void = () => undefined,
  seed = 1,
): Promise<void> {
  const random = seeded(seed);
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]!;
  const [person] = await db.select({ id: people.id }).from(people).limit(1);
  const everybody = (await db.select({ id: people.id }).from(people)).map((p) => p.id);
  const known = await db.select({ id: readings.id, facts: readings.facts }).from(readings).limit(500);
  if (!person || known.length === 0) throw new Error('The library is empty: bring something in first, then fill it.');
  const folders: string[] = [];
  for (const place of PLACES)
    for (const day of DAYS) folders.push((await folderByPath(db, `Capture / ${place} / ${day}`, person.id))!);
  await db
    .insert(tags)
    .ignore()
    .values(TAGS.map((name) => ({ id: newId(), name })));
  const tagIds = (await db.select().from(tags)).filter((t) => TAGS.includes(t.name)).map((t) => t.id);
  for (let done = 0; done < count; done += BATCH) {
    const n = Math.min(BATCH, count - done);
    const rows: (typeof items.$inferInsert)[] = [];
    const versions: (typeof itemVersions.$inferInsert)[] = [];
    const tagged: (typeof itemTags.$inferInsert)[] = [];
    for (let i = 0; i < n; i++) {
      const reading = pick(known);
      const [id, versionId] = [newId(), newId()];
      const number = done + i + 1;
      const createdAt = new Date(Date.now() - Math.floor(random() * 700) * 86_400_000);
      const name =
        random() < 0.06
          ? `Take ${number}`
          : `${pick(WHO)} ${pick(DOES)} ${pick(WHAT)} ${random() < 0.5 ? `${pick(HOW)} ` : ''}${number}`;
      rows.push({
        id,
        kind:
          reading.facts.frameCount === 1 ? 'pose' : reading.facts.loops ? 'cycle' : random() < 0.3 ? 'clip' : 'take',
        name,
        note: random() < 0.4 ? `${pick(DOES)} ${pick(WHAT)}, ${pick(HOW)}` : '',
        heading: random() < 0.3 ? pick(DAYS) : '',
        folderId: pick(folders),
        versionId,
        rating: random() < 0.2 ? 1 + Math.floor(random() * 5) : 0,
        rights: pick(['unknown', 'own', 'own', 'licensed', 'free'] as const),
        createdBy: pick(everybody),
        createdAt,
        updatedAt: createdAt,
      });
      versions.push({
        id: versionId,
        itemId: id,
        number: 1,
        readingId: reading.id,
        provenance: { how: 'intake', file: `${number}.bvh`, clip: name, format: 'bvh', bytes: 500_000 },
        createdBy: person.id,
        createdAt,
      });
      const own = new Set(Array.from({ length: Math.floor(random() * 4) }, () => pick(tagIds)));
      for (const tagId of own) tagged.push({ itemId: id, tagId });
    }
    await db.transaction(async (tx) => {
      await tx.insert(itemVersions).values(versions);
      await tx.insert(items).values(rows);
      if (tagged.length > 0) await tx.insert(itemTags).values(tagged);
    });
    if ((done / BATCH) % 10 === 0) say(`${done + n} of ${count}`);
  }
  await record(db, [
    {
      subject: 'item',
      subjectId: '-',
      groupId: newGroup(),
      personId: person.id,
      action: 'reload',
      label: `Filled in ${count} items`,
    },
  ]);
  await db.execute(sql`analyze table items, item_versions, item_tags`);
}

if (process.argv[1]?.endsWith('large.ts')) {
  const { db, pool } = openDatabase(process.env.VELVET_DATABASE ?? '', 2);
  const count = Number(process.argv[2] ?? 10_000);
  if (!(Number.isInteger(count) && count > 0 && count <= 1_000_000))
    throw new Error('Say how many: a whole number up to 1000000.');
  await fillLarge(db, count, (text) => console.log(`velvet reel · ${text}`));
  const [all] = await db.select({ n: sql<number>`count(*)` }).from(items).where(eq(items.kind, items.kind));
  console.log(`velvet reel · the library holds ${all?.n} items`);
  await pool.end();
}
