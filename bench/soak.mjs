// npm run bench:soak: half an hour with fifty people, two web processes and two workers, of each of which one is killed every
// minute. In the end everything acknowledged has to be there, no job may be left over, and memory may not have grown.
// VELVET_MINUTES: for how long.
import { readFileSync } from 'node:fs';
import { createConnection } from 'mysql2/promise';
import { take } from '../faults/take.mjs';
import { freshLibrary } from '../scripts/fresh-library.mjs';
import { ensureBuild, freePort, runTs, startWeb, startWorker, stopChild } from '../scripts/lib.mjs';
import { browse, edit, makeTokens, pick, quantile, sleep } from './crowd.mjs';

const MINUTES = Number(process.env.VELVET_MINUTES ?? 30);
const EDITORS = 10;
const BROWSERS = 40;
const { database, env } = await freshLibrary('soak', { demo: true });
runTs('web/server/demo/large.ts', ['5000'], env);
ensureBuild(env);
const own = { ...env, VELVET_DATABASE: database.application() };
const ports = [await freePort(4700), await freePort(4720)];
const webs = await Promise.all(ports.map((port) => startWeb(own, port)));
const workers = [startWorker(own), startWorker(own)];
const db = await createConnection({ uri: database.url });
const tokens = await makeTokens(db, BROWSERS + EDITORS + 1);
const end = Date.now() + MINUTES * 60_000;

const times = [];
/** Answers that were no answer, by what was said. */
const told = new Map();
/** Requests that went again because the process that had them was gone. */
let again = 0;

/** Asks one web process, and the other where that one is gone, as whatever shares requests out does. */
async function ask(token, path, method = 'GET', body) {
  const began = performance.now();
  const first = Math.floor(2 * Math.random());
  for (let attempt = 0; attempt < 60; attempt++) {
    try {
      const answer = await fetch(`http://127.0.0.1:${ports[(first + attempt) % 2]}/api/v1${path}`, {
        method,
        headers: {
          authorization: `Bearer ${token}`,
          ...(body && !(body instanceof FormData) && { 'content-type': 'application/json' }),
        },
        ...(body && { body: body instanceof FormData ? body : JSON.stringify(body) }),
        signal: AbortSignal.timeout(60_000),
      });
      const text = await answer.text();
      if (answer.ok) {
        times.push(performance.now() - began);
        return text.startsWith('{') || text.startsWith('[') ? JSON.parse(text) : text;
      }
      const said = `${method} ${path.split('?')[0].replace(/\/[\w-]{12}(?=\/|$)/g, '/…')} ${answer.status} ${text.slice(0, 90)}`;
      told.set(said, (told.get(said) ?? 0) + 1);
      return undefined;
    } catch {
      again++;
      await sleep(150);
    }
  }
  throw new Error(`Nobody answered ${method} ${path} any more.`);
}

/** Every editor describes items of their own: what was acknowledged last is what has to be there. */
const notes = new Map();
const editing = (token, i) =>
  edit((_, path, method, body) => ask(token, path, method, body), end, {
    choose: (items) =>
      pick(items.filter((item) => [...item.id].reduce((n, c) => n + c.charCodeAt(0), 0) % EDITORS === i)),
    told: (id, note) => notes.set(id, note),
  });

/** Somebody who brings a file in every ten seconds. */
const brought = [];
async function bringing(token) {
  for (let i = 0; Date.now() < end - 30_000; i++) {
    const bytes = new TextEncoder().encode(take(i));
    const name = `Soak ${i}.bvh`;
    const opened = await ask(token, '/jobs/intake', 'POST', { title: name, files: [{ name, bytes: bytes.length }] });
    if (opened) {
      const form = new FormData();
      form.set('file', new File([bytes], name));
      if (await ask(token, `/jobs/${opened.id}/files/0`, 'PUT', form)) brought.push(opened.id);
    }
    await sleep(10_000);
  }
}

const memory = [];
function measure() {
  const rss = (pid) => {
    try {
      return Math.round(Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))[1]) / 1024);
    } catch {
      return 0;
    }
  };
  memory.push([...webs.map((w) => rss(w.child.pid)), ...workers.map((w) => rss(w.pid())), rss(database.pid)]);
}

let kills = 0;
async function killing() {
  for (let minute = 0; Date.now() < end - 60_000; minute++) {
    await sleep(60_000);
    measure();
    console.log(
      `minute ${minute + 1}: ${times.length} answers, ${again} asked again, ${brought.length} files; MiB ${memory.at(-1).join(' ')}`,
    );
    const i = minute % 2;
    webs[i].child.kill('SIGKILL');
    process.kill(workers[i].pid(), 'SIGKILL');
    kills += 2;
    webs[i] = await startWeb(own, ports[i]);
  }
}

await Promise.all([
  ...tokens.slice(0, BROWSERS).map((t) => browse((_, path, method, body) => ask(t, path, method, body), end)),
  ...tokens.slice(BROWSERS, -1).map(editing),
  bringing(tokens.at(-1)),
  killing(),
]);
for (let i = 0; i < 120; i++) {
  const [[left]] = await db.query("select count(*) as n from jobs where state in ('collecting', 'queued')");
  if (left.n === 0) break;
  await sleep(1000);
}
measure();
let lost = 0;
for (const [id, note] of notes) {
  const [[row]] = await db.query('select note from items where id = ?', [id]);
  if (row?.note !== note) lost++;
}
const [states] = await db.query('select state, count(*) as n from jobs group by state');
const [[files]] = await db.query(
  "select count(*) as n, count(distinct name) as names from items where name like 'Soak %'",
);
console.log(
  `${MINUTES} minutes, ${BROWSERS + EDITORS} people, ${kills} kills: ${times.length} answers, p50 ${quantile(times, 0.5).toFixed(0)} ms, p95 ${quantile(times, 0.95).toFixed(0)} ms; ${again} asked again`,
);
console.log(`errors told: ${[...told].map(([what, n]) => `${n} × ${what}`).join('; ') || 'none'}`);
console.log(`notes acknowledged: ${notes.size} items, ${lost} of them lost`);
console.log(
  `files acknowledged: ${brought.length}, items of them ${files.n}, names ${files.names}; jobs: ${states.map((s) => `${s.n} ${s.state}`).join(', ')}`,
);
console.log(
  `memory, MiB (web, web, worker, worker, database): first ${memory[0]?.join(' ')}, last ${memory.at(-1).join(' ')}`,
);
await db.end();
await Promise.all([...webs.map((w) => stopChild(w.child)), ...workers.map((w) => w.stop())]);
await database.stop();
process.exit(lost > 0 || files.names < brought.length ? 1 : 0);
