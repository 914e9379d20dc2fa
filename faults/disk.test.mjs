// The database's disk is full, and then the database is killed, too: what was acknowledged is there, what could not be kept is
// told, and everything goes on by itself once there is room again. The disk is a small one in a file, which only root can make.
import assert from 'node:assert/strict';
import { spawnSync } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { closeSync, existsSync, mkdirSync, openSync, rmSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import { after, test } from 'node:test';
import {
  DATA,
  environment,
  freePort,
  runTs,
  setupCode,
  startDatabase,
  startWeb,
  startWorker,
  stopChild,
  stopLeftOver,
} from '../scripts/lib.mjs';
import { take } from './take.mjs';

const DISK_MIB = 640;
/** How soon everything works again once there is room. */
const BACK_MS = 30_000;
const sleep = (ms) => new Promise((r) => setTimeout(r, ms));
const folder = join(DATA, 'faults', 'disk');
const unmount = () => spawnSync('umount', ['-l', folder]);

await stopLeftOver(folder);
unmount();
mkdirSync(folder, { recursive: true });
const image = `${folder}.img`;
const done = (command, ...args) => spawnSync(command, args).status === 0;
const mounted =
  process.getuid?.() === 0 &&
  done('truncate', '-s', `${DISK_MIB}M`, image) &&
  done('mkfs.ext4', '-qFm', '0', image) &&
  done('mount', '-o', 'loop', image, folder);

const running = [];
after(async () => {
  for (const stop of running.reverse()) await stop();
  if (mounted) unmount();
  rmSync(image, { force: true });
});

async function start() {
  const database = await startDatabase(folder, await freePort(0), ['--innodb-log-file-size=48M'], { watch: true });
  running.push(() => database.stop());
  assert.ok(existsSync(join(folder, 'mariadb')), 'the database lies on another disk');
  // as on a machine of its own, whose disk has room: it is the database’s that is full
  const elsewhere = join(DATA, 'faults', 'disk-web');
  mkdirSync(elsewhere, { recursive: true });
  const env = { ...environment(folder, database.url, { VELVET_DEMO: '0', VELVET_INBOX: '' }), VELVET_DATA: elsewhere };
  runTs('web/server/db/migrate.ts', [], env);
  const web = await startWeb(env, await freePort(4640));
  running.push(() => stopChild(web.child));
  const worker = startWorker(env);
  running.push(() => worker.stop());
  return { database, address: web.address, code: setupCode(env) };
}

/** Asks once, as whoever was the first here. @returns status 0 where nobody answered */
async function person(address, code) {
  const origin = { origin: address };
  const signed = await fetch(`${address}/api/session`, {
    method: 'POST',
    headers: { ...origin, 'content-type': 'application/json' },
    body: JSON.stringify({
      first: { name: 'Bram', email: 'bram@ferry.example', password: 'the tide is high', code },
    }),
  });
  const cookie = signed.headers
    .getSetCookie()
    .map((c) => c.split(';')[0])
    .join('; ');
  return async (method, path, body) => {
    const form = body instanceof FormData;
    try {
      const answer = await fetch(`${address}/api/v1${path}`, {
        method,
        headers: { ...origin, cookie, ...(body && !form && { 'content-type': 'application/json' }) },
        ...(body && { body: form ? body : JSON.stringify(body) }),
        signal: AbortSignal.timeout(20_000),
      });
      return { status: answer.status, body: await answer.json() };
    } catch {
      return { status: 0, body: {} };
    }
  };
}

/** Takes what is left of the disk. */
function fill(file) {
  const out = openSync(file, 'a');
  try {
    for (let size = 2 ** 20; size >= 4096; size /= 2) {
      const piece = Buffer.alloc(size);
      try {
        for (;;) writeSync(out, piece);
      } catch (error) {
        assert.equal(error.code, 'ENOSPC');
      }
    }
  } finally {
    closeSync(out);
  }
}

test('a full disk and a killed database lose nothing, and both are over once there is room', {
  skip: !mounted,
  timeout: 300_000,
}, async () => {
  const { database, address, code } = await start();
  const ask = await person(address, code);
  for (let i = 0; i < 24; i++) {
    const form = new FormData();
    form.set('file', new File([take(1000 + i)], `Described ${i}.bvh`));
    assert.equal((await ask('POST', '/intake', form)).status, 200);
  }
  const { items } = (await ask('GET', '/items?limit=40')).body;
  const notes = new Map();
  const brought = [];
  const refused = new Map();
  /** @returns whether it was acknowledged; whatever else is answered has to be a sentence that says why */
  const kept = ({ status, body }) => {
    if (status === 200) return true;
    if (status !== 0) {
      assert.ok([503, 507].includes(status), `answered ${status}: ${JSON.stringify(body)}`);
      assert.ok(body.message.length > 20);
    }
    refused.set(status, (refused.get(status) ?? 0) + 1);
    return false;
  };
  /** Items that were described while all was well; the others are tried when it is not. */
  const WELL = 8;
  const note = async (i) => {
    const { id } = items[i < WELL ? i : WELL + (i % (items.length - WELL))];
    // what is not acknowledged may be there all the same: of an item that is asked about, only the last answer counts
    notes.delete(id);
    const text = `note ${i} ${randomBytes(400).toString('hex')}`;
    const done = kept(await ask('PATCH', `/items/${id}`, { change: { note: text } }));
    if (done) notes.set(id, text);
    return done;
  };
  const bring = async (i) => {
    // what cannot be packed takes room
    const bytes = new TextEncoder().encode(`${take(i)}\n${i % 2 === 0 ? '' : ' '.repeat(1_500_000)}`);
    const name = `Full ${i}.bvh`;
    const opened = await ask('POST', '/jobs/intake', { title: name, files: [{ name, bytes: bytes.length }] });
    if (!kept(opened)) return;
    const form = new FormData();
    form.set('file', new File([bytes], name));
    if (kept(await ask('PUT', `/jobs/${opened.body.id}/files/0`, form))) brought.push(opened.body.id);
  };

  for (let i = 0; i < WELL; i++) assert.ok(await note(i));
  for (let i = 0; i < 2; i++) await bring(i);
  assert.equal(brought.length, 2);

  const filler = join(folder, 'filler');
  fill(filler);
  const refusals = () => [...refused.values()].reduce((a, b) => a + b, 0);
  for (let i = 0; i < 60 && refusals() < 12; i++) {
    await note(100 + i);
    await bring(100 + i);
    if (i % 10 === 9) fill(filler);
  }
  assert.ok(refusals() > 0, 'the disk was never full');

  try {
    process.kill(database.pid, 'SIGKILL');
  } catch {
    // it had ended by itself, as it does where its log cannot be written
  }
  await sleep(4000);
  for (let i = 0; i < 4; i++) await note(200 + i);

  rmSync(filler);
  const freed = Date.now();
  while (!(await note(300))) {
    assert.ok(Date.now() - freed < BACK_MS, 'it did not come back by itself');
    await sleep(300);
  }
  const back = Date.now() - freed;

  for (const [id, text] of notes) assert.equal((await ask('GET', `/items/${id}`)).body.note, text);
  for (const job of brought) {
    let state;
    for (let i = 0; i < 200; i++) {
      state = (await ask('GET', '/jobs')).body.find?.((j) => j.id === job)?.state;
      if (state === 'done') break;
      await sleep(300);
    }
    assert.equal(state, 'done', `job ${job} is ${state}`);
  }
  console.log(
    `${notes.size} notes and ${brought.length} files acknowledged, all there; refused: ${[...refused].map(([s, n]) => `${n} × ${s || 'no answer'}`).join(', ')}; back after ${(back / 1000).toFixed(1)} s`,
  );
});
