// npm test: everything there is to check, from a bare checkout. `npm test -- unit`, `-- faults` or `-- browser` does one part.
import { spawn } from 'node:child_process';
import { closeSync, mkdirSync, openSync, readFileSync, rmSync } from 'node:fs';
import { setPriority } from 'node:os';
import { join } from 'node:path';
import { cleanFolder, freshLibrary } from './fresh-library.mjs';
import {
  checkNode,
  ensureBuild,
  ensureBundles,
  ensurePackages,
  ensureProgram,
  environment,
  freePort,
  ROOT,
  say,
  setupCode,
  startDatabase,
  startWeb,
  startWorker,
  stopChild,
} from './lib.mjs';

const only = process.argv[2];
const wanted = (part) => only === undefined || only === part;
checkNode();
ensurePackages();
ensureBundles();
const RESULTS = join(ROOT, 'test-results');
mkdirSync(RESULTS, { recursive: true });
const bin = (name) => join(ROOT, 'node_modules', '.bin', name);
const results = [];
const counts = { passed: 0, failed: 0, skipped: 0 };

// Tests that wait a great deal (processes that are killed, answers that never come) run beside those that only compute, which
// give way to them. The browsers come after: two of them take both processors.

/** Runs a part. What it prints is shown when it is done, in one piece, where others run beside it. */
function step(name, command, args, { env = process.env, beside = only === undefined, gentle = beside } = {}) {
  say(`${name} …`);
  const start = Date.now();
  const file = join(RESULTS, `${name.replace(/\W+/g, '-')}.log`);
  const log = beside ? openSync(file, 'w') : undefined;
  const child = spawn(command, args, { cwd: ROOT, env, stdio: ['ignore', log ?? 'inherit', log ?? 'inherit'] });
  running.add(child);
  if (gentle && child.pid) setPriority(child.pid, 10);
  return new Promise((resolve) => {
    const done = (ok) => {
      running.delete(child);
      const result = { name, ok, seconds: Math.round((Date.now() - start) / 1000) };
      results.push(result);
      if (log !== undefined) {
        closeSync(log);
        process.stdout.write(readFileSync(file));
      }
      say(`${ok ? 'ok    ' : 'FAILED'} ${name} (${result.seconds} s)`);
      resolve(result);
    };
    child.once('error', () => done(false));
    child.once('exit', (code) => done(code === 0));
  });
}
const running = new Set();
process.once('exit', () => {
  for (const child of running) child.kill('SIGTERM');
});

const node = (name, args, options) => step(name, process.execPath, args, options);

async function check() {
  // one thread takes half the processor time of several, which each check what they share
  await step('types of the core', bin('tsc'), ['-p', 'motion', '--singleThreaded']);
  await step('types of the rest', bin('tsc'), ['-p', '.', '--singleThreaded']);
  await step('lint and layers', bin('biome'), ['ci', '.', '--max-diagnostics=20', '--diagnostic-level=warn']);
  await node('drawing of the layers', [join(ROOT, 'scripts/layers.mjs'), '--check']);
  await node('licences', [join(ROOT, 'scripts/licences.mjs'), '--check']);
}

async function unit(env) {
  const file = join(RESULTS, 'unit.json');
  rmSync(file, { force: true });
  const jest = join(ROOT, 'node_modules/jest/bin/jest.js');
  await node(
    'unit and database tests',
    [
      '--experimental-vm-modules',
      '--no-warnings',
      jest,
      '--json',
      `--outputFile=${file}`,
      '--silent',
      '--maxWorkers=2',
    ],
    { env },
  );
  const report = readJson(file);
  counts.passed += report?.numPassedTests ?? 0;
  counts.failed += report?.numFailedTests ?? 1;
  counts.skipped += report?.numPendingTests ?? 0;
}

async function faults() {
  for (const [name, file] of [
    ['kills in mid-work', 'kills'],
    ['a replica that is behind, and gone', 'replica'],
    ['the database of a checkout, and its backups', 'database'],
    ['a full disk', 'disk'],
    ['a supplier that fails and is killed', 'supplier'],
  ]) {
    const { ok } = await node(name, ['--test', '--test-reporter=spec', `faults/${file}.test.mjs`], { gentle: false });
    counts[ok ? 'passed' : 'failed']++;
  }
}

/** Libraries that the browser's tests are shared out to, a browser each. */
const LIBRARIES = 2;

/** Opens the libraries, one after the other: each looks for free ports. */
async function openLibraries() {
  const libraries = [];
  try {
    for (let i = 0; i < LIBRARIES; i++) libraries.push(await openLibrary(`test-browser-${i + 1}`));
    return libraries;
  } catch (error) {
    await closeLibraries(libraries);
    throw error;
  }
}

async function closeLibraries(libraries) {
  for (const { web, worker, database } of libraries) {
    await stopChild(web.child);
    await worker.stop();
    await database.stop();
  }
}

async function browser(chromium, opening) {
  const libraries = await opening;
  const file = join(RESULTS, 'e2e.json');
  rmSync(file, { force: true });
  try {
    await step('browser tests', bin('playwright'), ['test'], {
      // what happens there is seen as it happens
      beside: false,
      env: {
        ...process.env,
        VELVET_ADDRESS: libraries.map((l) => l.web.address).join(' '),
        VELVET_SETUP_CODE: libraries.map((l) => l.code).join(' '),
        VELVET_CHROMIUM: chromium.includes('/') ? chromium : `/usr/bin/${chromium}`,
      },
    });
  } finally {
    await closeLibraries(libraries);
  }
  const stats = readJson(file)?.stats;
  counts.passed += stats?.expected ?? 0;
  // what fails once and passes then has failed
  counts.failed += stats ? stats.unexpected + stats.flaky : 1;
  counts.skipped += stats?.skipped ?? 0;
}

/** An empty library with everything that runs beside it. */
async function openLibrary(name) {
  const { database, env } = await freshLibrary(name);
  env.VELVET_DATABASE = database.application();
  const web = await startWeb(env, await freePort(4300));
  return { database, web, worker: startWorker(env), code: setupCode(env) };
}

function readJson(file) {
  try {
    return JSON.parse(readFileSync(file, 'utf8'));
  } catch {
    return undefined;
  }
}

const folder = await cleanFolder('test');
const database = await startDatabase(folder);
try {
  const env = environment(folder, database.url, { VELVET_DEMO: '0' });
  const chromium =
    wanted('browser') &&
    (process.env.VELVET_CHROMIUM ??
      ensureProgram(
        'chromium-headless-shell',
        'Chromium without windows, for the tests of the interface,',
        'chromium',
      ));
  const computing = wanted('unit') ? unit(env) : undefined;
  if (wanted('faults') || wanted('browser')) ensureBuild(env);
  // they open while other things are tried
  const opening = wanted('browser') && openLibraries();
  await Promise.all([computing, wanted('faults') && faults(), only === undefined && check(), opening]);
  if (wanted('browser')) await browser(chromium, opening);
} finally {
  await database.stop();
}

for (const r of results) say(`${r.ok ? 'ok    ' : 'FAILED'} ${r.name} (${r.seconds} s)`);
console.log(`${counts.passed} passed, ${counts.failed} failed, ${counts.skipped} skipped`);
process.exit(results.every((r) => r.ok) && counts.failed === 0 ? 0 : 1);
