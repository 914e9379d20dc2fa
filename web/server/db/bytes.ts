import type { Pool, PoolConnection } from 'mysql2/promise';
import type { Queries } from './client';

type Executes = Pick<Pool | PoolConnection, 'execute'>;

/**
 * The driver beneath drizzle, of the pool or of the transaction's own connection. Drizzle writes values into the text of a
 * statement, where bytes take two letters each: from 256 MiB on that is more than a string can hold. Prepared, they travel as
 * they are.
 */
const driverOf = (db: Queries): Executes =>
  '$client' in db ? (db.$client as Executes) : (db as unknown as { session: { client: Executes } }).session.client;

/** Keeps bytes of a file on its way in, under its hash; once, however often it comes. */
export async function insertUpload(db: Queries, hash: string, bytes: Uint8Array): Promise<void> {
  await driverOf(db).execute('insert ignore into uploads (hash, bytes) values (?, ?)', [hash, asBuffer(bytes)]);
}

/** Keeps a file that stays, under its hash. */
export async function insertFile(db: Queries, hash: string, mime: string, bytes: Uint8Array): Promise<void> {
  await driverOf(db).execute('insert ignore into files (hash, mime, bytes, size) values (?, ?, ?, ?)', [
    hash,
    mime,
    asBuffer(bytes),
    bytes.length,
  ]);
}

const asBuffer = (bytes: Uint8Array): Buffer => Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);
