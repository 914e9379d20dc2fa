// npm start: everything from a bare checkout to a served application. npm run dev: the same with live reloading.
import { mkdirSync } from 'node:fs';
import {
  checkNode,
  DATA,
  ensureBuild,
  ensurePackages,
  environment,
  freePort,
  runTs,
  say,
  setupCode,
  startDatabase,
  startWeb,
  startWorker,
  stopChild,
} from './lib.mjs';

const dev = process.argv.includes('--dev');
checkNode();
ensurePackages();
mkdirSync(DATA, { recursive: true });
const database = await startDatabase(DATA);
const env = environment(DATA, database.url);
runTs('web/server/db/migrate.ts', [], env);
runTs('web/server/demo/load.ts', [], env);
if (!dev) ensureBuild(env);
const port = await freePort(Number(process.env.PORT) || 3000);
const { child, address } = await startWeb(env, port, dev);
const worker = startWorker(env);
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
  process.exit(code);
}
process.on('SIGINT', () => stop(0));
process.on('SIGTERM', () => stop(0));
child.on('exit', (code) => stop(code ?? 1));
