// npm start: everything from a bare checkout to a served application. npm run dev: the same with live reloading.
import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import {
  backup,
  checkNode,
  DATA,
  endOrderly,
  ensureBuild,
  ensurePackages,
  environment,
  freePort,
  openDatabase,
  readTs,
  refuseRunning,
  runTs,
  say,
  setupCode,
  startWeb,
  startWorker,
  stopChild,
  takePort,
} from './lib.mjs';

const dev = process.argv.includes('--dev');
checkNode();
ensurePackages();
mkdirSync(DATA, { recursive: true });
// two in one checkout would share one database, and the first to end would take it from the other
refuseRunning();
writeFileSync(join(DATA, 'start.json'), JSON.stringify({ pid: process.pid }));
const database = await openDatabase({ watch: true });
const env = environment(DATA, database.url);
const pending = Number(readTs('web/server/db/pending.ts', env));
if (pending > 0) {
  const file = join(DATA, 'backups', `before-migration-${new Date().toISOString().replace(/[:.]/g, '-')}.sql.gz`);
  mkdirSync(join(DATA, 'backups'), { recursive: true, mode: 0o700 });
  await backup(env.VELVET_DATABASE, file);
  say(`the library is brought to this release; what was there is kept in ${file}`);
}
runTs('web/server/db/migrate.ts', [], env);
runTs('web/server/demo/load.ts', [], env);
env.VELVET_DATABASE = database.application();
if (!dev) ensureBuild(env);
const port = process.env.PORT ? await takePort(Number(process.env.PORT)) : await freePort(3000);
const { child, address } = await startWeb(env, port, dev);
const worker = startWorker(env);
writeFileSync(join(DATA, 'start.json'), JSON.stringify({ pid: process.pid, port }));
say(`open ${address}`);
const { first } = await (await fetch(`${address}/api/session`)).json();
if (first) say(`the first account is made with the set-up code ${setupCode(env)}`);
say('Ctrl-C stops it; the data stays in .data');

let stopping = false;
async function stop(code) {
  if (stopping) return;
  stopping = true;
  await Promise.all([stopChild(child), worker.stop()]);
  await database.stop();
  rmSync(join(DATA, 'start.json'), { force: true });
  process.exit(code);
}
endOrderly(() => stop(0));
child.on('exit', (code) => stop(code ?? 1));
