// The database of a checkout: who can reach it, who it belongs to, what is left after a crash, and its backups.
import assert from 'node:assert/strict';
import { spawn, spawnSync } from 'node:child_process';
import { createHash, randomBytes } from 'node:crypto';
import {
  chmodSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  rmSync,
  statSync,
  truncateSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, test } from 'node:test';
import { createConnection } from 'mysql2/promise';
import { generate } from 'selfsigned';
import { cleanFolder } from '../scripts/fresh-library.mjs';
import {
  backup,
  DATA,
  environment,
  ROOT,
  removeDatabase,
  restore,
  startDatabase,
  startWorker,
  stopLeftOver,
  tryBackup,
} from '../scripts/lib.mjs';
import { applicationUser } from '../scripts/users.mjs';

const folder = await cleanFolder('faults', 'database');
const database = await startDatabase(folder);
after(() => database.stop());

const ask = async (sql, values) => {
  const connection = await createConnection({ uri: database.url });
  try {
    return (await connection.query(sql, values))[0];
  } finally {
    await connection.end();
  }
};
const asRoot = process.getuid?.() === 0;
const sleep = (ms) => new Promise((r) => setTimeout(r, ms));

test('nobody else of this machine gets to it, and it does not run as root', { skip: !asRoot }, () => {
  const status = readFileSync(`/proc/${database.pid}/status`, 'utf8');
  assert.notEqual(/^Uid:\s+(\d+)/m.exec(status)[1], '0');
  assert.equal(statSync(folder).mode & 0o007, 0);
  for (const name of ['root', 'velvet', 'mysql']) {
    const done = spawnSync('mariadb', ['--no-defaults', '-u', name, `--socket=${database.socket}`, '-e', 'select 1'], {
      uid: 65534,
      gid: 65534,
      encoding: 'utf8',
    });
    assert.notEqual(done.status, 0, `${name} came in`);
  }
  const secrets = spawnSync('cat', [join(folder, 'secrets.json')], { uid: 65534, gid: 65534 });
  assert.notEqual(secrets.status, 0);
});

test('by the network nobody comes in without the password, not even root', async () => {
  const { port } = new URL(database.url);
  for (const user of ['root', 'velvet', ''])
    await assert.rejects(createConnection({ host: '127.0.0.1', port: Number(port), user }));
});

test('the application adds to the audit log and takes nothing back, and changes no table', async () => {
  await ask('create table audit (seq int primary key, about varchar(20))');
  await ask('create table items (id int primary key, name varchar(20))');
  const own = await createConnection({ uri: database.application() });
  await own.query("insert into audit values (1, 'exported')");
  await own.query("insert into items values (1, 'Haul')");
  await own.query("update items set name = 'Coil' where id = 1");
  await own.query('delete from items');
  for (const statement of [
    "update audit set about = 'nothing'",
    'delete from audit',
    'truncate table audit',
    'drop table audit',
    "replace into audit values (1, 'nothing')",
    'alter table audit drop column about',
    'create table mine (x int)',
    'select * from mysql.global_priv',
  ])
    await assert.rejects(own.query(statement), /denied/, statement);
  assert.deepEqual((await own.query('select * from audit'))[0], [{ seq: 1, about: 'exported' }]);
  await own.end();
  await ask('drop table audit, items');
});

test('a second start uses it and does not end it', async () => {
  const second = await startDatabase(folder);
  assert.equal(second.url, database.url);
  await second.stop();
  assert.deepEqual(await ask('select 1 as x'), [{ x: 1 }]);
});

test('the number of a process that is none of ours is left alone', async () => {
  const other = spawn('sleep', ['60']);
  const elsewhere = join(DATA, 'faults', 'foreign');
  mkdirSync(elsewhere, { recursive: true });
  writeFileSync(join(elsewhere, 'database.json'), JSON.stringify({ pid: other.pid, url: 'mysql://x', owner: 1 }));
  await stopLeftOver(elsewhere);
  await sleep(300);
  assert.equal(other.exitCode, null);
  assert.equal(other.signalCode, null);
  // nor a database on other data
  writeFileSync(join(elsewhere, 'database.json'), JSON.stringify({ pid: database.pid, url: 'mysql://x', owner: 1 }));
  await stopLeftOver(elsewhere);
  assert.deepEqual(await ask('select 1 as x'), [{ x: 1 }]);
  other.kill();
});

test('a folder that was cut off while it was made is made anew', async () => {
  const half = join(DATA, 'faults', 'half');
  await stopLeftOver(half);
  removeDatabase(half);
  mkdirSync(join(half, 'mariadb.part', 'mysql'), { recursive: true });
  mkdirSync(join(half, 'mariadb'), { recursive: true });
  writeFileSync(join(half, 'secrets.json'), '{"datab');
  const made = await startDatabase(half);
  assert.equal(existsSync(join(half, 'mariadb.part')), false);
  const connection = await createConnection({ uri: made.url });
  await connection.end();
  await made.stop();
});

test('one whose starter is gone is taken over and can be stopped', async () => {
  const orphan = join(DATA, 'faults', 'orphan');
  await stopLeftOver(orphan);
  removeDatabase(orphan);
  const script = `import { startDatabase } from ${JSON.stringify(join(import.meta.dirname, '../scripts/lib.mjs'))};
    await startDatabase(${JSON.stringify(orphan)}); console.log('up'); setInterval(() => {}, 1000);`;
  const starter = spawn(process.execPath, ['--input-type=module', '-e', script], {
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  await new Promise((resolve) => starter.stdout.on('data', (x) => String(x).includes('up') && resolve()));
  starter.kill('SIGKILL');
  await sleep(200);
  const next = await startDatabase(orphan);
  const connection = await createConnection({ uri: next.url });
  await connection.end();
  const { pid } = next;
  await next.stop();
  assert.throws(() => process.kill(pid, 0));
  // and one whose starter is told to end goes with it
  const other = spawn(process.execPath, ['--input-type=module', '-e', script], {
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  await new Promise((resolve) => other.stdout.on('data', (x) => String(x).includes('up') && resolve()));
  const state = JSON.parse(readFileSync(join(orphan, 'database.json'), 'utf8'));
  other.kill('SIGTERM');
  for (let i = 0; i < 100 && existsSync(`/proc/${state.pid}`); i++) await sleep(100);
  assert.equal(existsSync(`/proc/${state.pid}`), false);
});

test('it is started again when it ends by itself', async () => {
  const watched = join(DATA, 'faults', 'watched');
  await stopLeftOver(watched);
  const one = await startDatabase(watched, 0, [], { watch: true });
  process.kill(one.pid, 'SIGKILL');
  let back = false;
  for (let i = 0; i < 120 && !back; i++) {
    await sleep(250);
    back = await createConnection({ uri: one.url }).then(
      (c) => c.end().then(() => true),
      () => false,
    );
  }
  assert.ok(back);
  await one.stop();
});

test('a backup holds every byte, is its owner’s alone, and a bad one changes nothing', async () => {
  const bytes = Buffer.concat([Buffer.from(Array.from({ length: 512 }, (_, i) => i % 256)), randomBytes(24 * 2 ** 20)]);
  const words = "Größe ½ “x” \\ '\n\t\u0000 漢字 🪢";
  await ask('create table kept (id int primary key, bytes longblob, words longtext character set utf8mb4)');
  await ask('insert into kept values (1, ?, ?)', [bytes, words]);
  const file = join(folder, 'library.sql.gz');
  const size = await backup(database.url, file);
  assert.equal(statSync(file).mode & 0o077, 0);
  // random bytes do not get smaller; written out as digits they would be twice as many
  assert.ok(size < 1.15 * bytes.length, `${size}`);
  assert.equal(await tryBackup(database.url, file), 1);
  await ask('update kept set words = "changed"');
  await ask('create table since (id int)');
  const cut = join(folder, 'cut.sql.gz');
  writeFileSync(cut, readFileSync(file));
  truncateSync(cut, Math.floor(size / 2));
  await assert.rejects(restore(database.url, cut), /damaged or cut off/);
  assert.deepEqual(await ask('select words from kept'), [{ words: 'changed' }]);
  await restore(database.url, file);
  const [row] = await ask('select * from kept');
  const digest = (b) => createHash('sha256').update(b).digest('hex');
  assert.equal(digest(row.bytes), digest(bytes));
  assert.equal(row.words, words);
  assert.deepEqual(
    (await ask('show tables')).map((t) => Object.values(t)[0]),
    ['kept'],
  );
});

test('where a certificate is named, the database is reached by TLS, and only one that it answers for', async () => {
  const own = join(DATA, 'faults', 'tls');
  await stopLeftOver(own);
  removeDatabase(own);
  mkdirSync(own, { recursive: true });
  const certificate = (value) =>
    generate([{ name: 'commonName', value }], {
      algorithm: 'sha256',
      extensions: [
        { name: 'basicConstraints', cA: true },
        { name: 'subjectAltName', altNames: [{ type: 2, value }] },
      ],
    });
  // the server reads them as a user of its own
  const place = mkdtempSync(join(tmpdir(), 'velvet-tls-'));
  chmodSync(place, 0o755);
  const files = {};
  for (const [name, host] of [
    ['right', 'localhost'],
    ['stranger', 'localhost'],
    ['elsewhere', 'elsewhere.example'],
  ]) {
    const { cert, private: key } = await certificate(host);
    files[name] = { cert: join(place, `${name}.pem`), key: join(place, `${name}.key`) };
    writeFileSync(files[name].cert, cert, { mode: 0o644 });
    writeFileSync(files[name].key, key, { mode: 0o644 });
  }
  const named = (url) => url.replace('127.0.0.1', 'localhost');
  const pending = (url, ca) =>
    spawnSync(process.execPath, ['--import', 'tsx', join(ROOT, 'web/server/db/pending.ts')], {
      env: { ...process.env, VELVET_DATABASE: named(url), VELVET_DATABASE_CA: ca },
      cwd: ROOT,
      encoding: 'utf8',
    });
  const serve = (name) =>
    startDatabase(own, 0, [
      `--ssl-cert=${files[name].cert}`,
      `--ssl-key=${files[name].key}`,
      '--require-secure-transport=on',
    ]);
  let server = await serve('right');
  try {
    assert.notEqual(pending(server.url, '').status, 0, 'came in without TLS');
    assert.notEqual(pending(server.url, files.stranger.cert).status, 0, 'trusted a stranger');
    const done = pending(server.url, files.right.cert);
    assert.equal(done.status, 0, done.stderr);
    assert.equal(done.stdout.trim(), '0');
    process.env.VELVET_DATABASE_CA = files.right.cert;
    assert.ok((await backup(named(server.url), join(own, 'tls.sql.gz'))) > 0);
    delete process.env.VELVET_DATABASE_CA;
    await server.stop();
    server = await serve('elsewhere');
    assert.notEqual(pending(server.url, files.elsewhere.cert).status, 0, 'trusted the name of another machine');
  } finally {
    delete process.env.VELVET_DATABASE_CA;
    await server.stop();
    rmSync(place, { recursive: true });
  }
});

// a checkout that root alone may read is served by root, and says so
const user = applicationUser();
test('pages and long work are not done as root, and do not get at the database’s files', { skip: !user }, async () => {
  const worker = startWorker(environment(folder, database.url, { VELVET_DEMO: '0' }));
  try {
    const status = readFileSync(`/proc/${worker.pid()}/status`, 'utf8');
    assert.equal(/^Uid:\s+(\d+)/m.exec(status)[1], String(user.uid));
    assert.notEqual(String(user.uid), /^Uid:\s+(\d+)/m.exec(readFileSync(`/proc/${database.pid}/status`, 'utf8'))[1]);
  } finally {
    await worker.stop();
  }
  const files = /--datadir=([^\0]+)/.exec(readFileSync(`/proc/${database.pid}/cmdline`, 'utf8'))[1];
  assert.notEqual(spawnSync('ls', [files], { ...user, cwd: '/' }).status, 0);
  assert.notEqual(spawnSync('cat', [join(folder, 'secrets.json')], { ...user, cwd: '/' }).status, 0);
  assert.equal(applicationUser(80), null);
});
