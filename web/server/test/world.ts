import { sql } from 'drizzle-orm';
import { writeBvh, writeGlb } from '../../../motion/index';
import { posedRig, wander } from '../../../motion/test/bodies';
import { readFile } from '../../workers/heavy';
import { type Database, openDatabase } from '../db/client';
import { migrateDatabase } from '../db/migrate';
import { people } from '../db/schema';
import { newId } from '../ids';

/** A real MariaDB with a database of this test file's own, dropped at the end. */
export async function testDatabase(): Promise<{ db: Database; personId: string; close: () => Promise<void> }> {
  const base = process.env.VELVET_DATABASE;
  if (!base) throw new Error('These tests need MariaDB: run them with npm test.');
  const name = `velvet_test_${newId().replace(/\W/g, '_').toLowerCase()}`;
  const admin = openDatabase(base, 1);
  await admin.db.execute(sql.raw(`create database ${name} character set utf8mb4 collate utf8mb4_unicode_ci`));
  const url = base.replace(/\/[^/]+$/, `/${name}`);
  await migrateDatabase(url);
  const { db, pool } = openDatabase(url, 6);
  const personId = newId();
  await db.insert(people).values({ id: personId, name: 'Test Person', role: 'admin' });
  return {
    db,
    personId,
    close: async () => {
      await pool.end();
      await admin.db.execute(sql.raw(`drop database ${name}`));
      await admin.pool.end();
    },
  };
}

/** What the reader makes of a small take; another seed is another motion on the same skeleton. */
export async function readTake(seed = 1) {
  const rig = posedRig(90);
  const outcome = await readFile({
    bytes: new TextEncoder().encode(writeBvh(rig, wander(rig, 40, seed, 30, 0.3))),
    name: `take ${seed}.bvh`,
  });
  if (!('ok' in outcome)) throw new Error(outcome.refused.message);
  return outcome.ok;
}

export async function readSkeleton(scale = 0.7) {
  const outcome = await readFile({ bytes: await writeGlb({ rig: posedRig(45, scale, true) }), name: 'skeleton.glb' });
  if (!('ok' in outcome)) throw new Error(outcome.refused.message);
  return outcome.ok;
}
