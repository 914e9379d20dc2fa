import { createConnection, type RowDataPacket } from 'mysql2/promise';
import { newId } from '../ids';
import { getCast } from '../services/cast';
import { getRig } from '../services/rigs';
import { openDatabase } from './client';
import { migrateDatabase, migrations } from './migrate';

/** An empty database of its own. */
async function emptyDatabase(): Promise<{
  url: string;
  ask: (sql: string, values?: unknown[]) => Promise<RowDataPacket[]>;
  close: () => Promise<void>;
}> {
  const base = process.env.VELVET_DATABASE!;
  const name = `velvet_test_${newId().replace(/\W/g, '_').toLowerCase()}`;
  const connection = await createConnection({ uri: base, timezone: 'Z', multipleStatements: true });
  await connection.query(`create database ${name} character set utf8mb4; use ${name}`);
  return {
    url: base.replace(/\/[^/]+$/, `/${name}`),
    ask: async (sql, values) => (await connection.query<RowDataPacket[]>(sql, values))[0],
    close: async () => {
      await connection.query(`drop database ${name}`);
      await connection.end();
    },
  };
}

let db: Awaited<ReturnType<typeof emptyDatabase>>;
beforeEach(async () => {
  db = await emptyDatabase();
});
afterEach(() => db.close());

const tables = async (): Promise<string[]> =>
  (await db.ask('select table_name as name from information_schema.tables where table_schema = database()'))
    .map((r) => r.name as string)
    .sort();

test('two who migrate at once do it once', async () => {
  const counts = await Promise.all([migrateDatabase(db.url), migrateDatabase(db.url), migrateDatabase(db.url)]);
  expect(counts.sort((a, b) => a - b)).toEqual([0, 0, migrations().length]);
});

test('one that is cut off after any statement goes on there', async () => {
  await migrateDatabase(db.url);
  const whole = await tables();
  const all = migrations();
  for (const [number, cut] of [
    [0, 13],
    [2, 4],
    [11, 1],
  ] as const) {
    await db.close();
    db = await emptyDatabase();
    await migrateDatabase(db.url, number);
    // applied by a process that was killed before it could note the last statement
    for (const statement of all[number]!.sql.slice(0, cut)) await db.ask(statement);
    if (number > 0) await db.ask('insert into migration_steps values (?, ?)', [all[number]!.at, cut - 1]);
    await migrateDatabase(db.url);
    expect(await tables()).toEqual(whole);
  }
});

test('a statement that fails for another reason stops it, with what was done kept', async () => {
  await migrateDatabase(db.url, 2);
  // the third migration changes this table
  await db.ask('drop table people');
  await expect(migrateDatabase(db.url)).rejects.toMatchObject({ errno: 1146 });
  expect(await db.ask('select count(*) as n from __drizzle_migrations')).toEqual([{ n: 2 }]);
});

test('a database of a newer release is left alone', async () => {
  await migrateDatabase(db.url);
  await db.ask("insert into __drizzle_migrations (hash, created_at) values ('x', 99999999999999)");
  await expect(migrateDatabase(db.url)).rejects.toThrow('newer release');
});

test('a library of the release before opens: characters keep their figures, rigs what was set for them', async () => {
  const before = migrations().findIndex((m) => m.sql.some((s) => s.includes('ADD `taken`') && s.includes('body_maps')));
  await migrateDatabase(db.url, before);
  const hash = 'a'.repeat(64);
  await db.ask(
    `insert into rigs (id, identity, kind, joint_count, height_m, rest_kind, data, found)
     values ('r1', ?, 'skeleton', 1, 1.7, 'T', '{}', '{}')`,
    [hash],
  );
  await db.ask(`insert into body_maps (rig_id, map, version) values ('r1', '{"slots":{}}', 7)`);
  for (const [id, file] of [
    ['c1', hash],
    ['c2', null],
  ])
    await db.ask("insert into cast_members (id, name, rig_id, file_hash, height_m) values (?, ?, 'r1', ?, 1.7)", [
      id,
      `Member ${id}`,
      file,
    ]);
  await migrateDatabase(db.url);
  const { db: now, pool } = openDatabase(db.url, 1);
  expect([(await getCast(now, 'c1')).assets, (await getCast(now, 'c2')).assets]).toEqual([{ figure: hash }, {}]);
  expect(await getRig(now, 'r1')).toMatchObject({ mapVersion: 7, map: { slots: {} }, sets: [] });
  await pool.end();
});
