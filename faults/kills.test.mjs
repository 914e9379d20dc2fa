// Kills the web process, workers and the database at any moment of an intake and of edits, twenty times in all, and then
// counts: nothing that was acknowledged is lost, nothing is there twice, and the job ends.
import assert from 'node:assert/strict';
import { after, test } from 'node:test';
import { createConnection } from 'mysql2/promise';
import { cleanFolder } from '../scripts/fresh-library.mjs';
import {
  environment,
  freePort,
  runTs,
  setupCode,
  startDatabase,
  startWeb,
  startWorker,
  stopChild,
} from '../scripts/lib.mjs';
import { askerOf } from './ask.mjs';
import { take } from './take.mjs';

/** The checksum that a packed motion holds of itself. */
function adler32(bytes) {
  let [a, b] = [1, 0];
  for (const x of bytes) {
    a = (a + x) % 65521;
    b = (b + a) % 65521;
  }
  return ((b << 16) | a) >>> 0;
}

const KILLS = Number(process.env.VELVET_KILLS ?? 20);
const FILES = 120;
const folder = await cleanFolder('faults');
const sleep = (ms) => new Promise((r) => setTimeout(r, ms));
let seed = Number(process.env.VELVET_SEED ?? 11);
const random = () => {
  seed = (seed * 16807) % 2147483647;
  return seed / 2147483647;
};

const dbPort = await freePort(0);
let database = await startDatabase(folder, dbPort);
const env = environment(folder, database.url, { VELVET_DEMO: '0', VELVET_INBOX: '' });
runTs('web/server/db/migrate.ts', [], env);
const webPort = await freePort(4600);
let web = await startWeb(env, webPort);
const workers = [startWorker(env), startWorker(env)];
let over = false;
after(async () => {
  over = true;
  await Promise.all([stopChild(web.child), ...workers.map((w) => w.stop())]);
  await database.stop();
});

const ask = askerOf(`http://127.0.0.1:${webPort}`);

const kills = {
  web: async () => {
    web.child.kill('SIGKILL');
    await sleep(200 + 600 * random());
    web = await startWeb(env, webPort);
  },
  worker: async () => {
    // it is started again by itself
    try {
      process.kill(workers[Math.floor(2 * random())].pid(), 'SIGKILL');
    } catch {
      // just being started again
    }
  },
  database: async () => {
    process.kill(database.pid, 'SIGKILL');
    await sleep(200 + 800 * random());
    database = await startDatabase(folder, dbPort);
  },
};

test(`${KILLS} kills in mid-work lose nothing and double nothing`, { timeout: 600_000 }, async () => {
  await ask('POST', '/api/session', {
    first: { name: 'Ilse', email: 'ilse@ferry.example', password: 'the tide is high', code: setupCode(env) },
  });
  const wanted = Array.from({ length: FILES }, (_, i) => ({
    name: `night/${String(i).padStart(3, '0')}.bvh`,
    text: take(i),
  }));
  const job = await ask('POST', '/api/v1/jobs/intake', {
    title: 'Under fire',
    files: wanted.map((f) => ({ name: f.name, bytes: f.text.length })),
  });
  assert.equal(job.status, 200);

  const done = { kills: [] };
  const killing = (async () => {
    const order = Array.from({ length: KILLS }, (_, i) => (i % 4 === 0 ? 'database' : i % 4 === 2 ? 'web' : 'worker'));
    for (const what of order) {
      await sleep(300 + 1500 * random());
      await kills[what]();
      done.kills.push(what);
    }
  })();

  // what is there already is described meanwhile; every answer is kept in mind
  const said = new Map();
  const editing = (async () => {
    // on a slow machine the first take may be there only when the last kill has been
    while (done.kills.length < KILLS || said.size === 0) {
      const list = await ask('GET', '/api/v1/items?limit=20&sort=new');
      for (const item of (list.body.items ?? []).slice(0, 3)) {
        const note = `said ${Math.floor(1e9 * random())}`;
        const edit = await ask('PATCH', `/api/v1/items/${item.id}`, { change: { note } });
        if (edit.status === 200) said.set(item.id, note);
      }
      await sleep(150);
    }
  })();

  // files are sent while everything around falls over
  for (const [i, f] of wanted.entries()) {
    const form = new FormData();
    form.append('file', new Blob([f.text]), f.name);
    const sent = await ask('PUT', `/api/v1/jobs/${job.body.id}/files/${i}`, undefined, form);
    assert.equal(sent.status, 200, JSON.stringify(sent.body));
  }
  await Promise.all([killing, editing]);

  let state;
  for (let i = 0; i < 500; i++) {
    state = (await ask('GET', `/api/v1/jobs/${job.body.id}`)).body;
    if (state.state === 'done') break;
    await sleep(500);
  }
  assert.equal(state.state, 'done', JSON.stringify(state.counts));
  assert.equal(state.counts.done, FILES, JSON.stringify(state.counts));

  const db = await createConnection({ uri: env.VELVET_DATABASE });
  const [items] = await db.query(
    'select i.id, i.name, i.note, r.motion_hash from items i join item_versions v on v.id = i.version_id join readings r on r.id = v.reading_id',
  );
  assert.equal(items.length, FILES);
  assert.equal(new Set(items.map((i) => i.name)).size, FILES, 'a file is there twice');
  assert.equal(new Set(items.map((i) => i.motion_hash)).size, FILES, 'two files became one motion');
  const [motions] = await db.query('select packed from motions');
  assert.equal(motions.length, FILES);
  for (const { packed } of motions)
    assert.equal(adler32(packed.subarray(44)), packed.readUInt32LE(40), 'a motion is not what it was');
  for (const [id, note] of said)
    assert.equal(items.find((i) => i.id === id)?.note, note, 'an acknowledged edit is lost');
  const [reports] = await db.query("select count(*) n from intakes where state = 'done'");
  assert.equal(Number(reports[0].n), FILES);
  const [loose] = await db.query(
    'select (select count(*) from item_versions v left join items i on i.id = v.item_id where i.id is null) a, (select count(*) from readings r left join item_versions v on v.reading_id = r.id where v.id is null) b',
  );
  assert.deepEqual([Number(loose[0].a), Number(loose[0].b)], [0, 0], 'something half-written was left behind');
  await db.end();
  assert.equal(over, false);
  assert.ok(said.size > 0, 'nothing was edited');
  console.log(
    `${done.kills.length} kills (${['web', 'worker', 'database'].map((k) => `${k} ${done.kills.filter((x) => x === k).length}`).join(', ')}), ${said.size} acknowledged edits`,
  );
});
