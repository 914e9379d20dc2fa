// Buys and fetches takes of a supplier of whose answers a fifth are broken, and kills the supplier, a worker and the web
// process while it goes on; then counts: nothing is there twice, nothing is lost, and the credits add up.
import assert from 'node:assert/strict';
import { spawn } from 'node:child_process';
import { readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { after, test } from 'node:test';
import { cleanFolder } from '../scripts/fresh-library.mjs';
import {
  environment,
  freePort,
  ROOT,
  runTs,
  setupCode,
  startDatabase,
  startWeb,
  startWorker,
  stopChild,
} from '../scripts/lib.mjs';
import { askerOf } from './ask.mjs';

const TAKES = Number(process.env.VELVET_TAKES ?? 10);
const CREDITS = 100_000;
const KEY = 'key-of-the-faults';
const folder = await cleanFolder('faults-supplier');
const ledger = join(folder, 'ledger.json');
const sleep = (ms) => new Promise((r) => setTimeout(r, ms));

rmSync(ledger, { force: true });
const database = await startDatabase(folder, await freePort(0));
const port = await freePort(4731);
const env = environment(folder, database.url, {
  VELVET_DEMO: '0',
  VELVET_INBOX: '',
  VELVET_SUPPLIER: `http://127.0.0.1:${port}`,
});
runTs('web/server/db/migrate.ts', [], env);
const webPort = await freePort(4620);
let web = await startWeb(env, webPort);
const workers = [startWorker(env), startWorker(env)];
const openSupplier = () =>
  spawn(
    process.execPath,
    ['cli/velvet-reel.mjs', 'supplier', '--port', port, '--key', KEY, '--takes', TAKES, '--credits', CREDITS].concat([
      '--faults',
      20,
      '--slow',
      200,
      '--data',
      ledger,
    ]),
    { cwd: ROOT, stdio: 'ignore' },
  );
let supplier = openSupplier();
after(async () => {
  supplier.kill('SIGKILL');
  await Promise.all([stopChild(web.child), ...workers.map((w) => w.stop())]);
  await database.stop();
});

const ask = askerOf(`http://127.0.0.1:${webPort}`, 60_000);

test(`${TAKES} takes, a fifth of all answers broken, everything killed once or twice`, {
  timeout: 1_800_000,
}, async () => {
  await ask('POST', '/api/session', {
    first: { name: 'Ilse', email: 'ilse@ferry.example', password: 'the tide is high', code: setupCode(env) },
  });
  assert.equal((await ask('PUT', '/api/v1/supplier/link', { key: KEY })).status, 200);
  const takes = [];
  for (let page = 1, pages = 1; page <= pages; page++) {
    const { body } = await ask('GET', `/api/v1/supplier/takes?page=${page}`);
    pages = body.pages;
    takes.push(...body.takes);
  }
  assert.equal(takes.length, TAKES);
  const price = takes.reduce((a, t) => a + t.price, 0);
  const job = await ask('POST', '/api/v1/supplier/fetch', { takes: takes.map((t) => t.id), price });
  assert.equal(job.status, 200, JSON.stringify(job.body));
  const counts = async () => (await ask('GET', `/api/v1/jobs/${job.body.id}`)).body.counts;
  const doneAtLeast = async (n) => {
    for (;;) {
      const c = await counts();
      if (c.done + c.refused >= n) return;
      await sleep(200);
    }
  };
  for (const share of [0.25, 0.6]) {
    await doneAtLeast(Math.floor(share * TAKES));
    supplier.kill('SIGKILL');
    try {
      process.kill(workers[0].pid(), 'SIGKILL');
    } catch {
      // just being started again
    }
    await sleep(800);
    supplier = openSupplier();
  }
  web.child.kill('SIGKILL');
  web = await startWeb(env, webPort);
  // what the supplier was away for too long for is tried again, as a person would
  for (let again = 0; again < 20; again++) {
    await doneAtLeast(TAKES);
    if ((await counts()).refused === 0) break;
    await ask('POST', `/api/v1/jobs/${job.body.id}/retry`);
  }
  assert.deepEqual(
    Object.entries(await counts()).filter(([, n]) => n > 0),
    [['done', TAKES]],
  );
  const found = await ask('GET', '/api/v1/items?limit=500');
  const names = found.body.items.map((i) => i.name);
  assert.equal(names.length, TAKES);
  assert.equal(new Set(names).size, TAKES);
  const paid = JSON.parse(readFileSync(ledger, 'utf8'));
  assert.equal(paid.charges.length, TAKES);
  assert.equal(paid.credits, CREDITS - price);
  assert.equal(new Set(paid.owned).size, TAKES);
});
