// npm run bench:intake [takes] [MB]: thousands of takes through two workers; how long, and how much memory each takes.

import { spawnSync } from 'node:child_process';
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { createConnection } from 'mysql2/promise';
import { DATA, environment, ROOT, removeDatabase, startDatabase, startWorker, stopLeftOver } from '../scripts/lib.mjs';

const takes = Number(process.argv[2] ?? 2500);
const megabytes = Number(process.argv[3] ?? 2000);
const folder = join(DATA, 'bench-intake');
await stopLeftOver(folder);
mkdirSync(folder, { recursive: true });
removeDatabase(folder);
const database = await startDatabase(folder);
const inbox = join(folder, 'inbox');
rmSync(inbox, { recursive: true, force: true });
const env = environment(folder, database.url, { VELVET_DEMO: '1', VELVET_INBOX: inbox });
const ts = (file, ...args) =>
  spawnSync(process.execPath, ['--import', 'tsx', join(ROOT, file), ...args], { cwd: ROOT, env, stdio: 'inherit' });
ts('web/server/db/migrate.ts');
ts('web/server/demo/load.ts');
console.log(`writing ${takes} takes, ${megabytes} MB`);
ts('bench/make-takes.ts', inbox, String(takes), String(megabytes));
const db = await createConnection({ uri: database.url });
const start = Date.now();
const workers = [startWorker(env), startWorker(env)];
const peak = [0, 0];
for (;;) {
  await new Promise((r) => setTimeout(r, 2000));
  workers.forEach((w, i) => {
    try {
      peak[i] = Math.max(
        peak[i],
        Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${w.pid()}/status`, 'utf8'))?.[1] ?? 0) / 1024,
      );
    } catch {
      // between two lives
    }
  });
  const [rows] = await db.query('select state, count(*) n from job_parts group by state');
  const left = rows
    .filter((r) => ['ready', 'running', 'waiting'].includes(r.state))
    .reduce((s, r) => s + Number(r.n), 0);
  const done = rows.reduce((s, r) => s + Number(r.n), 0) - left;
  if (process.stdout.isTTY) process.stdout.write(`\r${done} done, ${left} to do `);
  if (done > 0 && left === 0) {
    console.log(
      `\n${takes} takes, ${megabytes} MB, two workers: ${((Date.now() - start) / 1000).toFixed(0)} s; ${rows.map((r) => `${r.n} ${r.state}`).join(', ')}; at most ${peak.map((p) => `${p.toFixed(0)} MiB`).join(' and ')}`,
    );
    break;
  }
}
await Promise.all(workers.map((w) => w.stop()));
await db.end();
rmSync(inbox, { recursive: true, force: true });
writeFileSync(join(folder, 'done'), '');
await database.stop();
