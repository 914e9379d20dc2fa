import { readFileSync } from 'node:fs';

export interface Encrypted {
  ssl?: { ca: string; minVersion: 'TLSv1.2'; verifyIdentity: true };
}

/**
 * What a connection to the database needs where VELVET_DATABASE_CA names a file of certificates: TLS, with a server that one
 * of them answers for and whose name is the one that was asked for. Nothing where it is left out: a database of this machine.
 * @throws Error where the file cannot be read
 */
export function encrypted(): Encrypted {
  const file = process.env.VELVET_DATABASE_CA?.trim();
  return file ? { ssl: { ca: readFileSync(file, 'utf8'), minVersion: 'TLSv1.2', verifyIdentity: true } } : {};
}
