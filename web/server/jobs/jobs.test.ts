import { and, eq, inArray, sql } from 'drizzle-orm';
import { zipSync } from 'fflate';
import { FIT_DEFAULTS } from '../../wishes/wishes';
import { databaseAway } from '../db/away';
import { jobParts, jobs, motions, uploads } from '../db/schema';
import { Refusal } from '../errors';
import { sha256 } from '../ids';
import { addCast } from '../services/cast';
import { listFolders, pathIn } from '../services/folders';
import { activity } from '../services/history';
import { listIntakes } from '../services/intake';
import { giveUpMissing, missingParts, newIntake, openIntake, receivePart } from '../services/intake-jobs';
import { getItem } from '../services/items';
import { addJob, endJobIfDone, getJob, listParts, MOST_OPEN, steerJob, unendedJobs } from '../services/jobs';
import { keepRig } from '../services/rigs';
import { searchLibrary } from '../services/search';
import { readSkeleton, takeBytes, testDatabase, type World } from '../test/world';
import { readInThread, stoppable } from '../threads/pool';
import { unpack } from './archive';
import { fittedName } from './fit-part';
import { folderOf } from './intake-part';
import { endPart, expireWaiting, LEASE_S, layDown, MOST_ATTEMPTS, stillAlive, sweepUploads, takePart } from './queue';
import { Worker } from './worker';

let w: World;
beforeAll(async () => {
  w = await testDatabase();
});
afterAll(() => w.close());

const text = (s: string): Uint8Array => new TextEncoder().encode(s);
const open = (files: string[], more = {}) =>
  openIntake(
    w.db,
    w.person,
    newIntake.parse({ title: 'Some files', files: files.map((name) => ({ name, bytes: 1 })), ...more }),
  );
const send = (id: string, number: number, bytes: Uint8Array) =>
  receivePart(w.db, w.person, id, number, { name: 'x', bytes });
/** Works until there is nothing left to do. */
const work = async (name = 'w1'): Promise<number> => {
  const worker = new Worker(w.db, () => undefined, name);
  let n = 0;
  while (await worker.step()) n++;
  return n;
};
const expire = (partId: string) =>
  w.db.update(jobParts).set({ leaseUntil: sql`now(3) - interval 1 second` }).where(eq(jobParts.id, partId));

describe('an intake of many files', () => {
  test('keeps folders, tells refused files with reasons, and shares skeletons', async () => {
    const { id } = await open(['day one/a.bvh', 'day one/deep/b.bvh', 'day two/broken.bvh'], { folder: 'Capture' });
    expect((await getJob(w.db, id)).counts).toMatchObject({ waiting: 3 });
    await send(id, 0, takeBytes(1));
    await send(id, 1, takeBytes(2));
    await send(id, 2, text('HIERARCHY\nROOT'));
    expect(await work()).toBe(3);
    const job = await getJob(w.db, id);
    expect(job).toMatchObject({ state: 'done', counts: { done: 2, refused: 1, waiting: 0, ready: 0, running: 0 } });
    const parts = await listParts(w.db, id);
    expect(parts[2]!.message).toMatch(/broken\.bvh.*line/);
    const made = parts.slice(0, 2).map((p) => (p.result as { items: { id: string }[] }).items[0]!.id);
    const items = await Promise.all(made.map((i) => getItem(w.db, i)));
    expect(await Promise.all(items.map(async (i) => pathIn(await listFolders(w.db), i.folderId)))).toEqual([
      'Capture / day one',
      'Capture / day one / deep',
    ]);
    expect(items[0]!.rigId).toBe(items[1]!.rigId);
    expect((await listIntakes(w.db, id)).map((r) => r.state).sort()).toEqual(['done', 'done', 'refused']);
    // what a job brings in is one entry of the activity
    expect((await activity(w.db, {})).find((a) => a.groupId === id)).toMatchObject({
      label: 'Added 2 items',
      count: 2,
    });
    // the bytes on their way are swept out; those of the refused one wait for another try
    expect((await w.db.select({ h: uploads.hash }).from(uploads)).map((u) => u.h)).toEqual([
      sha256(text('HIERARCHY\nROOT')),
    ]);
  });

  test('a file is recognised that came in before; told to, it comes in again', async () => {
    const bytes = takeBytes(11);
    const first = await open(['first.bvh']);
    await send(first.id, 0, bytes);
    await work();
    const again = await open(['second name.bvh']);
    await send(again.id, 0, bytes);
    await work();
    const [part] = await listParts(w.db, again.id);
    expect(part).toMatchObject({ state: 'done', result: { same: true } });
    expect(part!.message).toMatch(/in the library, as first/);
    const forced = await open(['third name.bvh'], { again: true });
    await send(forced.id, 0, bytes);
    await work();
    expect((await searchLibrary(w.db, w.library, w.person, { text: '"third name"' })).found).toBe(1);
  });

  test('sending twice does nothing more; only whoever opened it may send', async () => {
    const { id } = await open(['a.bvh', 'b.bvh']);
    expect(await send(id, 0, takeBytes(21))).toEqual({ state: 'ready' });
    expect(await send(id, 0, text('something else'))).toEqual({ state: 'ready' });
    expect((await missingParts(w.db, id)).map((m) => m.name)).toEqual(['b.bvh']);
    const noor = await w.somebody('animator');
    await expect(receivePart(w.db, noor, id, 1, { name: 'x', bytes: text('x') })).rejects.toMatchObject({
      status: 403,
    });
    await expect(send(id, 9, text('x'))).rejects.toMatchObject({ status: 404 });
    await work();
    expect(await getJob(w.db, id)).toMatchObject({ state: 'queued', counts: { done: 1, waiting: 1 } });
    await giveUpMissing(w.db, w.person, id);
    await endJobIfDone(w.db, id);
    expect(await getJob(w.db, id)).toMatchObject({ state: 'done', counts: { done: 1, cancelled: 1 } });
  });

  test('paused it waits, resumed it goes on, cancelled it ends with what was done kept', async () => {
    const { id } = await open(['a.bvh', 'b.bvh', 'c.bvh']);
    for (const n of [0, 1, 2]) await send(id, n, takeBytes(30 + n));
    await steerJob(w.db, w.person, id, 'pause');
    expect(await work()).toBe(0);
    await steerJob(w.db, w.person, id, 'resume');
    const worker = new Worker(w.db);
    await worker.step();
    await steerJob(w.db, w.person, id, 'cancel');
    expect(await work()).toBe(0);
    expect(await getJob(w.db, id)).toMatchObject({ state: 'cancelled', counts: { done: 1, cancelled: 2 } });
    const teo = await w.somebody('animator', 'Not the owner');
    await expect(steerJob(w.db, teo, id, 'cancel')).rejects.toMatchObject({ status: 403 });
  });

  test('what was refused is tried again', async () => {
    const { id } = await open(['late.bvh']);
    await send(id, 0, text('no motion at all'));
    await work();
    expect((await getJob(w.db, id)).counts.refused).toBe(1);
    await steerJob(w.db, w.person, id, 'retry');
    expect((await getJob(w.db, id)).counts.ready).toBe(1);
    await work();
    expect(await getJob(w.db, id)).toMatchObject({ state: 'done', counts: { refused: 1 } });
  });

  test('names that lead out of their folder are not taken', () => {
    const bad = newIntake.safeParse({ title: 'x', files: [{ name: '../../etc/passwd', bytes: 1 }] });
    expect(bad.success).toBe(false);
    expect(folderOf({ folder: 'In' }, 'a/b/c.bvh')).toBe('In/a/b');
    expect(folderOf({ folder: '', keepFolders: false }, 'a/b/c.bvh')).toBe('');
    expect(folderOf({}, 'c.bvh')).toBe('');
  });
});

describe('archives', () => {
  test('become parts of the same job, with their folders; what is no motion stays out', async () => {
    const zip = zipSync({
      'x/one.bvh': takeBytes(41),
      'x/two.bvh': takeBytes(42),
      'x/readme.txt': text('hello'),
      '__MACOSX/x/one.bvh': text('noise'),
      '.DS_Store': text('noise'),
    });
    const { id } = await open(['night.zip']);
    await send(id, 0, zip);
    await work();
    const job = await getJob(w.db, id);
    expect(job).toMatchObject({ state: 'done', counts: { done: 3, refused: 0 } });
    expect((await listParts(w.db, id)).map((p) => p.name)).toEqual(['night.zip', 'night/x/one.bvh', 'night/x/two.bvh']);
    expect((await listFolders(w.db)).some((f) => f.name === 'night')).toBe(true);
  });

  test.each([
    ['nothing of an archive', text('this is no zip'), 'bad-archive|empty'],
    ['a cut one', zipSync({ 'a.bvh': takeBytes(43) }).slice(0, 300), 'bad-archive|empty'],
    ['one that leads out of its folder', zipSync({ '../../a.bvh': text('x') }), 'bad-archive'],
    ['an empty one', zipSync({}), 'empty|bad-archive'],
    ['one within another', zipSync({ 'x/inner.zip': zipSync({ 'a.bvh': text('x') }) }), 'nested-archive'],
    ['one nested without end', zipSync({ [`${'x/'.repeat(60)}a.bvh`]: text('x') }), 'bad-archive'],
    ['one that bursts', zipSync({ 'a.bvh': new Uint8Array(70 * 2 ** 20) }, { level: 9 }), 'too-large'],
  ])('%s is refused', async (_, bytes, code) => {
    const files: string[] = [];
    await expect(
      unpack(bytes, 'x.zip', async (f) => {
        files.push(f.name);
      }),
    ).rejects.toMatchObject({ code: expect.stringMatching(new RegExp(code)) });
    expect(files).toEqual([]);
  });
});

describe('workers', () => {
  test('share a job without doing anything twice', async () => {
    const count = 16;
    const { id } = await open(Array.from({ length: count }, (_, i) => `many/${i}.bvh`));
    for (let i = 0; i < count; i++) await send(id, i, takeBytes(100 + i));
    const done = await Promise.all(['a', 'b', 'c'].map((name) => work(name)));
    expect(done.reduce((a, b) => a + b, 0)).toBe(count);
    expect(await getJob(w.db, id)).toMatchObject({ state: 'done', counts: { done: count } });
    const reports = await listIntakes(w.db, id);
    expect(new Set(reports.map((r) => r.fileName)).size).toBe(count);
    expect(reports).toHaveLength(count);
  });

  test('look whether a job is done without waiting for whoever is just taking a part of it', async () => {
    const { id } = await open(['taken.bvh']);
    await send(id, 0, takeBytes(90));
    await w.db.transaction(async (tx) => {
      await tx.update(jobParts).set({ state: 'running' }).where(eq(jobParts.jobId, id));
      expect(await endJobIfDone(w.db, id)).toBe(false);
      // and who takes it is not kept from the job either
      await tx.update(jobs).set({ servedAt: new Date() }).where(eq(jobs.id, id));
      await tx.update(jobParts).set({ state: 'ready' }).where(eq(jobParts.jobId, id));
    });
    expect(await work()).toBe(1);
  });

  test('a part whose worker died is taken over, and the dead one writes nothing any more', async () => {
    const { id } = await open(['orphan.bvh']);
    await send(id, 0, takeBytes(61));
    const dead = (await takePart(w.db, 'dead'))!;
    // while its lease runs nobody else gets it
    expect(await takePart(w.db, 'other')).toBeUndefined();
    expect(await stillAlive(w.db, dead.part)).toBe(true);
    await expire(dead.part.id);
    expect(await work('heir')).toBe(1);
    expect(await stillAlive(w.db, dead.part)).toBe(false);
    let wrote = false;
    const ended = await endPart(w.db, dead.part, async () => {
      wrote = true;
      return { state: 'done' };
    });
    expect([ended, wrote]).toEqual([false, false]);
    expect(await listIntakes(w.db, id)).toHaveLength(1);
    expect((await getJob(w.db, id)).state).toBe('done');
  });

  test('a part that breaks off again and again is given up, and the job ends', async () => {
    const { id } = await open(['poison.bvh']);
    await send(id, 0, takeBytes(62));
    for (let i = 0; i < MOST_ATTEMPTS; i++) await expire((await takePart(w.db, `victim ${i}`))!.part.id);
    await work();
    const [part] = await listParts(w.db, id);
    expect(part).toMatchObject({ state: 'refused' });
    expect(part!.message).toMatch(/failed 5 times/);
    expect((await getJob(w.db, id)).state).toBe('done');
  });

  test('a worker that outlives the database lays its part down at once, and no attempt is counted', async () => {
    const { id } = await open(['outage.bvh']);
    await send(id, 0, takeBytes(66));
    // the database of this worker goes away just when the part is to be ended
    let away = true;
    const shaky = new Proxy(w.db, {
      get: (db, key) => {
        if (key === 'transaction' && away && taken)
          return async () => {
            throw Object.assign(new Error('query failed'), {
              cause: Object.assign(new Error('gone'), { code: 'ECONNRESET' }),
            });
          };
        const value = Reflect.get(db, key);
        if (key !== 'transaction') return typeof value === 'function' ? value.bind(db) : value;
        return async (...args: Parameters<typeof db.transaction>) => {
          const result = await db.transaction(...args);
          taken = true;
          return result;
        };
      },
    });
    let taken = false;
    const worker = new Worker(shaky);
    await expect(worker.step()).rejects.toThrow('query failed');
    const row = async () => (await w.db.select().from(jobParts).where(eq(jobParts.jobId, id)))[0]!;
    expect(await row()).toMatchObject({ state: 'running', attempts: 1 });
    away = false;
    while (await worker.step());
    expect(await row()).toMatchObject({ state: 'done', attempts: 1 });
    expect((await getJob(w.db, id)).state).toBe('done');
  });

  test('jobs take turns, a new one first: a single file does not wait behind many', async () => {
    const many = await open(Array.from({ length: 6 }, (_, i) => `queue/${i}.bvh`));
    for (let i = 0; i < 6; i++) await send(many.id, i, takeBytes(700 + i));
    const order: string[] = [];
    const next = async (): Promise<void> => {
      const { job, part } = (await takePart(w.db, 'turns'))!;
      order.push(job.id === many.id ? 'many' : 'one');
      await endPart(w.db, part, async () => ({ state: 'done' }));
    };
    await next();
    await next();
    const one = await open(['single 1.bvh', 'single 2.bvh']);
    for (let i = 0; i < 2; i++) await send(one.id, i, takeBytes(710 + i));
    for (let i = 0; i < 4; i++) await next();
    expect(order).toEqual(['many', 'many', 'one', 'many', 'one', 'many']);
    await work();
  });

  test('people take turns: one with three jobs gets no more than one with a single one', async () => {
    const other = await w.somebody('animator');
    const part = { name: 'x', state: 'ready' as const, payload: {} };
    const order = { settings: FIT_DEFAULTS };
    for (const title of ['a', 'b', 'c'])
      await addJob(w.db, w.person, { kind: 'fit', title, order, parts: [part, part] });
    await addJob(w.db, other, { kind: 'fit', title: 'theirs', order, parts: [part, part, part] });
    const served: string[] = [];
    for (let i = 0; i < 6; i++) {
      const { job, part: taken } = (await takePart(w.db, 'w'))!;
      served.push(job.title);
      await endPart(w.db, taken, async () => ({ state: 'done' }));
      await endJobIfDone(w.db, job.id);
    }
    expect(served.filter((t) => t === 'theirs')).toHaveLength(3);
    expect(new Set(served.slice(0, 2)).has('theirs')).toBe(true);
    while (await takePart(w.db, 'w').then((t) => t && endPart(w.db, t.part, async () => ({ state: 'done' }))));
    for (const id of await unendedJobs(w.db)) await endJobIfDone(w.db, id);
  });

  test('uploads that were abandoned stop nothing, and are given up after a day with what was sent of them', async () => {
    const ids: string[] = [];
    for (let i = 0; i < MOST_OPEN; i++) ids.push((await open(['never.bvh'])).id);
    await expect(open(['one more.bvh'])).rejects.toMatchObject({ status: 429, code: 'too-many-jobs' });
    const other = await w.somebody('animator');
    const theirs = await openIntake(w.db, other, newIntake.parse({ title: 'x', files: [{ name: 'a.bvh', bytes: 1 }] }));
    await receivePart(w.db, other, theirs.id, 0, { name: 'a', bytes: takeBytes(91) });
    expect(await work()).toBe(1);
    expect((await getJob(w.db, theirs.id)).state).toBe('done');
    expect(await expireWaiting(w.db)).toBe(0);
    const past = sql`now(3) - interval 25 hour`;
    await w.db
      .update(jobs)
      .set({ createdAt: past as never })
      .where(eq(jobs.personId, w.personId));
    expect(await expireWaiting(w.db)).toBe(MOST_OPEN);
    for (const id of await unendedJobs(w.db)) await endJobIfDone(w.db, id);
    expect((await getJob(w.db, ids[0]!)).state).toBe('done');
  });

  test('bytes for a part that does not wait are not stored; those that nobody needs go, others stay', async () => {
    const { id } = await open(['a.bvh', 'b.bvh']);
    const [bytes, more] = [takeBytes(92), takeBytes(93)];
    await send(id, 0, bytes);
    expect(await send(id, 0, more)).toEqual({ state: 'ready' });
    const stored = async () => (await w.db.select({ hash: uploads.hash }).from(uploads)).map((u) => u.hash);
    expect(await stored()).toContain(sha256(bytes));
    expect(await stored()).not.toContain(sha256(more));
    await expect(send(id, 7, more)).rejects.toMatchObject({ status: 404 });
    await w.db.update(uploads).set({ createdAt: sql`now(3) - interval 2 hour` as never });
    await sweepUploads(w.db);
    expect(await stored()).toContain(sha256(bytes));
    // what was refused can be tried again, for a week
    const refused = (daysAgo: number) =>
      w.db
        .update(jobParts)
        .set({ state: 'refused', endedAt: sql`now(3) - interval ${sql.raw(String(daysAgo))} day` as never })
        .where(and(eq(jobParts.jobId, id), eq(jobParts.number, 0)));
    await refused(1);
    await sweepUploads(w.db);
    expect(await stored()).toContain(sha256(bytes));
    await refused(8);
    await sweepUploads(w.db);
    expect(await stored()).not.toContain(sha256(bytes));
    await send(id, 1, bytes);
    await w.db.update(uploads).set({ createdAt: sql`now(3) - interval 2 hour` as never });
    await steerJob(w.db, w.person, id, 'cancel');
    await sweepUploads(w.db);
    expect(await stored()).not.toContain(sha256(bytes));
  });

  test('work in a thread is broken off where it is, and the threads go on with other things', async () => {
    const long = takeBytes(720, 6000);
    const stop = new AbortController();
    const broken = stoppable(stop.signal, () => readInThread(long, 'long.bvh'));
    stop.abort();
    await expect(broken).rejects.toMatchObject({ name: 'AbortError' });
    expect((await readInThread(takeBytes(721), 'short.bvh')).clips).toHaveLength(1);
  });

  test('a part that is cancelled in mid-work is let go, and is nobody’s fault', async () => {
    const { id } = await open(['cancelled.bvh']);
    await send(id, 0, takeBytes(722, 20_000));
    const worker = new Worker(w.db);
    const working = worker.step();
    while ((await listParts(w.db, id))[0]!.state !== 'running') await new Promise((r) => setTimeout(r, 5));
    await steerJob(w.db, w.person, id, 'cancel');
    expect(await working).toBe(true);
    expect((await listParts(w.db, id))[0]).toMatchObject({ state: 'cancelled', message: '' });
    expect(await listIntakes(w.db, id)).toEqual([]);
  });

  test('what is laid down late does not touch what another has taken over', async () => {
    const { id } = await open(['late.bvh']);
    await send(id, 0, takeBytes(67));
    const first = (await takePart(w.db, 'slow'))!;
    await expire(first.part.id);
    const second = (await takePart(w.db, 'quick'))!;
    await layDown(w.db, first.part, true);
    const [row] = await w.db.select().from(jobParts).where(eq(jobParts.jobId, id));
    expect(row).toMatchObject({ state: 'running', worker: 'quick', attempts: 2 });
    await layDown(w.db, second.part, false);
    expect((await takePart(w.db, 'third'))!.part).toMatchObject({ id: first.part.id, attempts: 3 });
    await expire(first.part.id);
    await work();
  });

  test('a job whose worker died between the last part and the end is ended by the next that is idle', async () => {
    const { id } = await open(['last.bvh']);
    await send(id, 0, takeBytes(68));
    const { part } = (await takePart(w.db, 'dies'))!;
    await endPart(w.db, part, async () => ({ state: 'done' }));
    expect((await getJob(w.db, id)).state).toBe('queued');
    expect(await unendedJobs(w.db)).toEqual([id]);
    await work();
    expect((await getJob(w.db, id)).state).toBe('done');
    const hash = part.payload.hash as string;
    expect(await w.db.select({ h: uploads.hash }).from(uploads).where(eq(uploads.hash, hash))).toEqual([]);
  });

  test.each([
    ['a refused connection', { code: 'ECONNREFUSED' }, true],
    ['one lost deep within', { cause: { cause: { code: 'PROTOCOL_CONNECTION_LOST' } } }, true],
    ['a doubled key', { code: 'ER_DUP_ENTRY' }, false],
    ['a fault of our own', new TypeError('no'), false],
    ['nothing known', undefined, false],
  ])('%s tells whether the database is away', (_, error, away) => {
    expect(databaseAway(error)).toBe(away);
  });

  test('what a part writes and its end come together or not at all', async () => {
    const { id } = await open(['half.bvh']);
    await send(id, 0, takeBytes(63));
    const { part } = (await takePart(w.db, 'w'))!;
    const before = await w.db.select({ h: motions.hash }).from(motions);
    await expect(
      endPart(w.db, part, async (tx) => {
        await tx.insert(motions).values({ hash: 'f'.repeat(64), frameCount: 1, fps: 1, packed: text('x') });
        throw new Error('the database went away');
      }),
    ).rejects.toThrow('went away');
    expect(await w.db.select({ h: motions.hash }).from(motions)).toHaveLength(before.length);
    const [row] = await w.db
      .select()
      .from(jobParts)
      .where(and(eq(jobParts.jobId, id), eq(jobParts.number, 0)));
    expect(row!.state).toBe('running');
    await expire(part.id);
    await work();
    expect((await getJob(w.db, id)).counts.done).toBe(1);
  });

  test('of two parts that end at once the later one sees what the other has written', async () => {
    const { id } = await open(['one.bvh', 'other.bvh']);
    await send(id, 0, takeBytes(64));
    await send(id, 1, takeBytes(65));
    const [one, other] = [(await takePart(w.db, 'a'))!.part, (await takePart(w.db, 'b'))!.part];
    // what each of them leaves behind, and looks for as the last thing it does
    const left = { one: 'd'.repeat(64), other: 'e'.repeat(64) };
    let begun: () => void = () => undefined;
    const bothBegun = new Promise<void>((resolve) => {
      let n = 0;
      begun = () => ++n === 2 && resolve();
    });
    const seen: number[] = [];
    const end = (part: typeof one, own: string) =>
      endPart(w.db, part, async (tx) => {
        const both = inArray(motions.hash, [left.one, left.other]);
        await tx.select({ h: motions.hash }).from(motions).where(both);
        begun();
        await bothBegun;
        await tx.insert(motions).values({ hash: own, frameCount: 1, fps: 1, packed: text('x') });
        await tx.select({ id: jobs.id }).from(jobs).where(eq(jobs.id, id)).for('update');
        seen.push((await tx.select({ h: motions.hash }).from(motions).where(both)).length);
        return { state: 'done' };
      });
    await Promise.all([end(one, left.one), end(other, left.other)]);
    expect(seen).toEqual([1, 2]);
  });

  test('a lease is long enough for four signs of life', () => {
    expect(LEASE_S).toBeGreaterThanOrEqual(20);
  });

  test('a job ends once, however often that is asked', async () => {
    const { id } = await addJob(w.db, w.person, {
      kind: 'intake',
      title: 'Empty soon',
      order: {},
      parts: [{ name: 'x', state: 'waiting', payload: {} }],
    });
    expect(await endJobIfDone(w.db, id)).toBe(false);
    await giveUpMissing(w.db, w.person, id);
    const ends = await Promise.all([1, 2, 3].map(() => endJobIfDone(w.db, id)));
    expect(ends.filter(Boolean)).toHaveLength(1);
    await expect(addJob(w.db, w.person, { kind: 'intake', title: 'x', order: {}, parts: [] })).rejects.toBeInstanceOf(
      Refusal,
    );
  });
});

describe('fittings by the dozen', () => {
  test('names follow a rule', () => {
    expect(fittedName('{item} on {character}', 'Haul', 'Winch', 0)).toBe('Haul on Winch');
    expect(fittedName('{character} {n}: {item}', 'Haul', 'Winch', 4)).toBe('Winch 5: Haul');
    expect(fittedName('  ', 'Haul', 'Winch', 0)).toBe('Haul on Winch');
  });

  test('every item lands on the character with a report, made for it and derived from its source', async () => {
    const read = await readSkeleton(0.8);
    const rig = await keepRig(w.db, read);
    const member = await addCast(w.db, {
      name: 'Small one',
      rigId: rig.id,
      heightM: read.heightM,
      figure: null,
      personId: w.personId,
    });
    const ids = [await w.bring(71, 'Fit me a'), await w.bring(72, 'Fit me b')];
    const { id } = await addJob(w.db, w.person, {
      kind: 'fit',
      title: 'Two fittings',
      order: { settings: FIT_DEFAULTS, nameRule: '{item} for {character}', folder: 'Fitted' },
      parts: [
        ...ids.map((itemId) => ({ name: itemId, state: 'ready' as const, payload: { itemId, castId: member.id } })),
        { name: 'gone', state: 'ready' as const, payload: { itemId: 'nobody', castId: member.id } },
      ],
    });
    await work();
    expect(await getJob(w.db, id)).toMatchObject({ state: 'done', counts: { done: 2, refused: 1 } });
    const [part] = await listParts(w.db, id);
    const result = part!.result as { items: { id: string }[]; report: { slipCm: number; troubles: number } };
    const made = await getItem(w.db, result.items[0]!.id);
    expect(made).toMatchObject({
      name: 'Fit me a for Small one',
      madeFor: member.id,
      derivedFrom: ids[0],
      rigId: rig.id,
    });
    expect(pathIn(await listFolders(w.db), made.folderId)).toBe('Fitted');
    expect(Number.isFinite(result.report.slipCm)).toBe(true);
  });
});

test('everything that was started has ended', async () => {
  const open = await w.db.select({ id: jobs.id, title: jobs.title }).from(jobs).where(eq(jobs.state, 'queued'));
  expect(open).toEqual([]);
});
