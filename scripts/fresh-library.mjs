// A library of its own for whatever tries or measures something: an empty database of this release in a folder below .data.
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { DATA, environment, removeDatabase, runTs, startDatabase, stopLeftOver } from './lib.mjs';

/** Empties a folder of what a database left in it. @returns the folder */
export async function cleanFolder(...names) {
  const folder = join(DATA, ...names);
  await stopLeftOver(folder);
  mkdirSync(folder, { recursive: true });
  removeDatabase(folder);
  return folder;
}

/**
 * @param demo whether the demo world is in it
 * @returns the database, and the environment for whoever works on it
 */
export async function freshLibrary(name, { demo = false } = {}) {
  const folder = await cleanFolder(name);
  const database = await startDatabase(folder);
  const env = environment(folder, database.url, { VELVET_DEMO: demo ? '1' : '0', VELVET_INBOX: '' });
  runTs('web/server/db/migrate.ts', [], env);
  runTs('web/server/demo/load.ts', [], env);
  return { database, env };
}
