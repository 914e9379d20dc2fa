// npm run bench:hostile: what one who means harm can do to everybody else, on loopback and bounded. A viewer asks for exports and
// gives them up; an animator sends files made to burst, and opens imports that never come. Meanwhile a colleague works.
import { readFileSync } from 'node:fs';
import { strToU8, zipSync } from 'fflate';
import { createConnection } from 'mysql2/promise';
import { freshLibrary } from '../scripts/fresh-library.mjs';
import { ensureBuild, freePort, startWeb, startWorker, stopChild } from '../scripts/lib.mjs';

const QUIET_S = 15;
const HOSTILE_S = Number(process.env.VELVET_HOSTILE_S ?? 45);
const { database, env } = await freshLibrary('hostile', { demo: true });
ensureBuild(env);
const web = await startWeb(env, await freePort(4800));
const worker = startWorker(env);
const sleep = (ms) => new Promise((r) => setTimeout(r, ms));

/** Requests that are not answered yet. */
const open = new Map();
function underWay(what, answer) {
  const key = Symbol(what);
  open.set(key, [what, Date.now()]);
  const done = () => open.delete(key);
  answer.then(done, done);
  return answer;
}

/** Comes in as one of the demo world's people, and asks in their name. */
async function person(email) {
  const headers = { 'content-type': 'application/json', origin: web.address };
  const signed = await fetch(`${web.address}/api/session`, {
    method: 'POST',
    headers,
    body: JSON.stringify({ demo: email }),
  });
  const cookie = signed.headers
    .getSetCookie()
    .map((c) => c.split(';')[0])
    .join('; ');
  return (method, path, body, signal) =>
    underWay(
      `${email.slice(0, 4)} ${method} ${path.slice(0, 40)}`,
      fetch(`${web.address}/api/v1${path}`, {
        method,
        headers: {
          cookie,
          origin: web.address,
          ...(typeof body === 'string' && { 'content-type': 'application/json' }),
        },
        ...(body !== undefined && { body }),
        ...(signal && { signal }),
      }),
    );
}
const [viewer, animator, colleague] = await Promise.all(
  ['teo', 'noor', 'bram'].map((who) => person(`${who}@saltmarsh.example`)),
);
const { items } = await (await colleague('GET', '/items?limit=60')).json();
const long = [...items].filter((i) => i.kind !== 'pack').sort((a, b) => b.facts.durationS - a.facts.durationS);
const cast = await (await colleague('GET', '/cast')).json();

/** Every process of the application, and how much memory it has taken at most. */
const peaks = new Map();
function watch() {
  const visit = (pid, name) => {
    try {
      const rss = Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0) / 1024;
      peaks.set(name, Math.max(peaks.get(name) ?? 0, rss));
      for (const child of readFileSync(`/proc/${pid}/task/${pid}/children`, 'utf8').split(' ').filter(Boolean))
        visit(child, `${name} child`);
    } catch {
      // it has ended
    }
  };
  visit(web.child.pid, 'web');
  visit(worker.pid(), 'worker');
}
const watching = setInterval(watch, 500);

const times = { quiet: {}, hostile: {} };
const faults = new Map();
async function work(phase, until) {
  const asked = async (kind, method, path, body) => {
    const began = performance.now();
    const answer = await colleague(method, path, body);
    await answer.arrayBuffer();
    if (!answer.ok) faults.set(`${kind} ${answer.status}`, (faults.get(`${kind} ${answer.status}`) ?? 0) + 1);
    times[phase][kind] ??= [];
    times[phase][kind].push(performance.now() - began);
  };
  for (let i = 0; Date.now() < until; i++) {
    const item = items[i % items.length];
    await asked('search', 'GET', '/items?q=rope&facets=1');
    await asked('edit', 'PATCH', `/items/${item.id}`, JSON.stringify({ change: { note: `note ${i}` } }));
    await asked('export', 'GET', `/items/${long.at(-1).id}/export?format=bvh&onto=${cast[0].id}`);
    await sleep(150);
  }
}

const hostile = new Map();
const told = (what, answer) => hostile.set(`${what} ${answer}`, (hostile.get(`${what} ${answer}`) ?? 0) + 1);
async function givenUp(until) {
  while (Date.now() < until) {
    const stop = new AbortController();
    setTimeout(() => stop.abort(), 600);
    const path = `/items/${long[0].id}/export?format=csv&fps=1000&onto=${cast[1].id}`;
    try {
      const answer = await viewer('GET', path, undefined, stop.signal);
      await answer.arrayBuffer();
      told('export', answer.status);
    } catch {
      told('export', 'given up');
    }
  }
}
const nodes = JSON.stringify({ asset: { version: '2.0' }, nodes: Array.from({ length: 300_000 }, () => ({})) });
const inner = zipSync({ 'a.bvh': new Uint8Array(40 * 2 ** 20) }, { level: 9 });
const BOMBS = {
  'nodes.gltf': strToU8(nodes),
  'frames.bvh': strToU8(
    'HIERARCHY\nROOT a\n{\nOFFSET 0 0 0\nCHANNELS 3 Xrotation Yrotation Zrotation\nEnd Site\n{\nOFFSET 0 1 0\n}\n}\nMOTION\nFrames: 1000000000\nFrame Time: 0.01\n0 0 0\n',
  ),
  'deep.bvh': strToU8(`HIERARCHY\n${'JOINT a\n{\nOFFSET 0 0 0\n'.repeat(60_000)}`),
};
async function bombs(until) {
  const entries = Object.entries(BOMBS);
  for (let i = 0; Date.now() < until; i++) {
    const [name, bytes] = entries[i % entries.length];
    const form = new FormData();
    form.set('file', new File([bytes], name));
    const answer = await animator('POST', '/intake', form);
    told(name, (await answer.json()).state ?? answer.status);
  }
}
async function archives(until) {
  const nested = zipSync({ 'x/inner.zip': inner, 'b.zip': inner });
  for (let i = 0; Date.now() < until; i++) {
    const name = i % 2 === 0 ? 'nested.zip' : 'never.bvh';
    const files = [{ name, bytes: nested.length }];
    const opened = await animator('POST', '/jobs/intake', JSON.stringify({ title: name, files }));
    const { id } = await opened.json();
    if (!id) told('import', opened.status);
    else if (name === 'nested.zip') {
      const form = new FormData();
      form.set('file', new File([nested], name));
      told('archive', (await animator('PUT', `/jobs/${id}/files/0`, form)).status);
    } else told('import', 'left open');
    await sleep(50);
  }
}

await work('quiet', Date.now() + QUIET_S * 1000);
const until = Date.now() + HOSTILE_S * 1000;
const progress = setInterval(
  () =>
    console.log(
      `${Math.round((until - Date.now()) / 1000)} s to go; ${[...open.values()].map(([what, at]) => `${what} ${((Date.now() - at) / 1000).toFixed(0)} s`).join(', ')}`,
    ),
  15_000,
);
await Promise.all([
  work('hostile', until),
  ...Array.from({ length: 8 }, () => givenUp(until)),
  ...Array.from({ length: 2 }, () => bombs(until)),
  archives(until),
]);
clearInterval(watching);
clearInterval(progress);
const db = await createConnection({ uri: database.url });
const [[left]] = await db.query("select count(*) as n from items where note like 'note %'");
const p95 = (list) => [...list].sort((a, b) => a - b)[Math.floor(0.95 * (list.length - 1))];
console.log(`a colleague’s p95, ${QUIET_S} s undisturbed and ${HOSTILE_S} s under fire`);
for (const kind of Object.keys(times.quiet)) {
  const [a, b] = [p95(times.quiet[kind]), p95(times.hostile[kind] ?? [])];
  console.log(
    `| ${kind.padEnd(7)} | ${a.toFixed(0).padStart(6)} ms | ${b.toFixed(0).padStart(6)} ms | ${(b / a).toFixed(1)} × |`,
  );
}
console.log(
  `edits kept: ${left.n} items; faults of the colleague: ${[...faults].map((f) => f.join(' × ')).join(', ') || 'none'}`,
);
console.log(`memory at most: ${[...peaks].map(([name, mib]) => `${name} ${mib.toFixed(0)} MiB`).join(', ')}`);
console.log(`what came of it: ${[...hostile].map((f) => f.join(' × ')).join(', ')}`);
await db.end();
await Promise.all([stopChild(web.child), worker.stop()]);
await database.stop();
process.exit(0);
