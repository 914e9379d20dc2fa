// Backups: written whole, looked at before they count, and restored beside what is there.
import { spawn, spawnSync } from 'node:child_process';
import { createReadStream, createWriteStream, renameSync, rmSync, statSync } from 'node:fs';
import { pipeline } from 'node:stream/promises';
import { createGunzip, createGzip } from 'node:zlib';
import { fail, has, say } from './ground.mjs';

/** How the client programs of the database reach a database; the password goes by the environment, not the command line. */
function reach(url) {
  const ca = process.env.VELVET_DATABASE_CA?.trim();
  const u = new URL(url);
  return {
    args: [
      '--no-defaults',
      `--host=${u.hostname}`,
      '--protocol=tcp',
      `--port=${u.port || 3306}`,
      `--user=${decodeURIComponent(u.username)}`,
      ...(ca ? [`--ssl-ca=${ca}`, '--ssl-verify-server-cert'] : []),
    ],
    name: u.pathname.slice(1),
    env: { ...process.env, MYSQL_PWD: decodeURIComponent(u.password) },
  };
}

/** With this a dump says that it is whole. */
const WHOLE = '-- Dump completed';

/** Writes a whole database to a compressed file that its owner alone can read, all of it as of one moment. @returns its size */
export async function backup(url, file) {
  const tool = ['mariadb-dump', 'mysqldump'].find(has) ?? fail('mariadb-dump is missing; install mariadb-client.');
  const { args, name, env } = reach(url);
  const child = spawn(
    tool,
    [
      ...args,
      '--single-transaction',
      '--quick',
      // bytes as they are: written as hexadecimal digits, the largest that may be kept would not fit into a statement
      '--skip-hex-blob',
      '--default-character-set=binary',
      '--skip-lock-tables',
      '--no-tablespaces',
      '--max-allowed-packet=1G',
      name,
    ],
    { env, stdio: ['ignore', 'pipe', 'pipe'] },
  );
  rmSync(`${file}.part`, { force: true });
  await piped(child, [child.stdout, createGzip({ level: 4 }), createWriteStream(`${file}.part`, { mode: 0o600 })]);
  renameSync(`${file}.part`, file);
  return statSync(file).size;
}

/** Reads a backup to its end. @throws Error where it was cut off or is none */
async function demandWhole(file) {
  let tail = '';
  try {
    for await (const chunk of createReadStream(file).pipe(createGunzip()))
      tail = (tail + chunk.toString('latin1')).slice(-2000);
  } catch {
    throw new Error(`${file} is damaged or cut off: nothing was changed.`);
  }
  if (!tail.includes(WHOLE)) throw new Error(`${file} is not a whole backup: nothing was changed.`);
}

/** The client program of a database, to ask and to load with. */
function clientOf(url) {
  const tool = ['mariadb', 'mysql'].find(has) ?? fail('the MariaDB client is missing; install mariadb-client.');
  const { args, name, env } = reach(url);
  const ask = (sql, database = name) => {
    const done = spawnSync(tool, [...args, '--batch', '--skip-column-names', ...(database ? [database] : [])], {
      env,
      input: sql,
      encoding: 'utf8',
    });
    if (done.status !== 0) throw new Error(done.stderr.trim());
    return done.stdout.split('\n').filter(Boolean);
  };
  const load = async (file, database) => {
    const child = spawn(tool, [...args, '--max-allowed-packet=1G', '--default-character-set=binary', database], {
      env,
      stdio: ['pipe', 'ignore', 'pipe'],
    });
    await piped(child, [createReadStream(file), createGunzip(), child.stdin]);
  };
  return { name, beside: `${name}_restored`, ask, load };
}

/** Loads a backup into an empty database beside the library, lets something be done with it, and removes it. */
async function besideIt({ beside, ask, load }, file, then) {
  const remove = `drop database if exists \`${beside}\`;`;
  ask(`${remove} create database \`${beside}\` character set utf8mb4 collate utf8mb4_unicode_ci;`, '');
  try {
    await load(file, beside);
    const tables = ask('show tables', beside);
    if (tables.length === 0) throw new Error(`${file} holds no tables: nothing was changed.`);
    return then(tables);
  } finally {
    ask(remove, '');
  }
}

/** Restores a backup beside the library and counts. @returns rows of all its tables @throws Error where it cannot be restored */
export async function tryBackup(url, file) {
  await demandWhole(file);
  const client = clientOf(url);
  return besideIt(client, file, (tables) =>
    tables.reduce((sum, t) => sum + Number(client.ask(`select count(*) from \`${t}\``, client.beside)[0]), 0),
  );
}

/**
 * Puts what a backup holds in place of what is in a database: tables that it does not know go too. It is read to its end and
 * loaded beside the old one first, so that a bad one changes nothing.
 */
export async function restore(url, file) {
  await demandWhole(file);
  const client = clientOf(url);
  const { name, beside, ask, load } = client;
  const dropAll = () => {
    const tables = ask('show tables').map((t) => `\`${t}\``);
    if (tables.length > 0) ask(`set foreign_key_checks = 0; drop table ${tables.join(', ')};`);
  };
  try {
    ask(`create database if not exists \`${beside}\`;`, '');
  } catch {
    say('there is no right to load it beside the library first: it is loaded in place');
    dropAll();
    return load(file, name);
  }
  await besideIt(client, file, (tables) => {
    dropAll();
    ask(`rename table ${tables.map((t) => `\`${beside}\`.\`${t}\` to \`${name}\`.\`${t}\``).join(', ')};`, '');
  });
}

async function piped(child, streams) {
  let said = '';
  child.stderr.on('data', (x) => {
    said = (said + x).slice(-2000);
  });
  const ended = new Promise((resolve) => child.once('close', resolve));
  await pipeline(streams);
  const code = await ended;
  if (code !== 0) throw new Error(said.trim() || `it ended with ${code}`);
}
