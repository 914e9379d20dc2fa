// npm run bench:library [sizes]: the library at scale, on a database of its own.

import { spawnSync } from 'node:child_process';
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { DATA, environment, ROOT, startDatabase } from '../scripts/lib.mjs';

const folder = join(DATA, 'bench');
mkdirSync(folder, { recursive: true });
const database = await startDatabase(folder);
const env = environment(folder, database.url, { VELVET_DEMO: '0' });
const done = spawnSync(
  process.execPath,
  ['--import', 'tsx', join(ROOT, 'bench/library.ts'), ...process.argv.slice(2)],
  { cwd: ROOT, env, stdio: 'inherit' },
);
await database.stop();
process.exit(done.status ?? 1);
