// npm run worker: one more process for long work, on this machine's database or the one that VELVET_DATABASE names.

import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { DATA, endOrderly, ensurePackages, environment, openDatabase, ROOT, say } from './lib.mjs';

ensurePackages();
const database = await openDatabase();
say('working; Ctrl-C stops after the part in hand');
const child = spawn(process.execPath, ['--import', 'tsx', join(ROOT, 'web/server/jobs/main.ts')], {
  cwd: ROOT,
  env: environment(DATA, database.url),
  stdio: 'inherit',
});
endOrderly(() => child.kill('SIGTERM'));
child.on('exit', async (code) => {
  await database.stop();
  process.exit(code ?? 1);
});
