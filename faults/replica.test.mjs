// A primary and a replica of it: lists are read at the replica, nobody misses their own change when it falls behind, and
// nothing fails when it is gone.
import assert from 'node:assert/strict';
import { spawnSync } from 'node:child_process';
import { mkdirSync } from 'node:fs';
import { userInfo } from 'node:os';
import { join } from 'node:path';
import { after, test } from 'node:test';
import { createConnection } from 'mysql2/promise';
import {
  DATA,
  ensureBuild,
  environment,
  freePort,
  removeDatabase,
  runTs,
  setupCode,
  startDatabase,
  startWeb,
  stopChild,
  stopLeftOver,
} from '../scripts/lib.mjs';
import { take } from './take.mjs';

const folders = ['primary', 'replica'].map((name) => join(DATA, 'faults', name));
const servers = [];
for (const [i, folder] of folders.entries()) {
  await stopLeftOver(folder);
  mkdirSync(folder, { recursive: true });
  removeDatabase(folder);
  servers.push(
    await startDatabase(folder, await freePort(0), [
      `--server-id=${i + 1}`,
      `--gtid-domain-id=0`,
      '--log-bin=changes',
      '--binlog-format=ROW',
      // the replica begins with what the primary did after both were made ready
      '--replicate-wild-do-table=velvet.%',
    ]),
  );
}
const [primary, replica] = servers;
const asRoot = (server, statement) => {
  const done = spawnSync('mariadb', ['--no-defaults', '-u', userInfo().username, `--socket=${server.socket}`, '-BN'], {
    input: statement,
    encoding: 'utf8',
  });
  assert.equal(done.status, 0, done.stderr);
  return done.stdout.trim();
};
const at = asRoot(primary, 'select @@gtid_binlog_pos;');
asRoot(
  primary,
  "create user 'replica'@'127.0.0.1' identified by 'follows'; grant replication slave on *.* to 'replica'@'127.0.0.1';",
);
asRoot(
  replica,
  `reset master; set global gtid_slave_pos = '${at}';
   change master to master_host = '127.0.0.1', master_port = ${primary.port}, master_user = 'replica', master_password = 'follows', master_use_gtid = slave_pos;
   start slave;`,
);
// each has a password of its own; only what is read goes to the replica
const env = environment(folders[0], primary.url, { VELVET_DEMO: '0', VELVET_INBOX: '', VELVET_READS: replica.url });
runTs('web/server/db/migrate.ts', [], env);
ensureBuild(env);
const port = await freePort(4700);
const web = await startWeb(env, port);
after(async () => {
  await stopChild(web.child);
  await Promise.all(servers.map((s) => s.stop()));
});

const address = `http://127.0.0.1:${port}`;
let cookie = '';
async function ask(method, path, body, form) {
  const answer = await fetch(address + path, {
    method,
    headers: { origin: address, cookie, ...(body && !form && { 'content-type': 'application/json' }) },
    body: form ?? (body && JSON.stringify(body)),
  });
  const set = answer.headers.getSetCookie();
  if (set.length > 0) cookie = set.map((c) => c.split(';')[0]).join('; ');
  return { status: answer.status, body: await answer.json() };
}
const list = async () => {
  const { status, body } = await ask('GET', '/api/v1/items?limit=50');
  assert.equal(status, 200);
  return body.items;
};
/** How many queries the replica has answered. */
const answered = () => Number(asRoot(replica, "show global status like 'Com_select';").split('\t')[1]);

test('lists are read at the replica; an edit is seen at once, when it is behind, and when it is gone', async () => {
  await ask('POST', '/api/session', {
    first: { name: 'Ilse', email: 'ilse@ferry.example', password: 'the tide is high', code: setupCode(env) },
  });
  const form = new FormData();
  form.set('file', new File([take(1)], 'Haul.bvh'));
  assert.equal((await ask('POST', '/api/v1/intake', undefined, form)).status, 200);
  await list();
  const before = answered();
  const [item] = await list();
  assert.ok(item.id);
  assert.ok(answered() >= before + 2, 'the replica was not asked');

  const say = async (note) => {
    assert.equal((await ask('PATCH', `/api/v1/items/${item.id}`, { change: { note } })).status, 200);
    assert.equal((await list()).find((i) => i.id === item.id).note, note);
  };
  await say('the replica is up to date');
  asRoot(replica, 'stop slave;');
  await say('the replica is behind');
  const db = await createConnection({ uri: replica.url });
  const [[row]] = await db.query('select note from items where id = ?', [item.id]);
  await db.end();
  assert.equal(row.note, 'the replica is up to date');
  asRoot(replica, 'start slave;');
  await say('it catches up');

  process.kill(replica.pid, 'SIGKILL');
  await say('the replica is gone');
  const motion = await fetch(`${address}/api/v1/motions/${item.motionHash}`, { headers: { cookie } });
  assert.equal(motion.status, 200);
  assert.ok((await motion.arrayBuffer()).byteLength > 100);
});
