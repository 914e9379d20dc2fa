import { eq, sql } from 'drizzle-orm';
import { writeBvh, writeGlb } from '../../../motion/index';
import { posedRig, wander } from '../../../motion/test/bodies';
import type { Role } from '../../contract';
import type { Person } from '../auth/person';
import { LiveCatalogue } from '../catalogue/live';
import { type Database, openDatabase } from '../db/client';
import { migrateDatabase } from '../db/migrate';
import { people } from '../db/schema';
import { newId } from '../ids';
import { takeIn } from '../services/intake';
import type { NewItem } from '../services/items';
import { closeThreads } from '../threads/pool';
import { readFile } from '../threads/work';

export interface World {
  db: Database;
  url: string;
  /** An admin. */
  person: Person;
  personId: string;
  library: LiveCatalogue;
  /** Another person. */
  somebody: (role: Role, name?: string) => Promise<Person>;
  /** Brings a small take in; another seed is another motion on the same skeleton. */
  bring: (seed: number, name: string, extra?: Partial<NewItem>) => Promise<string>;
  close: () => Promise<void>;
}

/** A real MariaDB with a database of this test file's own, dropped at the end. */
export async function testDatabase(): Promise<World> {
  const base = process.env.VELVET_DATABASE;
  if (!base) throw new Error('These tests need MariaDB: run them with npm test.');
  const name = `velvet_test_${newId().replace(/\W/g, '_').toLowerCase()}`;
  const admin = openDatabase(base, 1);
  await admin.db.execute(sql.raw(`create database ${name} character set utf8mb4 collate utf8mb4_unicode_ci`));
  const url = base.replace(/\/[^/]+$/, `/${name}`);
  await migrateDatabase(url);
  const { db, pool } = openDatabase(url, 8);
  const somebody = async (role: Role, called = `Test ${role}`): Promise<Person> => {
    const id = newId();
    await db.insert(people).values({ id, name: called, role });
    return (await db.select().from(people).where(eq(people.id, id)))[0]!;
  };
  const person = await somebody('admin', 'Test Person');
  const library = new LiveCatalogue(db);
  const bring = async (seed: number, called: string, extra: Partial<NewItem> = {}): Promise<string> => {
    const report = await takeIn(db, await readTake(seed), { fileName: `${called}.bvh`, bytes: 1000 }, person.id, {
      item: { name: called, ...extra },
    });
    return report.result.items[0]!.id;
  };
  return {
    db,
    url,
    person,
    personId: person.id,
    library,
    somebody,
    bring,
    close: async () => {
      library.close();
      await closeThreads();
      await pool.end();
      await admin.db.execute(sql.raw(`drop database ${name}`));
      await admin.pool.end();
    },
  };
}

/** What the reader makes of a small take; another seed is another motion on the same skeleton. */
export async function readTake(seed = 1) {
  const outcome = await readFile({ bytes: takeBytes(seed), name: `take ${seed}.bvh` });
  if (!('ok' in outcome)) throw new Error(outcome.refused.message);
  return outcome.ok;
}

/** The same as a file. */
export function takeBytes(seed = 1, frames = 40): Uint8Array {
  const rig = posedRig(90);
  return new TextEncoder().encode(writeBvh(rig, wander(rig, frames, seed, 30, 0.3)));
}

export async function readSkeleton(scale = 0.7) {
  const outcome = await readFile({ bytes: await writeGlb({ rig: posedRig(45, scale, true) }), name: 'skeleton.glb' });
  if (!('ok' in outcome)) throw new Error(outcome.refused.message);
  return outcome.ok;
}
