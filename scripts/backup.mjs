// npm run backup [-- --try] [FILE]: the whole library as one compressed file; --try restores it beside the library and counts.
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { backup, DATA, environment, openDatabase, say, tryBackup } from './lib.mjs';

mkdirSync(join(DATA, 'backups'), { recursive: true, mode: 0o700 });
const given = process.argv.slice(2).filter((a) => a !== '--try');
const database = await openDatabase();
const env = environment(DATA, database.url);
const file = given[0] ?? join(DATA, 'backups', `velvet-${new Date().toISOString().replace(/[:.]/g, '-')}.sql.gz`);
try {
  const bytes = await backup(env.VELVET_DATABASE, file);
  say(`kept ${(bytes / 1e6).toFixed(1)} MB in ${file}`);
  if (process.argv.includes('--try'))
    say(`restored beside the library: ${await tryBackup(env.VELVET_DATABASE, file)} rows`);
} finally {
  await database.stop();
}
