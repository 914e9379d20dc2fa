// npm run backup [FILE]: the whole library as one compressed file.
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { backup, DATA, environment, say, startDatabase } from './lib.mjs';

mkdirSync(join(DATA, 'backups'), { recursive: true });
const given = process.env.VELVET_DATABASE;
const database = given ? { url: given, stop: async () => {} } : await startDatabase(DATA);
const env = environment(DATA, database.url);
const file =
  process.argv[2] ?? join(DATA, 'backups', `velvet-${new Date().toISOString().replace(/[:.]/g, '-')}.sql.gz`);
try {
  const bytes = await backup(env.VELVET_DATABASE, file);
  say(`kept ${(bytes / 1e6).toFixed(1)} MB in ${file}`);
} finally {
  await database.stop();
}
