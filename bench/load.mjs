// npm run bench:load: fifty people browsing and ten editing on loopback, bounded. Needs a build (npm start once makes one).
// Every person is a loop of its own with a pause between requests, as people have; the first seconds are warm-up.

import { createHash, randomBytes } from 'node:crypto';
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { createConnection } from 'mysql2/promise';
import {
  DATA,
  environment,
  freePort,
  removeDatabase,
  runTs,
  startDatabase,
  startWeb,
  startWorker,
  stopChild,
  stopLeftOver,
} from '../scripts/lib.mjs';

const SECONDS = Number(process.env.VELVET_LOAD_S ?? 40);
const ITEMS = Number(process.env.VELVET_LOAD_ITEMS ?? 20_000);
const WEBS = Number(process.env.VELVET_LOAD_WEBS ?? 1);
const folder = join(DATA, 'load');
await stopLeftOver(folder);
mkdirSync(folder, { recursive: true });
removeDatabase(folder);
const database = await startDatabase(folder);
const env = environment(folder, database.url, { VELVET_DEMO: '1', VELVET_INBOX: '' });
runTs('web/server/db/migrate.ts', [], env);
runTs('web/server/demo/load.ts', [], env);
runTs('web/server/demo/large.ts', [String(ITEMS)], env);
const webs = [];
for (let i = 0; i < WEBS; i++) webs.push(await startWeb(env, await freePort(4700 + 10 * i)));
const worker = startWorker(env);

const db = await createConnection({ uri: database.url });
const [people] = await db.query("select id from people where role <> 'viewer'");
const tokens = [];
for (let i = 0; i < 60; i++) {
  const token = `vr_${randomBytes(30).toString('base64url')}`;
  const id = randomBytes(9).toString('base64url');
  await db.query('insert into api_tokens (id, person_id, name, hash, starts) values (?, ?, ?, ?, ?)', [
    id,
    people[i % people.length].id,
    'load',
    createHash('sha256').update(token).digest('hex'),
    token.slice(0, 8),
  ]);
  tokens.push(token);
}
const sleep = (ms) => new Promise((r) => setTimeout(r, ms));
const pick = (list) => list[Math.floor(Math.random() * list.length)];
const WORDS = [
  'rope',
  'walks',
  'haul',
  'lantern',
  'tove',
  'boom',
  'kind:take',
  'tag:wet',
  'loops:yes',
  'kneels',
  'night',
  'tag:rope',
  'length:short',
  'rights:own',
];
const times = { search: [], strips: [], item: [], edit: [] };
const errors = new Map();
const end = Date.now() + SECONDS * 1000 + 5000;
const warm = Date.now() + 5000;

async function ask(kind, token, path, method = 'GET', body) {
  const base = pick(webs).address;
  const start = performance.now();
  const began = Date.now();
  try {
    const answer = await fetch(`${base}/api/v1${path}`, {
      method,
      headers: { authorization: `Bearer ${token}`, ...(body && { 'content-type': 'application/json' }) },
      ...(body && { body: JSON.stringify(body) }),
    });
    const bytes = await answer.arrayBuffer();
    if (!answer.ok) throw new Error(`${answer.status} ${Buffer.from(bytes).toString().slice(0, 80)}`);
    if (began > warm) times[kind].push(performance.now() - start);
    return kind === 'strips' ? undefined : JSON.parse(Buffer.from(bytes).toString());
  } catch (error) {
    errors.set(error.message, (errors.get(error.message) ?? 0) + 1);
    return undefined;
  }
}

async function browse(token) {
  await sleep(3000 * Math.random());
  while (Date.now() < end) {
    const q = [pick(WORDS), Math.random() < 0.6 ? pick(WORDS) : ''].join(' ').trim();
    const list = await ask('search', token, `/items?${new URLSearchParams({ q, facets: '1', limit: '100' })}`);
    const rows = list?.items ?? [];
    if (rows.length > 0) {
      await ask(
        'strips',
        token,
        `/strips?readings=${[...new Set(rows.slice(0, 8).map((r) => r.readingId))].join(',')}`,
      );
      await sleep(600 + 900 * Math.random());
      await ask('item', token, `/items/${pick(rows).id}`);
    }
    await sleep(1200 + 2000 * Math.random());
  }
}

async function edit(token) {
  await sleep(3000 * Math.random());
  while (Date.now() < end) {
    const list = await ask('search', token, `/items?${new URLSearchParams({ q: pick(WORDS), limit: '50' })}`);
    const row = list && pick(list.items);
    if (row)
      await ask('edit', token, `/items/${row.id}`, 'PATCH', {
        change: { note: `noted ${Math.random()}`, rating: Math.floor(6 * Math.random()) },
      });
    await sleep(1500 + 2000 * Math.random());
  }
}

await Promise.all([...tokens.slice(0, 50).map(browse), ...tokens.slice(50).map(edit)]);
const quantile = (list, q) => [...list].sort((a, b) => a - b)[Math.floor(q * (list.length - 1))] ?? Number.NaN;
console.log(`50 people browsing, 10 editing, ${ITEMS} items, ${WEBS} web process${WEBS > 1 ? 'es' : ''}, ${SECONDS} s`);
for (const [kind, list] of Object.entries(times))
  console.log(
    `| ${kind.padEnd(8)} | ${String(list.length).padStart(6)} | p50 ${quantile(list, 0.5).toFixed(0).padStart(5)} ms | p95 ${quantile(list, 0.95).toFixed(0).padStart(5)} ms |`,
  );
const all = Object.values(times).flat();
console.log(
  `| all      | ${String(all.length).padStart(6)} | p50 ${quantile(all, 0.5).toFixed(0).padStart(5)} ms | p95 ${quantile(all, 0.95).toFixed(0).padStart(5)} ms |`,
);
console.log(`errors: ${[...errors].map(([k, n]) => `${n} × ${k}`).join('; ') || 'none'}`);
await db.end();
await Promise.all([...webs.map((w) => stopChild(w.child)), worker.stop()]);
await database.stop();
