// npm run restore FILE: puts a backup in place of what is in the library. What was there is backed up first.
import { existsSync, mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { backup, DATA, environment, fail, openDatabase, restore, runTs, say } from './lib.mjs';

const file = process.argv[2];
if (!file || !existsSync(file)) fail('say which file: npm run restore FILE');
mkdirSync(join(DATA, 'backups'), { recursive: true, mode: 0o700 });
const database = await openDatabase();
const env = environment(DATA, database.url);
try {
  const before = join(DATA, 'backups', `before-restore-${new Date().toISOString().replace(/[:.]/g, '-')}.sql.gz`);
  await backup(env.VELVET_DATABASE, before);
  say(`what was there is kept in ${before}`);
  await restore(env.VELVET_DATABASE, file);
  // a backup of an older version is brought up to this one
  runTs('web/server/db/migrate.ts', [], env);
  say(`restored ${file}`);
} finally {
  await database.stop();
}
