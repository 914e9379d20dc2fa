// Fills an empty library with the demo world: the same files a person could drop in, read by the same code.
import { randomBytes } from 'node:crypto';
import { hashPassword, verifyPassword } from 'better-auth/crypto';
import { count, eq, inArray, isNull } from 'drizzle-orm';
import { memberFile, performanceFile } from '../../../demo/build';
import { CAST } from '../../../demo/cast';
import { CUTOUTS } from '../../../demo/cutouts/cutouts';
import { lanternToss } from '../../../demo/cutouts/lantern-toss';
import { performAll } from '../../../demo/world';
import { writeBvh } from '../../../motion/index';
import { NO_CHANGE } from '../../wishes/wishes';
import { addPerson } from '../auth/accounts';
import { DEMO_PEOPLE, demoPassword, inDemo } from '../auth/demo-people';
import { revokeAll } from '../auth/tokens';
import { type Database, openDatabase } from '../db/client';
import { accounts, castMembers, items, people, sessions } from '../db/schema';
import { newId } from '../ids';
import { listCast } from '../services/cast';
import { takeIn } from '../services/intake';
import { getItems } from '../services/items';
import { changeIntoNew } from '../services/motion-changes';
import { makePlay } from '../services/plays';
import { makeReel } from '../services/reels';
import { setSteps } from '../services/sequences';
import { readFile } from '../threads/work';
import { demoPlay } from './play';
import { demoReel } from './reel';

/**
 * The accounts of the demo world, each with a password that this installation alone knows; a person from before there were
 * accounts becomes the first of them.
 */
async function demoPeople(db: Database): Promise<string> {
  const [account] = await db.select({ id: accounts.userId }).from(accounts).orderBy(accounts.createdAt).limit(1);
  if (account) {
    await giveDemoPasswords(db);
    return account.id;
  }
  const [someone] = await db.select().from(people).limit(1);
  const [first, ...others] = DEMO_PEOPLE;
  let id = someone?.id;
  if (id !== undefined) {
    await db.update(people).set({ email: first!.email, emailVerified: true }).where(eq(people.id, id));
    const password = await hashPassword(demoPassword(first!.email));
    await db.insert(accounts).values({ id: newId(), userId: id, accountId: id, providerId: 'credential', password });
  } else id = (await addPerson(db, { ...first!, password: demoPassword(first!.email) }, null)).id;
  for (const person of others) await addPerson(db, { ...person, password: demoPassword(person.email) }, { id });
  return id;
}

/** Earlier releases had their passwords in the source; a session secret that is changed changes them too. */
async function giveDemoPasswords(db: Database): Promise<void> {
  for (const { email } of DEMO_PEOPLE) {
    const [row] = await db
      .select({ userId: accounts.userId, password: accounts.password })
      .from(accounts)
      .innerJoin(people, eq(people.id, accounts.userId))
      .where(eq(people.email, email));
    const own = demoPassword(email);
    if (!row || (row.password && (await verifyPassword({ hash: row.password, password: own })))) continue;
    await db
      .update(accounts)
      .set({ password: await hashPassword(own) })
      .where(eq(accounts.userId, row.userId));
  }
}

/** Where the demo world is not wanted, nobody signs in as one of its people, whatever happened here before. */
export async function closeDemoAccounts(db: Database): Promise<void> {
  const rows = await db
    .select({ id: people.id })
    .from(people)
    .where(
      inArray(
        people.email,
        DEMO_PEOPLE.map((p) => p.email),
      ),
    );
  for (const { id } of rows) {
    await db
      .update(accounts)
      .set({ password: await hashPassword(randomBytes(32).toString('base64url')) })
      .where(eq(accounts.userId, id));
    await db.delete(sessions).where(eq(sessions.userId, id));
    await revokeAll(db, id);
  }
}

/** Motions of the demo world that go on into each other. */
const SEQUENCES = [
  ['Deck walk', 'Sit on the bollard', 'Up from the bollard', 'Walk turning left'],
  ['Casting a line', 'Tarred rope haul', 'Waiting for the tide'],
] as const;

/** Frames of motions that are kept as poses: they stand on the same feet, so that a field can mix them. */
const POSES: readonly (readonly [name: string, from: string, frame: number])[] = [
  ['Lantern low', 'Hanging the lantern', 31],
  ['Lantern up', 'Hanging the lantern', 97],
  ['Lantern hung', 'Hanging the lantern', 163],
  ['Hands coming down', 'Hanging the lantern', 229],
];

export async function loadDemo(url: string, withWorld: boolean): Promise<void> {
  const { db, pool } = openDatabase(url, 2);
  try {
    if (!withWorld) return await closeDemoAccounts(db);
    const personId = await demoPeople(db);
    const [a] = await db.select({ n: count() }).from(items);
    const [b] = await db.select({ n: count() }).from(castMembers);
    if ((a?.n ?? 0) + (b?.n ?? 0) > 0) return;
    console.log('velvet reel · bringing in the demo world');
    for (const member of CAST) {
      const bytes = await memberFile(member);
      const read = await readFile({ bytes, name: `${member.id}.glb` });
      if ('ok' in read)
        await takeIn(db, read.ok, { fileName: `${member.id}.glb`, bytes: bytes.length }, personId, {
          cast: { name: member.name, note: member.note },
        });
      else throw new Error(read.refused.message);
    }
    for (const { file, name, note, svg } of CUTOUTS) {
      const bytes = new TextEncoder().encode(svg());
      const read = await readFile({ bytes, name: file });
      if (!('ok' in read)) throw new Error(read.refused.message);
      await takeIn(db, read.ok, { fileName: file, bytes: bytes.length }, personId, { cast: { name, note } });
    }
    const scene = new TextEncoder().encode(lanternToss());
    const toss = await readFile({ bytes: scene, name: 'lantern-toss.json' });
    if (!('ok' in toss)) throw new Error(toss.refused.message);
    await takeIn(db, toss.ok, { fileName: 'lantern-toss.json', bytes: scene.length }, personId, {
      item: {
        kind: 'clip',
        rights: 'own',
        source: 'Saltmarsh Ferry, animated in-house',
        name: 'Lantern toss',
        note: 'Keyed animation of the captain: he throws his lantern, hops after it and catches it.',
        tags: ['cut-out', 'keyed', 'lantern'],
        folder: 'Saltmarsh Ferry / Paper theatre',
      },
    });
    // somebody is on hand from the first second, for everybody, until they choose
    const [first] = await db
      .select({ id: castMembers.id })
      .from(castMembers)
      .where(eq(castMembers.name, CAST[0]!.name));
    await db.update(people).set({ performerId: first!.id }).where(isNull(people.performerId));
    const { actor, performances } = performAll();
    const ids = new Map<string, string>();
    for (const { score, motion } of performances) {
      // BVH knows no faces
      const file = motion.numbers.length > 0 ? 'glb' : 'bvh';
      const bytes =
        file === 'glb'
          ? await performanceFile(CAST[0]!, score.name, motion)
          : new TextEncoder().encode(writeBvh(actor.rig, motion));
      const read = await readFile({ bytes, name: `${score.name}.${file}` });
      if (!('ok' in read)) throw new Error(read.refused.message);
      // the performer's figure is in the cast already
      const { result } = await takeIn(
        db,
        { ...read.ok, figure: null },
        { fileName: `${score.name}.${file}`, bytes: bytes.length },
        personId,
        {
          item: {
            rights: 'own',
            source: 'Saltmarsh Ferry, motion made in-house',
            name: score.name,
            kind: score.kind,
            note: score.note,
            tags: score.tags,
            folder: `Saltmarsh Ferry / ${score.folder}`,
          },
        },
      );
      ids.set(score.name, result.items[0]!.id);
    }
    const [person] = await db.select().from(people).where(eq(people.id, personId));
    for (const names of SEQUENCES)
      await setSteps(
        db,
        person!,
        names.slice(1).map((name, i) => [ids.get(names[i]!)!, ids.get(name)!] as const),
        true,
      );
    for (const [name, from, frame] of POSES)
      await changeIntoNew(db, ids.get(from)!, { ...NO_CHANGE, trim: { start: frame, end: frame } }, name, person!);
    const byName = new Map((await getItems(db, [...ids.values()])).map((item) => [item.name, item]));
    const members = new Map((await listCast(db)).map((c) => [c.name, c.id]));
    await makeReel(
      db,
      { id: personId },
      demoReel(
        (name) => members.get(name)!,
        (name) => byName.get(name)!,
      ),
    );
    await makePlay(
      db,
      { id: personId },
      demoPlay(members.get('Ines Vane')!, (name) => ids.get(name)!),
    );
  } finally {
    await pool.end();
  }
}

if (/\b(demo|server)\/load\.(ts|mjs)$/.test(process.argv[1] ?? ''))
  await loadDemo(process.env.VELVET_DATABASE ?? '', inDemo());
