import { drizzle, type MySql2Database } from 'drizzle-orm/mysql2';
import { createPool, type Pool } from 'mysql2/promise';
import { encrypted } from './encrypted';
import * as schema from './schema';

export type Database = MySql2Database<typeof schema>;
export type Transaction = Parameters<Parameters<Database['transaction']>[0]>[0];
/** What a query needs: the database or a transaction on it. */
export type Queries = Database | Transaction;

/** Opens a pool. The session runs in UTC, as the driver assumes for dates. */
export function openDatabase(url: string, connections = 10): { db: Database; pool: Pool } {
  const pool = createPool({
    uri: url,
    connectionLimit: connections,
    timezone: 'Z',
    charset: 'utf8mb4',
    ...encrypted(),
  });
  return { db: drizzle(pool, { schema, mode: 'default', logger: false }), pool };
}

// one pool a process, kept over the reloads of development
const kept = globalThis as {
  velvetDatabase?: { db: Database; pool: Pool };
};

export function database(): Database {
  const url = process.env.VELVET_DATABASE;
  if (!url) throw new Error('VELVET_DATABASE is not set: start the application with npm start.');
  kept.velvetDatabase ??= openDatabase(url);
  return kept.velvetDatabase.db;
}
