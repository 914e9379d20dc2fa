// What has to be there before anything runs: packages, bundles, programs of the system.
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import { isFresh, ROOT } from '../fresh.mjs';
import { fail, has, say } from './ground.mjs';

/** Installs packages when the lock file has changed since the last time. */
export function ensurePackages() {
  const stamp = join(ROOT, 'node_modules', '.velvet-stamp');
  const lock = createHash('sha256')
    .update(readFileSync(join(ROOT, 'package-lock.json')))
    .digest('hex');
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === lock) return;
  if (
    !existsSync(stamp) &&
    existsSync(join(ROOT, 'node_modules', '.package-lock.json')) &&
    existsSync(join(ROOT, 'node_modules', 'next'))
  ) {
    writeFileSync(stamp, lock);
    return;
  }
  say('installing packages');
  const done = spawnSync('npm', ['ci', '--no-audit', '--no-fund'], { cwd: ROOT, stdio: 'inherit' });
  if (done.status !== 0) fail('npm ci did not succeed; see its lines above.');
  writeFileSync(stamp, lock);
}

/** Makes the bundles that a source has changed for. */
export function ensureBundles() {
  const done = spawnSync(process.execPath, [join(ROOT, 'scripts/bundle.mjs')], { cwd: ROOT, stdio: 'inherit' });
  if (done.status !== 0) fail('the programs could not be bundled; see the lines above.');
}

/** What Node is asked to run a TypeScript file: its bundle where it has one, or its sources where they have changed since. */
export function programArguments(file) {
  const bundled = join(ROOT, 'dist/server', `${basename(file, '.ts')}.mjs`);
  return existsSync(bundled) && isFresh('dist/server') ? [bundled] : ['--import', 'tsx', join(ROOT, file)];
}
export const WORKER = 'web/server/jobs/main.ts';

const DEBIAN = { mariadbd: 'mariadb-server', 'chromium-headless-shell': 'chromium-headless-shell' };

/** Makes sure a system program is there, or another that serves as well; installs Debian's package when allowed to. */
export function ensureProgram(command, what, instead = command) {
  const places = ['/usr/sbin', '/usr/local/sbin', '/usr/bin'];
  const find = (name = command) => (has(name) ? name : places.map((p) => join(p, name)).find(existsSync));
  const found = find() ?? find(instead);
  if (found) return found;
  const name = DEBIAN[command];
  const install = `apt-get install -y ${name}`;
  const root = process.getuid?.() === 0;
  const sudo = !root && spawnSync('sudo', ['-n', 'true']).status === 0;
  const forbidden = /^(no|0|false|off)$/i.test(process.env.VELVET_INSTALL ?? '');
  if (forbidden || !has('apt-get') || (!root && !sudo)) {
    fail(
      `${what} is missing and ${forbidden ? 'VELVET_INSTALL forbids installing' : 'there is no right to install'} it. Install it once (on Debian or Ubuntu: sudo ${install}; on macOS: brew install mariadb) and start again.`,
    );
  }
  say(`${what} is missing: installing the system package ${name} (VELVET_INSTALL=no forbids that)`);
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  // another installation may hold Debian's lock for a while: the machine's own updates do
  const patient = (line) => line.replace('apt-get', 'apt-get -o DPkg::Lock::Timeout=300');
  const run = (line) =>
    spawnSync('sh', ['-c', root ? patient(line) : `sudo -n ${patient(line)}`], {
      stdio: ['ignore', 'ignore', 'inherit'],
      env,
    });
  if (run(install).status !== 0 && (run('apt-get update').status !== 0 || run(install).status !== 0)) {
    fail(`${name} could not be installed. Install it by hand (${install}) and start again.`);
  }
  return find() ?? fail(`${name} was installed, but ${command} is not to be found.`);
}

/** What the build depends on, by content. */
export function sourceStamp() {
  const hash = createHash('sha256');
  const visit = (path) => {
    for (const entry of readdirSync(path, { withFileTypes: true }).sort((a, b) => (a.name < b.name ? -1 : 1))) {
      if (entry.name === 'node_modules' || entry.name === '.next' || /\.test\.tsx?$/.test(entry.name)) continue;
      const full = join(path, entry.name);
      if (entry.isDirectory()) visit(full);
      else hash.update(full).update('\0').update(readFileSync(full));
    }
  };
  for (const dir of ['web', 'motion', 'demo']) visit(join(ROOT, dir));
  return hash.update(readFileSync(join(ROOT, 'package-lock.json'))).digest('hex');
}

/** Builds the web application, and what its threads and workers run, unless nothing has changed. */
export function ensureBuild(env) {
  ensureBundles();
  const stampPath = join(ROOT, 'web', '.next', 'velvet-stamp');
  const stamp = sourceStamp();
  if (existsSync(stampPath) && readFileSync(stampPath, 'utf8') === stamp) return;
  say('building');
  const done = spawnSync(process.execPath, [join(ROOT, 'node_modules/next/dist/bin/next'), 'build', 'web'], {
    cwd: ROOT,
    env,
    stdio: ['ignore', 'pipe', 'pipe'],
    encoding: 'utf8',
  });
  if (done.status !== 0) {
    console.error(done.stdout, done.stderr);
    fail('the build failed; see its lines above.');
  }
  writeFileSync(stampPath, stamp);
}
