// npm run reset: stops this checkout's database and removes everything it kept. The next start begins anew.
import { existsSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { DATA, say } from './lib.mjs';

const state = join(DATA, 'database.json');
if (existsSync(state)) {
  try {
    const { pid } = JSON.parse(readFileSync(state, 'utf8'));
    if (/maria|mysql/.test(readFileSync(`/proc/${pid}/cmdline`, 'utf8'))) process.kill(pid, 'SIGTERM');
    await new Promise((r) => setTimeout(r, 2000));
  } catch {
    // not running
  }
}
rmSync(DATA, { recursive: true, force: true });
say('the data folder is gone; npm start begins anew');
