// The system users that the parts of the application run as. Runs before any package is installed: Node's own modules only.
import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync } from 'node:fs';
import { userInfo } from 'node:os';
import { join } from 'node:path';
import { ROOT } from './fresh.mjs';

/** Our name with the system; null where it has none for us, as in a container with a number alone. */
export function ownName() {
  try {
    return userInfo().username;
  } catch {
    return null;
  }
}

const isRoot = () => process.getuid?.() === 0;

function found(name) {
  const [uid, gid] = ['-u', '-g'].map((flag) => Number(spawnSync('id', [flag, name], { encoding: 'utf8' }).stdout));
  return uid > 0 && gid > 0 ? { name, uid, gid } : undefined;
}

/** A user that no one signs in as, made where it is missing; undefined where it cannot be made. */
function systemUser(name) {
  const known = found(name);
  if (known) return known;
  spawnSync('useradd', ['--system', '--no-create-home', '--shell', '/usr/sbin/nologin', name]);
  return found(name);
}

/** The system user that the database runs as where we are root: never root itself. Null: as ourselves. */
export function databaseUser() {
  if (!isRoot()) return null;
  const user = found('mysql') ?? systemUser('velvet-reel');
  if (!user) tell('no system user for the database could be made: it runs as root');
  return user ?? null;
}

/**
 * The system user that pages and long work are served as where we are root: one that owns nothing, the database's files least of
 * all. It belongs to the database's group, which may pass through the data folder. Null: as ourselves.
 * @param port the one that is listened on: below 1024 root alone may
 */
export function applicationUser(port = 1024) {
  if (!isRoot() || process.env.VELVET_USER === 'root') return null;
  if (port < 1024) return tell(`port ${port} is open to root alone: the application runs as root`);
  const database = databaseUser();
  const own = systemUser('velvet-reel-app');
  if (!database || !own) return tell('no system user for the application could be made: it runs as root');
  const user = { uid: own.uid, gid: database.gid };
  const needed = ['package.json', 'node_modules/next/package.json', 'web/.next/BUILD_ID', 'dist/server/main.mjs'];
  for (const file of needed.map((f) => join(ROOT, f)).filter(existsSync))
    if (spawnSync('cat', [file], { ...user, cwd: '/' }).status !== 0)
      return tell(`${own.name} may not read ${file}: the application runs as root`);
  return user;
}

/** The folder that files are watched in: whoever serves it may not be allowed to make it. */
export function openInbox(folder) {
  if (folder) mkdirSync(folder, { recursive: true });
}

const told = new Set();
function tell(text) {
  if (!told.has(text)) console.log(`velvet reel · ${text}`);
  told.add(text);
  return null;
}
