// npm run bench:load: fifty people browsing and ten editing on loopback, bounded. Needs a build (npm start once makes one).
// The first seconds are warm-up.
import { createConnection } from 'mysql2/promise';
import { freshLibrary } from '../scripts/fresh-library.mjs';
import { freePort, runTs, startWeb, startWorker, stopChild } from '../scripts/lib.mjs';
import { browse, edit, makeTokens, pick, quantile } from './crowd.mjs';

const SECONDS = Number(process.env.VELVET_LOAD_S ?? 40);
const ITEMS = Number(process.env.VELVET_LOAD_ITEMS ?? 20_000);
const WEBS = Number(process.env.VELVET_LOAD_WEBS ?? 1);
const { database, env } = await freshLibrary('load', { demo: true });
runTs('web/server/demo/large.ts', [String(ITEMS)], env);
const webs = [];
for (let i = 0; i < WEBS; i++) webs.push(await startWeb(env, await freePort(4700 + 10 * i)));
const worker = startWorker(env);

const db = await createConnection({ uri: database.url });
const tokens = await makeTokens(db, 60);
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

const as = (token) => (kind, path, method, body) => ask(kind, token, path, method, body);
await Promise.all([
  ...tokens.slice(0, 50).map((t) => browse(as(t), end)),
  ...tokens.slice(50).map((t) => edit(as(t), end)),
]);
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
