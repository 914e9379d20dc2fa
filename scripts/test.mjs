// npm test: everything there is to check, from a bare checkout. `npm test -- unit` or `-- browser` does one part.
import { spawnSync } from 'node:child_process';
import { mkdirSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import {
  checkNode,
  DATA,
  ensureBuild,
  ensurePackages,
  ensureProgram,
  environment,
  freePort,
  ROOT,
  removeDatabase,
  runTs,
  say,
  setupCode,
  startDatabase,
  startWeb,
  startWorker,
  stopChild,
  stopLeftOver,
} from './lib.mjs';

const only = process.argv[2];
checkNode();
ensurePackages();
const results = [];
const bin = (name) => join(ROOT, 'node_modules', '.bin', name);

function step(name, command, args, env = process.env) {
  say(name);
  const start = Date.now();
  const done = spawnSync(command, args, { cwd: ROOT, env, stdio: 'inherit' });
  results.push({ name, ok: done.status === 0, seconds: Math.round((Date.now() - start) / 1000) });
}

const folder = join(DATA, 'test');
await stopLeftOver(folder);
mkdirSync(folder, { recursive: true });
removeDatabase(folder);
mkdirSync(join(ROOT, 'test-results'), { recursive: true });
const counts = { passed: 0, failed: 0, skipped: 0 };

if (only === undefined) {
  step('types of the core', bin('tsc'), ['-p', 'motion']);
  step('types of the rest', bin('tsc'), ['-p', '.']);
  step('lint and layers', bin('biome'), ['ci', '.', '--max-diagnostics=20', '--diagnostic-level=warn']);
  step('drawing of the layers', process.execPath, [join(ROOT, 'scripts/layers.mjs'), '--check']);
  step('licences', process.execPath, [join(ROOT, 'scripts/licences.mjs'), '--check']);
}

const database = await startDatabase(folder);
let web;
let worker;
try {
  const env = environment(folder, database.url, { VELVET_DEMO: '0' });
  if (only === undefined || only === 'unit') {
    const file = join(ROOT, 'test-results', 'unit.json');
    step(
      'unit and database tests',
      process.execPath,
      [
        '--experimental-vm-modules',
        '--no-warnings',
        join(ROOT, 'node_modules/jest/bin/jest.js'),
        '--json',
        `--outputFile=${file}`,
        '--silent',
        '--maxWorkers=2',
      ],
      env,
    );
    const report = readJson(file);
    counts.passed += report?.numPassedTests ?? 0;
    counts.failed += report?.numFailedTests ?? 1;
    counts.skipped += report?.numPendingTests ?? 0;
  }
  if (only === undefined || only === 'faults') {
    ensureBuild(env);
    for (const [name, file] of [
      ['kills in mid-work', 'kills'],
      ['a replica that is behind, and gone', 'replica'],
      ['the database of a checkout, and its backups', 'database'],
      ['a supplier that fails and is killed', 'supplier'],
    ]) {
      step(name, process.execPath, ['--test', '--test-reporter=spec', `faults/${file}.test.mjs`], process.env);
      counts[results.at(-1).ok ? 'passed' : 'failed']++;
    }
  }
  if (only !== 'unit' && only !== 'faults') {
    const chromium = ensureProgram('chromium', 'Chromium, for the tests of the interface,');
    runTs('web/server/db/migrate.ts', [], env);
    runTs('web/server/demo/load.ts', [], env);
    ensureBuild(env);
    web = await startWeb(env, await freePort(4300));
    worker = startWorker(env);
    const file = join(ROOT, 'test-results', 'e2e.json');
    rmSync(file, { force: true });
    step('browser tests', bin('playwright'), ['test'], {
      ...env,
      VELVET_ADDRESS: web.address,
      VELVET_SETUP_CODE: setupCode(env),
      VELVET_CHROMIUM: chromium.includes('/') ? chromium : `/usr/bin/${chromium}`,
    });
    const stats = readJson(file)?.stats;
    counts.passed += stats?.expected ?? 0;
    // what fails once and passes then has failed
    counts.failed += stats ? stats.unexpected + stats.flaky : 1;
    counts.skipped += stats?.skipped ?? 0;
  }
} finally {
  if (web) await stopChild(web.child);
  if (worker) await worker.stop();
  await database.stop();
}

for (const r of results) say(`${r.ok ? 'ok    ' : 'FAILED'} ${r.name} (${r.seconds} s)`);
console.log(`${counts.passed} passed, ${counts.failed} failed, ${counts.skipped} skipped`);
process.exit(results.every((r) => r.ok) && counts.failed === 0 ? 0 : 1);

function readJson(path) {
  try {
    return JSON.parse(readFileSync(path, 'utf8'));
  } catch {
    return undefined;
  }
}
