// What everything here stands on. Runs before any package is installed: Node's own modules only.
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { ROOT } from '../fresh.mjs';

export const DATA = join(ROOT, '.data');

export const say = (text) => console.log(`velvet reel · ${text}`);

export function fail(text) {
  console.error(`velvet reel · ${text}`);
  process.exit(1);
}

export function checkNode() {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major < 20 || (major === 20 && minor < 9))
    fail(`Node ${process.versions.node} is too old; version 20.9 or later is needed.`);
}

export const has = (command) => spawnSync('sh', ['-c', `command -v ${command}`]).status === 0;

export const shortHash = (text) => createHash('sha256').update(text).digest('hex').slice(0, 12);

/** A setting, or what the file holds that NAME_FILE names: secrets need not stand in the environment. */
export function setting(name) {
  const file = process.env[`${name}_FILE`];
  if (!file) return process.env[name];
  try {
    return readFileSync(file, 'utf8').trim();
  } catch (error) {
    return fail(`${name}_FILE: ${file} cannot be read (${error.code})`);
  }
}
