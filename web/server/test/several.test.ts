// Several processes against one database, backup and restore, the watched folder, and the document of the interface.
import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { desc, sql } from 'drizzle-orm';
import { main } from '../../../cli/main';
import { amc, asf } from '../../../motion/test/acclaim';
import { ENDPOINTS } from '../api/all';
import { match } from '../api/endpoint';
import { openApi } from '../api/openapi';
import { Follower } from '../catalogue/follow';
import { LiveCatalogue } from '../catalogue/live';
import { openDatabase } from '../db/client';
import { changes } from '../db/schema';
import { fillLarge } from '../demo/large';
import { takeInbox } from '../jobs/inbox';
import { Worker } from '../jobs/worker';
import { changeItem, setFavourite } from '../services/edits';
import { newGroup, record } from '../services/history';
import { getJob, listParts } from '../services/jobs';
import { bePresent, leave, whoIsHere } from '../services/presence';
import { searchLibrary } from '../services/search';
import { changeTag, listTags } from '../services/tags';
import { takeBytes, testDatabase, type World } from './world';

// plain scripts without types, tested as they are run
const { backup, restore } = (await import('../../../scripts/lib.mjs' as string)) as {
  backup: (url: string, file: string) => Promise<number>;
  restore: (url: string, file: string) => Promise<void>;
};

let w: World;
beforeAll(async () => {
  w = await testDatabase();
});
afterAll(() => w.close());

describe('a second process', () => {
  let other: { db: World['db']; library: LiveCatalogue; close: () => Promise<void> };
  beforeAll(async () => {
    const { db, pool } = openDatabase(w.url, 4);
    const library = new LiveCatalogue(db);
    await library.open();
    other = {
      db,
      library,
      close: () => {
        library.close();
        return pool.end();
      },
    };
  });
  afterAll(() => other.close());
  const seen = async (text: string): Promise<string[]> =>
    (await searchLibrary(other.db, other.library, w.person, { text })).items.map((i) => i.name);

  test('finds what the first one adds, changes, tags and bins, at once', async () => {
    const id = await w.bring(1, 'Fresh take');
    expect(await seen('fresh')).toEqual(['Fresh take']);
    await changeItem(w.db, w.person, id, { name: 'Stale take', tags: ['wet'] });
    expect(await seen('fresh')).toEqual([]);
    expect(await seen('stale tag:wet')).toEqual(['Stale take']);
    const wet = (await listTags(w.db)).find((t) => t.name === 'wet')!;
    await changeTag(w.db, w.person, wet.id, { name: 'soaked' });
    expect(await seen('tag:soaked')).toEqual(['Stale take']);
    await setFavourite(w.db, w.person, id, true);
    expect(await seen('is:favourite')).toEqual(['Stale take']);
    await changeItem(w.db, w.person, id, { binned: true });
    expect(await seen('stale')).toEqual([]);
  });

  test('tells its listeners without being asked', async () => {
    const told = new Promise<void>((resolve) => {
      const stop = other.library.listen((all) => {
        if (!all.some((c) => c.label === 'Added Announced')) return;
        stop();
        resolve();
      });
    });
    await w.bring(2, 'Announced');
    await told;
  });

  test('misses nothing of a transaction that ends late, and tells nothing twice', async () => {
    const follower = new Follower(other.db);
    await follower.start();
    const entry = (subjectId: string) => ({
      subject: 'item' as const,
      subjectId,
      groupId: newGroup(),
      personId: w.personId,
      action: 'edit',
    });
    let late: Promise<void> = Promise.resolve();
    await new Promise<void>((begun) => {
      late = w.db.transaction(async (tx) => {
        await record(tx, [entry('late')]);
        begun();
        await new Promise((r) => setTimeout(r, 300));
      });
    });
    await record(w.db, [entry('early')]);
    expect((await follower.poll()).map((c) => c.subjectId)).toEqual(['early']);
    await late;
    expect((await follower.poll()).map((c) => c.subjectId)).toEqual(['late']);
    expect(await follower.poll()).toEqual([]);
  });

  test('misses nothing where numbers arrive with hundreds of holes in them', async () => {
    const follower = new Follower(other.db);
    await record(w.db, [
      { subject: 'item', subjectId: 'before', groupId: newGroup(), personId: w.personId, action: 'edit' },
    ]);
    await follower.start();
    const [newest] = await w.db.select({ seq: changes.seq }).from(changes).orderBy(desc(changes.seq)).limit(1);
    const write = (offsets: number[]) =>
      w.db.insert(changes).values(
        offsets.map((o) => ({
          seq: newest!.seq + o,
          subject: 'item' as const,
          subjectId: `n${o}`,
          groupId: newGroup(),
          personId: w.personId,
          action: 'edit',
        })),
      );
    const told = async () => (await follower.poll()).map((c) => Number(c.subjectId.slice(1)));
    const odd = Array.from({ length: 300 }, (_, i) => 2 * i + 1);
    await write(odd);
    expect(await told()).toEqual(odd);
    // as another machine's numbers come: some at first, far apart, then the rest
    await write([600, 2, 300]);
    expect(await told()).toEqual([2, 300, 600]);
    const rest = Array.from({ length: 299 }, (_, i) => 2 * i + 2).filter((o) => o !== 2 && o !== 300);
    await write(rest);
    expect(await told()).toEqual(rest);
    await write([604]);
    expect(await told()).toEqual([604]);
    await write([602, 601]);
    expect(await told()).toEqual([601, 602]);
    expect(await told()).toEqual([]);
  });

  test('takes in a library that was filled by the thousand', async () => {
    await fillLarge(w.db, 1500, undefined, 4);
    const all = await searchLibrary(other.db, other.library, w.person, { text: '', facets: true, limit: 1 });
    expect(all.total).toBeGreaterThanOrEqual(1500);
    expect(all.facets!.kind!.reduce((s, k) => s + k.n, 0)).toBe(all.total);
    const some = await searchLibrary(other.db, other.library, w.person, { text: 'rope tag:wet', limit: 500 });
    expect(some.found).toBeGreaterThan(3);
    for (const i of some.items) {
      expect(i.tags).toContain('wet');
      expect(`${i.name} ${i.note} ${i.tags.join(' ')}`.toLowerCase()).toMatch(/rope/);
    }
  });
});

describe('presence', () => {
  test('says who has what open, until they leave or fall silent', async () => {
    const noor = await w.somebody('animator', 'Noor');
    await bePresent(w.db, noor.id, 'client-noor1', 'item-1');
    await bePresent(w.db, noor.id, 'client-noor2', null);
    await bePresent(w.db, noor.id, 'client-noor1', 'item-2', 41);
    expect((await whoIsHere(w.db)).map((p) => [p.name, p.subjectId, p.frame])).toEqual([
      ['Noor', 'item-2', 41],
      ['Noor', null, null],
    ]);
    // a page that shows something without a playhead says so
    await bePresent(w.db, noor.id, 'client-noor1', 'item-2');
    expect((await whoIsHere(w.db))[0]!.frame).toBeNull();
    // nobody takes another one's page away
    await leave(w.db, w.personId, 'client-noor1');
    expect(await whoIsHere(w.db)).toHaveLength(2);
    await leave(w.db, noor.id, 'client-noor2');
    await w.db.execute(sql`update presence set at = now(3) - interval 2 minute`);
    expect(await whoIsHere(w.db)).toEqual([]);
  });
});

describe('the watched folder', () => {
  const folder = mkdtempSync(join(tmpdir(), 'velvet-inbox-'));
  afterAll(() => rmSync(folder, { recursive: true }));

  test('brings in what is put there, once, and again when it was written anew', async () => {
    process.env.VELVET_INBOX = folder;
    mkdirSync(join(folder, 'night'));
    writeFileSync(join(folder, 'night', 'dropped.bvh'), takeBytes(901));
    writeFileSync(join(folder, 'notes.txt'), 'no motion');
    // still being written
    expect(await takeInbox(w.db, folder)).toBeUndefined();
    const past = new Date(Date.now() - 10_000);
    const { utimesSync } = await import('node:fs');
    utimesSync(join(folder, 'night', 'dropped.bvh'), past, past);
    // several workers look at the same moment
    const opened = await Promise.all(Array.from({ length: 4 }, () => takeInbox(w.db, folder)));
    const [job] = opened.flatMap((id) => id ?? []) as [string];
    expect(opened.filter((id) => id !== undefined)).toHaveLength(1);
    expect(await takeInbox(w.db, folder)).toBeUndefined();
    const worker = new Worker(w.db);
    while (await worker.step());
    expect((await getJob(w.db, job)).counts.done).toBe(1);
    expect((await listParts(w.db, job))[0]!.name).toBe('night/dropped.bvh');
    writeFileSync(join(folder, 'night', 'dropped.bvh'), takeBytes(902));
    utimesSync(join(folder, 'night', 'dropped.bvh'), past, new Date(past.getTime() + 1000));
    expect(await takeInbox(w.db, folder)).not.toBeUndefined();
  });
});

describe('what cannot be read in the watched folder', () => {
  const folder = mkdtempSync(join(tmpdir(), 'velvet-inbox-'));
  afterAll(() => rmSync(folder, { recursive: true }));

  test('is refused with a sentence, and keeps nothing else back', async () => {
    process.env.VELVET_INBOX = folder;
    const { utimesSync } = await import('node:fs');
    const past = new Date(Date.now() - 10_000);
    for (const [name, seed] of [
      ['shut.bvh', 911],
      ['open.bvh', 912],
    ] as const) {
      writeFileSync(join(folder, name), takeBytes(seed));
      utimesSync(join(folder, name), past, past);
    }
    const job = await takeInbox(w.db, folder);
    // whoever runs the tests may read every file, but nobody reads a folder like one
    rmSync(join(folder, 'shut.bvh'));
    mkdirSync(join(folder, 'shut.bvh'));
    const worker = new Worker(w.db);
    while (await worker.step());
    const parts = await listParts(w.db, job!);
    expect(Object.fromEntries(parts.map((p) => [p.name, p.state]))).toEqual({
      'shut.bvh': 'refused',
      'open.bvh': 'done',
    });
    expect(parts.find((p) => p.name === 'shut.bvh')!.message).toBe(
      'shut.bvh: the library has no permission to read it. Make it readable for everyone.',
    );
  });
});

describe('a motion in two files in the watched folder', () => {
  const folder = mkdtempSync(join(tmpdir(), 'velvet-inbox-'));
  afterAll(() => rmSync(folder, { recursive: true }));

  test('comes in on its skeleton, which is not brought in again by itself', async () => {
    process.env.VELVET_INBOX = folder;
    mkdirSync(join(folder, 'hall'));
    writeFileSync(join(folder, 'hall', 'walker.asf'), asf());
    const frame = 'root 0 17 0 0 0 0\nlfemur 10 0 0';
    writeFileSync(join(folder, 'hall', 'walker_01.amc'), amc([frame, frame.replace('17', '18')]));
    const { utimesSync } = await import('node:fs');
    const past = new Date(Date.now() - 10_000);
    for (const name of ['walker.asf', 'walker_01.amc']) utimesSync(join(folder, 'hall', name), past, past);
    const job = await takeInbox(w.db, folder);
    const worker = new Worker(w.db);
    while (await worker.step());
    expect((await listParts(w.db, job!)).map((p) => [p.name, p.state, p.message])).toEqual([
      ['hall/walker_01.amc', 'done', ''],
    ]);
    expect(await takeInbox(w.db, folder)).toBeUndefined();
    // one more motion for the skeleton that is there already
    writeFileSync(join(folder, 'hall', 'walker_02.amc'), amc([frame, frame.replace('10', '20')]));
    utimesSync(join(folder, 'hall', 'walker_02.amc'), past, past);
    const next = await takeInbox(w.db, folder);
    while (await worker.step());
    expect((await listParts(w.db, next!)).map((p) => [p.name, p.state])).toEqual([['hall/walker_02.amc', 'done']]);
  });
});

describe('a catalogue whose database fails for a moment', () => {
  test('misses nothing of what was done meanwhile', async () => {
    const { db, pool } = openDatabase(w.url, 2);
    let failing = 0;
    const shaky = new Proxy(db, {
      get: (of, key) =>
        key === 'select' && failing > 0 && failing-- === 1
          ? () => {
              throw new Error('the line was cut');
            }
          : Reflect.get(of, key),
    });
    const library = new LiveCatalogue(shaky as typeof db);
    await library.open();
    const ask = () => searchLibrary(w.db, library, w.person, { text: 'shaky' });
    // the first question of a look reads what was done, those after it read what it was done to
    for (const at of [1, 2, 3]) {
      await w.bring(600 + at, `Shaky ${at}`);
      failing = at;
      await ask().catch(() => undefined);
      failing = 0;
      expect((await ask()).found).toBe(at);
    }
    library.close();
    await pool.end();
  });
});

describe('backup and restore', () => {
  test('give the same library back, byte for byte, and nothing that came after', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'velvet-backup-'));
    const file = join(folder, 'library.sql.gz');
    const sums = async (): Promise<string> => {
      const [tables] = (await w.db.execute(
        sql`select table_name n from information_schema.tables where table_schema = database() order by 1`,
      )) as unknown as [{ n: string }[]];
      const out: string[] = [];
      for (const { n } of tables) {
        const [rows] = (await w.db.execute(sql.raw(`checksum table \`${n}\` extended`))) as unknown as [
          { Checksum: number }[],
        ];
        out.push(`${n} ${rows[0]!.Checksum}`);
      }
      return out.join('\n');
    };
    const before = await sums();
    expect(await backup(w.url, file)).toBeGreaterThan(1000);
    await w.bring(77, 'Came after');
    await w.db.execute(sql`create table stray (id int primary key)`);
    expect(await sums()).not.toBe(before);
    await restore(w.url, file);
    expect(await sums()).toBe(before);
    rmSync(folder, { recursive: true });
    await record(w.db, [
      { subject: 'item', subjectId: '-', groupId: newGroup(), personId: w.personId, action: 'reload' },
    ]);
    expect((await searchLibrary(w.db, w.library, w.person, { text: '"came after"' })).found).toBe(0);
  });

  test('a file that is no backup is refused', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'velvet-backup-'));
    writeFileSync(join(folder, 'x.gz'), 'nothing of a backup');
    await expect(restore(w.url.replace(/\/[^/]+$/, '/velvet_test_nowhere'), join(folder, 'x.gz'))).rejects.toThrow();
    rmSync(folder, { recursive: true });
  });
});

describe('the interface for programs', () => {
  const document = openApi() as {
    paths: Record<string, Record<string, { operationId: string; parameters?: { name: string; in: string }[] }>>;
    components: { schemas: object };
  };

  test('every endpoint stands in the document once, with what it takes', () => {
    const ids = Object.values(document.paths).flatMap((p) => Object.values(p).map((o) => o.operationId));
    expect(ids).toHaveLength(ENDPOINTS.length);
    expect(new Set(ids).size).toBe(ids.length);
    for (const e of ENDPOINTS) {
      const o = document.paths[e.path]![e.method.toLowerCase()]!;
      const braces = [...e.path.matchAll(/\{(\w+)\}/g)].map((m) => m[1]);
      expect([e.path, (o.parameters ?? []).filter((p) => p.in === 'path').map((p) => p.name)]).toEqual([
        e.path,
        braces,
      ]);
    }
  });

  test('every reference leads somewhere', () => {
    const names = new Set(Object.keys(document.components.schemas));
    for (const [, name] of JSON.stringify(document).matchAll(/"#\/components\/schemas\/(\w+)"/g))
      expect(names).toContain(name);
    expect(JSON.stringify(document)).not.toContain('$defs');
  });

  test('addresses lead to their endpoint; fixed ones come before those with braces', () => {
    for (const e of ENDPOINTS) {
      const segments = e.path
        .split('/')
        .filter(Boolean)
        .map((s) => (s.startsWith('{') ? (s === '{what}' ? 'pause' : 'x1') : s));
      const found = match(ENDPOINTS, e.method, segments);
      expect([e.method, e.path, typeof found === 'object' && found.endpoint.path]).toEqual([e.method, e.path, e.path]);
    }
    expect(match(ENDPOINTS, 'DELETE', ['items'])).toBe('method');
    expect(match(ENDPOINTS, 'GET', ['nothing'])).toBeUndefined();
  });

  test('whoever changes something needs the right to', () => {
    for (const e of ENDPOINTS.filter((x) => x.method !== 'GET'))
      if (e.need === 'read')
        expect([
          '/me',
          '/me/password',
          '/me/second-factor',
          '/me/sessions',
          '/me/sessions/{session}',
          '/tokens',
          '/tokens/{id}',
          '/searches',
          '/searches/{id}',
          '/items/{id}/favourite',
          '/bin/uses',
          // writes a file and nothing in the library; what it takes is too long for an address
          '/items/{id}/export',
          '/cast/{id}/export',
        ]).toContain(e.path);
  });
});

describe('velvet-reel library', () => {
  let server: Server;
  let url = '';
  const asked: { method: string; url: string; auth: string | undefined; body: string }[] = [];
  beforeAll(async () => {
    server = createServer((request, response) => {
      let body = '';
      request.on('data', (x) => {
        body += x;
      });
      request.on('end', () => {
        asked.push({ method: request.method!, url: request.url!, auth: request.headers.authorization, body });
        const items = [{ id: 'abc', name: 'Haul', kind: 'take', tags: ['rope'], facts: { frameCount: 40, fps: 30 } }];
        const send = (status: number, answer: unknown): void => {
          response.writeHead(status, { 'content-type': 'application/json' });
          response.end(JSON.stringify(answer));
        };
        if (request.url!.startsWith('/api/v1/items?')) return send(200, { items, found: 1, total: 9 });
        if (request.url!.includes('/export')) {
          response.writeHead(200, { 'content-disposition': "attachment; filename*=UTF-8''..%2F..%2Fevil.bvh" });
          return response.end('HIERARCHY');
        }
        if (request.url === '/api/v1/items/gone') return send(404, { message: 'The item is not there any more.' });
        if (request.url === '/api/v1/items/abc')
          return send(200, request.method === 'PATCH' ? { item: items[0] } : items[0]);
        if (request.url === '/api/v1/intake')
          return send(200, { state: 'done', message: '', result: { items: [{ id: 'n1', name: 'take' }], cast: [] } });
        return send(200, []);
      });
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', () => resolve()));
    url = `http://127.0.0.1:${(server.address() as { port: number }).port}`;
  });
  afterAll(() => new Promise((resolve) => server.close(resolve)));
  const run = async (...args: string[]): Promise<{ code: number; out: string; err: string }> => {
    const [out, err]: [string[], string[]] = [[], []];
    const code = await main(
      ['library', ...args, '--url', url, '--token', 'vr_key'],
      (t) => out.push(t),
      (t) => err.push(t),
    );
    return { code, out: out.join('\n'), err: err.join('\n') };
  };

  test('finds with the words of the search field, in the name of its key', async () => {
    const { code, out } = await run('find', 'rope', 'kind:take', '--limit', '5');
    expect(code).toBe(0);
    expect(out).toMatch(/abc {2}take .*Haul {2}\[rope\]\n1 of 1 found, 9 in all/);
    expect(asked.at(-1)).toMatchObject({
      method: 'GET',
      url: '/api/v1/items?q=rope+kind%3Atake&limit=5',
      auth: 'Bearer vr_key',
    });
  });

  test('adds files, tags, and writes exports into this folder, whatever name comes back', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'velvet-cli-lib-'));
    writeFileSync(join(folder, 'take.bvh'), 'HIERARCHY');
    expect((await run('add', join(folder, 'take.bvh'))).out).toBe('n1  take');
    expect((await run('tag', 'abc', 'wet', 'night')).code).toBe(0);
    expect(JSON.parse(asked.at(-1)!.body)).toEqual({ change: { addTags: ['wet', 'night'] } });
    const out = join(folder, 'out.bvh');
    expect((await run('export', 'abc', '--format', 'bvh', '--out', out)).out).toBe(`written ${out}`);
    const { stdout } = spawnSync('cat', [out], { encoding: 'utf8' });
    expect(stdout).toBe('HIERARCHY');
    rmSync(folder, { recursive: true });
  });

  test('says what the library said, and what is missing', async () => {
    expect(await run('get', 'gone')).toMatchObject({ code: 1, err: 'velvet-reel: The item is not there any more.' });
    expect((await run('dance')).code).toBe(2);
    expect((await run('tag', 'abc')).code).toBe(2);
    const errors: string[] = [];
    expect(
      await main(
        ['library', 'jobs', '--url', url],
        () => undefined,
        (t) => errors.push(t),
      ),
    ).toBe(2);
    expect(errors[0]).toMatch(/it needs a token/);
    const away: string[] = [];
    expect(
      await main(
        ['library', 'jobs', '--url', 'http://127.0.0.1:1', '--token', 'x'],
        () => undefined,
        (t) => away.push(t),
      ),
    ).toBe(1);
    expect(away[0]).toMatch(/cannot be reached/);
  });
});

test('the feed keeps what it needs to be read quickly', async () => {
  const rows = await w.db.select({ seq: changes.seq }).from(changes).limit(1);
  expect(rows).toHaveLength(1);
  const [plan] = (await w.db.execute(
    sql`explain select seq from changes where at > now(3) - interval 60 second`,
  )) as unknown as [{ type: string; key: string | null }[]];
  expect(plan[0]!.key).toBe('changes_at');
});
