// npm run bench:hostile: what one who means harm can do to everybody else, on loopback and bounded. A viewer asks for exports and
// gives them up; an animator sends files made to burst, and opens imports that never come. Meanwhile a colleague works. What it
// is compared with is measured before and after, since other guests of a machine come and go.
import { spawn } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { createConnection } from 'mysql2/promise';
import { freshLibrary } from '../scripts/fresh-library.mjs';
import { ensureBuild, freePort, startWeb, startWorker, stopChild } from '../scripts/lib.mjs';
import { signInAs } from './crowd.mjs';

/** Before it is measured, once for code that is still cold; then before the attack and, when it has ebbed away, after it. */
const WARM_S = 15;
const EBB_S = 10;
const QUIET_S = 30;
const HOSTILE_S = Number(process.env.VELVET_HOSTILE_S ?? 45);
const { database, env } = await freshLibrary('hostile', { demo: true });
ensureBuild(env);
const web = await startWeb(env, await freePort(4800));
const worker = startWorker(env);
const sleep = (ms) => new Promise((r) => setTimeout(r, ms));

const colleague = await signInAs(web.address, 'bram');
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

const times = { warm: {}, quiet: {}, hostile: {} };
/** Hundredths of a second that the processors had, and those of them that the host gave to others. */
const processors = () => {
  const counts = /^cpu +(.+)$/m.exec(readFileSync('/proc/stat', 'utf8'))[1].split(' ').map(Number);
  return { all: counts.slice(0, 8).reduce((a, b) => a + b), stolen: counts[7] };
};
const had = { warm: [], quiet: [], hostile: [] };
const faults = new Map();
async function work(phase, until) {
  const before = processors();
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
  const after = processors();
  had[phase].push({ all: after.all - before.all, stolen: after.stolen - before.stolen });
}

await work('warm', Date.now() + WARM_S * 1000);
await work('quiet', Date.now() + QUIET_S * 1000);
const until = Date.now() + HOSTILE_S * 1000;
const attack = spawn(process.execPath, ['bench/attack.mjs', web.address, String(until), long[0].id, cast[1].id], {
  stdio: ['ignore', 'pipe', 'inherit'],
});
let came = '';
attack.stdout.on('data', (text) => {
  came += text;
});
const [, code] = await Promise.all([work('hostile', until), new Promise((ended) => attack.once('exit', ended))]);
if (code !== 0) throw new Error('The attackers gave up: what was measured is no hostile load.');
clearInterval(watching);
await sleep(EBB_S * 1000);
await work('quiet', Date.now() + QUIET_S * 1000);
const db = await createConnection({ uri: database.url });
const [[left]] = await db.query("select count(*) as n from items where note like 'note %'");
const p95 = (list) => [...list].sort((a, b) => a - b)[Math.floor(0.95 * (list.length - 1))];
console.log(`a colleague’s p95, twice ${QUIET_S} s undisturbed and ${HOSTILE_S} s under fire`);
for (const kind of Object.keys(times.quiet)) {
  const [a, b] = [p95(times.quiet[kind]), p95(times.hostile[kind] ?? [])];
  console.log(
    `| ${kind.padEnd(7)} | ${a.toFixed(0).padStart(6)} ms | ${b.toFixed(0).padStart(6)} ms | ${(b / a).toFixed(1)} × |`,
  );
}
console.log(
  `edits kept: ${left.n} items; faults of the colleague: ${[...faults].map((f) => f.join(' × ')).join(', ') || 'none'}`,
);
const sum = (list, of) => list.reduce((a, x) => a + x[of], 0);
const share = (phase) => `${((100 * sum(had[phase], 'stolen')) / sum(had[phase], 'all')).toFixed(0)} %`;
console.log(`given to other guests of the host: ${share('quiet')} undisturbed, ${share('hostile')} under fire`);
console.log(`memory at most: ${[...peaks].map(([name, mib]) => `${name} ${mib.toFixed(0)} MiB`).join(', ')}`);
console.log(`what came of it: ${came.trim()}`);
await db.end();
await Promise.all([stopChild(web.child), worker.stop()]);
await database.stop();
process.exit(0);
