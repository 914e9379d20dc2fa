// npm run migrate: brings the database to this release. What was there is backed up first.
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { backup, DATA, ensurePackages, environment, openDatabase, readTs, runTs, say } from './lib.mjs';

ensurePackages();
mkdirSync(join(DATA, 'backups'), { recursive: true, mode: 0o700 });
const database = await openDatabase();
const env = environment(DATA, database.url);
try {
  const open = Number(readTs('web/server/db/pending.ts', env));
  if (open === 0) say('the database is of this release already');
  else {
    const file = join(DATA, 'backups', `before-migration-${new Date().toISOString().replace(/[:.]/g, '-')}.sql.gz`);
    await backup(env.VELVET_DATABASE, file);
    say(`what was there is kept in ${file}`);
    runTs('web/server/db/migrate.ts', [], env);
    say(`${open} migrations applied`);
  }
} finally {
  await database.stop();
}
