import { sql } from 'drizzle-orm';
import { demandRoom, LEAST_FREE } from './files/space';
import { mayMeasure, measured, readiness } from './health';
import { testDatabase, type World } from './test/world';

let w: World;
const kept = globalThis as { velvetDatabase?: unknown };
beforeAll(async () => {
  w = await testDatabase();
  kept.velvetDatabase = { db: w.db };
});
afterAll(() => w.close());

test('ready is who has a database of this release that takes what is written', async () => {
  expect(await readiness()).toBeNull();
  await w.db.execute(sql`insert into __drizzle_migrations (hash, created_at) values ('x', 99999999999999)`);
  expect(await readiness()).toMatch(/newer release/);
  await w.db.execute(
    sql`delete from __drizzle_migrations where hash = 'x' or created_at = (select at from (select max(created_at) as at from __drizzle_migrations where hash <> 'x') m)`,
  );
  expect(await readiness()).toMatch(/older release/);
  kept.velvetDatabase = { db: { execute: () => Promise.reject(new Error('away')) } };
  expect(await readiness()).toMatch(/cannot be reached/);
  kept.velvetDatabase = { db: w.db };
});

test('figures are for whoever shows the token, and nobody where none is set', async () => {
  expect(mayMeasure('Bearer abc', 'abc')).toBe(true);
  for (const [given, token] of [
    [null, 'abc'],
    ['Bearer abd', 'abc'],
    ['abc', 'abc'],
    ['Bearer ', ''],
    [null, ''],
  ] as const)
    expect(mayMeasure(given, token)).toBe(false);
  const { text } = await measured();
  expect(text).toMatch(/^velvet_job_parts\{state="ready"\} 0$/m);
  expect(text).toMatch(/^velvet_process_resident_memory_bytes \d+/m);
});

test('nothing is taken in that would leave the disk full', async () => {
  const free = (bytes: number) => async () => bytes;
  await demandRoom(1000, free(LEAST_FREE + 3000));
  await expect(demandRoom(1000, free(LEAST_FREE + 1000))).rejects.toMatchObject({ status: 507, code: 'disk-full' });
  await demandRoom(1e12, async () => null);
});
