// npm run worker: one more process for long work, on this machine's database or the one that VELVET_DATABASE names.

import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { DATA, endOrderly, ensurePackages, environment, ROOT, say, startDatabase } from './lib.mjs';

ensurePackages();
const given = process.env.VELVET_DATABASE;
const database = given ? { url: given, stop: async () => {} } : await startDatabase(DATA);
say('working; Ctrl-C stops after the part in hand');
const child = spawn(process.execPath, ['--import', 'tsx', join(ROOT, 'web/server/jobs/main.ts')], {
  cwd: ROOT,
  env: given ? { ...process.env, VELVET_ROOT: ROOT } : environment(DATA, database.url),
  stdio: 'inherit',
});
endOrderly(() => child.kill('SIGTERM'));
child.on('exit', async (code) => {
  await database.stop();
  process.exit(code ?? 1);
});
