import { join } from 'node:path';
import { readMigrationFiles } from 'drizzle-orm/migrator';
import { type Connection, createConnection, type RowDataPacket } from 'mysql2/promise';
import { encrypted } from './encrypted';

const FOLDER = join(process.env.VELVET_ROOT ?? process.cwd(), 'web/server/db/migrations');
/** The account package's table of migrations that are done, and ours of one that is under way. */
const DONE = '`__drizzle_migrations`';
const STEPS = '`migration_steps`';
/** How long one process waits for another that migrates the same database. */
const WAIT_S = 600;

/** Codes of a statement whose result is there already: table, column, key, row; column or key that is gone. */
const ALREADY = new Set([1050, 1060, 1061, 1062, 1091]);

interface Migration {
  readonly sql: readonly string[];
  readonly hash: string;
  /** When it was made: their order. */
  readonly at: number;
}

export const migrations = (): Migration[] =>
  readMigrationFiles({ migrationsFolder: FOLDER }).map(({ sql, hash, folderMillis }) => ({
    sql: sql.filter((s) => s.trim() !== ''),
    hash,
    at: folderMillis,
  }));

/**
 * Brings a database to the newest migration. Whoever comes second waits, and a migration that was cut off goes on after the
 * last statement that it finished: MariaDB ends a transaction at every change of a table, so a whole one cannot be taken back.
 * @param upTo for tests: so many migrations alone
 * @returns how many were applied
 * @throws Error where the database is of a newer release, or is being migrated by somebody for too long
 */
export async function migrateDatabase(url: string, upTo = Number.POSITIVE_INFINITY): Promise<number> {
  const connection = await createConnection({ uri: url, timezone: 'Z', charset: 'utf8mb4', ...encrypted() });
  try {
    const [[lock]] = await connection.query<RowDataPacket[]>(
      `select get_lock(concat('velvet-migrate ', database()), ${WAIT_S}) as mine`,
    );
    if (lock?.mine !== 1) throw new Error('Another process has been migrating the database for ten minutes.');
    const all = migrations();
    const last = await newest(connection);
    if (last > (all.at(-1)?.at ?? 0))
      throw new Error('The database belongs to a newer release. Update the application, or restore a backup.');
    await connection.query(
      `create table if not exists ${DONE} (id serial primary key, hash text not null, created_at bigint)`,
    );
    const open = all.slice(0, upTo).filter((m) => m.at > last);
    for (const migration of open) await apply(connection, migration);
    return open.length;
  } finally {
    await connection.end();
  }
}

/** When the newest migration that a database has was made; 0 for an empty one. */
export async function newest(connection: Pick<Connection, 'query'>): Promise<number> {
  const [[row]] = await connection
    .query<RowDataPacket[]>(`select max(created_at) as at from ${DONE}`)
    .catch((error: { errno?: number }) => {
      // an empty database has no such table
      if (error.errno === 1146) return [[undefined]];
      throw error;
    });
  return Number(row?.at ?? 0);
}

async function apply(connection: Connection, { sql, hash, at }: Migration): Promise<void> {
  await connection.query(`create table if not exists ${STEPS} (at bigint primary key, done int not null)`);
  const [[row]] = await connection.query<RowDataPacket[]>(`select done from ${STEPS} where at = ?`, [at]);
  // what was cut off may have been done and not noted; releases before this one noted nothing
  let repeating = true;
  for (let i = Number(row?.done ?? 0); i < sql.length; i++) {
    try {
      await connection.query(sql[i]!);
      repeating = false;
    } catch (error) {
      if (!(repeating && ALREADY.has((error as { errno?: number }).errno ?? 0))) throw error;
    }
    await connection.query(`replace into ${STEPS} values (?, ?)`, [at, i + 1]);
  }
  await connection.query(`insert into ${DONE} (hash, created_at) values (?, ?)`, [hash, at]);
  await connection.query(`delete from ${STEPS} where at = ?`, [at]);
}

if (/\bdb\/migrate\.ts$|\bserver\/migrate\.mjs$/.test(process.argv[1] ?? ''))
  await migrateDatabase(process.env.VELVET_DATABASE ?? '');
