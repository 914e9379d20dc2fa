// Processes of the machine: which of them are ours, and how they end.
import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { DATA, fail } from './ground.mjs';

/** The command line of a process. */
export function argumentsOf(pid) {
  try {
    return readFileSync(`/proc/${pid}/cmdline`, 'utf8').replaceAll('\0', ' ');
  } catch {
    return spawnSync('ps', ['-ww', '-o', 'args=', '-p', String(pid)], { encoding: 'utf8' }).stdout ?? '';
  }
}

export function isProcess(pid) {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return error.code === 'EPERM';
  }
}

/** Ends the command with a sentence when the application of this checkout is running. */
export function refuseRunning() {
  try {
    const { pid, port } = JSON.parse(readFileSync(join(DATA, 'start.json'), 'utf8'));
    if (pid !== process.pid && isProcess(pid) && /start\.mjs/.test(argumentsOf(pid)))
      fail(
        `it is running already${port ? `: open http://127.0.0.1:${port}` : ''} (process ${pid}; Ctrl-C there stops it)`,
      );
  } catch (error) {
    if (error.code !== 'ENOENT' && !(error instanceof SyntaxError)) throw error;
  }
}

export async function endProcess(pid) {
  for (let i = 0; i < 60 && isProcess(pid); i++) {
    process.kill(pid, i < 50 ? 'SIGTERM' : 'SIGKILL');
    await new Promise((r) => setTimeout(r, 250));
  }
}

export const stopChild = (child) =>
  new Promise((resolve) => {
    if (child.exitCode !== null || child.signalCode !== null) return resolve();
    child.once('exit', resolve);
    child.kill('SIGTERM');
    setTimeout(() => child.kill('SIGKILL'), 8000).unref();
  });
