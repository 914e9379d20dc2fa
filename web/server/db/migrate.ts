import { join } from 'node:path';
import { migrate } from 'drizzle-orm/mysql2/migrator';
import { openDatabase } from './client';

/** Brings a database to the newest migration. */
export async function migrateDatabase(url: string): Promise<void> {
  const { db, pool } = openDatabase(url, 1);
  await migrate(db, { migrationsFolder: join(import.meta.dirname, 'migrations') });
  await pool.end();
}

if (process.argv[1]?.endsWith('migrate.ts')) await migrateDatabase(process.env.VELVET_DATABASE ?? '');
