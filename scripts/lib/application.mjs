// The web process and the worker, and what they are told.
import { spawn, spawnSync } from 'node:child_process';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { ROOT } from '../fresh.mjs';
import { applicationUser, openInbox } from '../users.mjs';
import { leftovers } from './ending.mjs';
import { fail, setting } from './ground.mjs';
import { programArguments, WORKER } from './packages.mjs';
import { stopChild } from './running.mjs';
import { secrets } from './secrets.mjs';

/** Runs a TypeScript file to its end. */
export function runTs(file, args, env) {
  const done = spawnSync(process.execPath, [...programArguments(file), ...args], {
    cwd: ROOT,
    env,
    stdio: 'inherit',
  });
  if (done.status !== 0) fail(`${file} failed; see its lines above.`);
}

/** Runs a TypeScript file to its end and answers with what it printed. */
export function readTs(file, env) {
  const done = spawnSync(process.execPath, programArguments(file), { cwd: ROOT, env, encoding: 'utf8' });
  if (done.status !== 0) fail(`${file} failed: ${done.stderr}`);
  return done.stdout.trim();
}

/** What whoever makes the first account has to say. */
export const setupCode = (env) => readTs('web/server/auth/setup-code.ts', env);

export function environment(folder, url, extra = {}) {
  return {
    ...process.env,
    VELVET_ROOT: ROOT,
    VELVET_DATA: folder,
    VELVET_DATABASE: url,
    VELVET_SESSION: setting('VELVET_SESSION') ?? secrets(folder).session,
    VELVET_SESSION_FORMER: setting('VELVET_SESSION_FORMER') ?? (secrets(folder).former ?? []).join(' '),
    ...(setting('VELVET_OIDC_SECRET') && { VELVET_OIDC_SECRET: setting('VELVET_OIDC_SECRET') }),
    VELVET_INBOX: process.env.VELVET_INBOX ?? join(folder, 'inbox'),
    // the demo world is for a checkout with a database of its own
    VELVET_DEMO: process.env.VELVET_DEMO ?? (setting('VELVET_DATABASE') ? '0' : '1'),
    NEXT_TELEMETRY_DISABLED: '1',
    ...extra,
  };
}

/** Starts a process that does the long work; it is started again when it dies. */
export function startWorker(env) {
  let child;
  let stopping = false;
  const user = applicationUser();
  openInbox(env.VELVET_INBOX);
  leftovers.add(() => child.kill('SIGTERM'));
  const start = () => {
    child = spawn(process.execPath, programArguments(WORKER), {
      cwd: ROOT,
      env,
      stdio: ['ignore', 'inherit', 'inherit'],
      ...user,
    });
    child.on('exit', () => {
      if (!stopping) setTimeout(() => !stopping && start(), 1000).unref();
    });
  };
  start();
  return {
    pid: () => child.pid,
    stop: () => {
      stopping = true;
      return stopChild(child);
    },
  };
}

/**
 * Threads with which V8 compiles and tidies up, at the priority of the one that answers, and for those that compute besides: they
 * do not get more than half of the processors. Node's own number is four.
 */
const helpers = () => Math.min(4, Math.ceil(availableParallelism() / 2));

/** Starts the built application and resolves when it answers. */
export async function startWeb(env, port, dev = false) {
  const address = `http://127.0.0.1:${port}`;
  const child = spawn(
    process.execPath,
    [
      `--v8-pool-size=${helpers()}`,
      join(ROOT, 'node_modules/next/dist/bin/next'),
      dev ? 'dev' : 'start',
      'web',
      '-H',
      process.env.VELVET_LISTEN ?? '127.0.0.1',
      '-p',
      String(port),
    ],
    {
      cwd: ROOT,
      // a studio's provider sends people back to it
      env: { ...env, VELVET_ADDRESS: env.VELVET_ADDRESS ?? address },
      stdio: ['ignore', dev ? 'inherit' : 'ignore', 'inherit'],
      // what is developed is built as it is looked at, into folders of our own
      ...(dev ? null : applicationUser(port)),
    },
  );
  leftovers.add(() => child.kill('SIGTERM'));
  for (let i = 0; i < 900; i++) {
    if (child.exitCode !== null) fail('the application stopped at once; see its lines above.');
    try {
      const answer = await fetch(`${address}/api/health`);
      if (answer.ok) return { child, address };
    } catch {
      // not up yet
    }
    await new Promise((r) => setTimeout(r, 200));
  }
  child.kill('SIGKILL');
  return fail('the application did not answer within three minutes.');
}
