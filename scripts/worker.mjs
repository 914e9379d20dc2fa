// npm run worker: one more process for long work, on this machine's database or the one that VELVET_DATABASE names.

import { spawn } from 'node:child_process';
import {
  DATA,
  endOrderly,
  ensureBundles,
  ensurePackages,
  environment,
  openDatabase,
  programArguments,
  ROOT,
  say,
  WORKER,
} from './lib.mjs';
import { applicationUser, openInbox } from './users.mjs';

ensurePackages();
ensureBundles();
const database = await openDatabase();
say('working; Ctrl-C stops after the part in hand');
const env = environment(DATA, database.application());
const user = applicationUser();
openInbox(env.VELVET_INBOX);
const child = spawn(process.execPath, programArguments(WORKER), { cwd: ROOT, env, stdio: 'inherit', ...user });
endOrderly(() => child.kill('SIGTERM'));
child.on('exit', async (code) => {
  await database.stop();
  process.exit(code ?? 1);
});
