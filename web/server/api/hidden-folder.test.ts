import { eq } from 'drizzle-orm';
import { NextRequest } from 'next/server';
import type { Role } from '../../contract';
import { addPerson } from '../auth/accounts';
import { makeToken } from '../auth/tokens';
import { intakes, items, itemVersions, readings } from '../db/schema';
import { changeItem } from '../services/edits';
import { listFolders } from '../services/folders';
import { hiddenFrom } from '../services/hidden';
import { knownFile } from '../services/intake';
import { giveRight, restrictFolder } from '../services/rights';
import { testDatabase, type World } from '../test/world';
import { ENDPOINTS } from './all';
import { serve } from './endpoint';

let w: World;
const kept = globalThis as { velvetDatabase?: unknown; velvetCatalogue?: unknown };
const who = {} as Record<'viewer' | 'trusted' | 'librarian', { id: string; token: string }>;
let folder: string;
let inner: string;
const secret = { item: '', deep: '', open: '', version: '', reading: '', motion: '', sharedMotion: '' };

beforeAll(async () => {
  w = await testDatabase();
  kept.velvetDatabase = { db: w.db };
  kept.velvetCatalogue = w.library;
  for (const [name, role] of [
    ['viewer', 'animator'],
    ['trusted', 'animator'],
    ['librarian', 'librarian'],
  ] as [keyof typeof who, Role][]) {
    const { id } = await addPerson(
      w.db,
      { name, email: `${name}@ferry.example`, password: `a rope for the ${name}`, role },
      null,
    );
    who[name] = { id, token: (await makeToken(w.db, id, 'test')).token };
  }
  secret.item = await w.bring(1, 'Unannounced fall', { folder: 'Ferry / Secret', tags: ['fall', 'walk'] });
  secret.deep = await w.bring(2, 'Unannounced leap', { folder: 'Ferry / Secret / Deep', tags: ['leap'] });
  secret.open = await w.bring(3, 'Open walk', { folder: 'Ferry', tags: ['walk'] });
  // the same motion lies in the open, too
  const twin = await w.bring(4, 'Told twice', { folder: 'Ferry / Secret' });
  await w.bring(4, 'Told in the open', { folder: 'Ferry' });
  const all = await listFolders(w.db);
  folder = all.find((f) => f.name === 'Secret')!.id;
  inner = all.find((f) => f.name === 'Deep')!.id;
  await changeItem(w.db, w.person, secret.item, { note: 'nobody knows of this yet' });
  const rows = await w.db.select().from(itemVersions).innerJoin(readings, eq(readings.id, itemVersions.readingId));
  const own = rows.find((r) => r.item_versions.itemId === secret.item)!;
  Object.assign(secret, {
    version: own.item_versions.id,
    reading: own.readings.id,
    motion: own.readings.motionHash,
    sharedMotion: rows.find((r) => r.item_versions.itemId === twin)!.readings.motionHash,
  });
  await restrictFolder(w.db, w.person, folder, { hidden: true });
  await giveRight(w.db, w.person, folder, who.trusted.id);
});
afterAll(() => w.close());

interface Answer {
  status: number;
  text: string;
  // biome-ignore lint/suspicious/noExplicitAny: whatever an address answers
  body: any;
}
async function ask(name: keyof typeof who, method: string, path: string, body?: unknown): Promise<Answer> {
  const [place, query = ''] = path.split('?');
  const request = new NextRequest(`http://127.0.0.1/api/v1${place}${query && `?${query}`}`, {
    method,
    headers: {
      host: '127.0.0.1',
      authorization: `Bearer ${who[name].token}`,
      ...(body !== undefined && { 'content-type': 'application/json' }),
    },
    ...(body !== undefined && { body: JSON.stringify(body) }),
  });
  const answer = await serve(ENDPOINTS, request, place!.split('/').filter(Boolean));
  const text = await answer.text();
  return { status: answer.status, text, body: text.startsWith('{') || text.startsWith('[') ? JSON.parse(text) : null };
}

describe('somebody without a right to a hidden folder', () => {
  test('finds nothing in it, by words, by counting, by likeness', async () => {
    for (const query of ['', 'text=unannounced', `like=${secret.open}`, 'text=tag:leap', 'facets=1']) {
      const { body, text } = await ask('viewer', 'GET', `/items?${query}`);
      expect(text).not.toMatch(/Unannounced|Told twice/);
      expect(body.total).toBe(2);
    }
    const { body: ids } = await ask('viewer', 'GET', '/items/ids');
    expect(ids.ids.sort()).not.toContain(secret.item);
    expect((await ask('viewer', 'GET', '/items/names')).text).not.toMatch(/Unannounced/);
    const facets = (await ask('viewer', 'GET', '/items?facets=1')).body.facets;
    expect(JSON.stringify(facets)).not.toMatch(/leap|"fall"/);
  });

  test('does not see the folder, nor that something was done in it', async () => {
    for (const path of ['/folders', '/completions'])
      expect((await ask('viewer', 'GET', path)).text).not.toMatch(/Secret|Deep/);
    const { body } = await ask('trusted', 'GET', '/completions');
    expect(body.folder).toEqual(expect.arrayContaining(['Secret', 'Deep']));
    expect((await ask('viewer', 'GET', '/activity')).text).not.toMatch(/Unannounced|nobody knows/);
    expect((await ask('librarian', 'GET', '/activity')).text).toMatch(/Unannounced/);
  });

  test('does not learn what its items are tagged with, and counts only what lies in the open', async () => {
    const told = async (name: keyof typeof who): Promise<Record<string, number>> =>
      Object.fromEntries((await ask(name, 'GET', '/tags')).body.map((t: { name: string; n: number }) => [t.name, t.n]));
    expect(await told('viewer')).toEqual({ walk: 1 });
    expect(await told('trusted')).toEqual({ fall: 1, leap: 1, walk: 2 });
    expect((await ask('viewer', 'GET', '/completions')).body.tag).toEqual(['walk']);
    expect((await ask('trusted', 'GET', '/completions')).body.tag.sort()).toEqual(['fall', 'leap', 'walk']);
  });

  /** Every address that takes an id or an address of a motion, whatever it does. */
  const reading = ENDPOINTS.filter((e) => /\{(id|item|hash|version|folder)\}/.test(e.path)).map(
    (e) => [`${e.method} ${e.path}`, e] as const,
  );
  test.each(reading)('%s tells and changes nothing of it', async (_, e) => {
    for (const hidden of [secret.item, secret.deep, folder, inner, secret.version, secret.reading, secret.motion]) {
      const path = e.path.replace(/\{number\}/g, '1').replace(/\{\w+\}/g, hidden);
      const { status, text } = await ask('viewer', e.method, path, e.body && !e.form ? {} : undefined);
      // an address that takes no such name refuses it as such
      expect(status).toBeGreaterThanOrEqual(400);
      expect(text).not.toMatch(/Unannounced|nobody knows/);
    }
  });

  test('does not get a picture of it, whose address somebody told', async () => {
    await w.db
      .update(items)
      .set({ stillHash: 'd'.repeat(64) })
      .where(eq(items.id, secret.item));
    // what is hidden is remembered for two seconds
    await new Promise((done) => setTimeout(done, 2100));
    const of = (who: Parameters<typeof ask>[0]) => ask(who, 'GET', `/files/${'d'.repeat(64)}`);
    expect((await of('viewer')).text).toMatch(/What you asked for/);
    // the picture of an item in the open is no secret
    await w.db
      .update(items)
      .set({ stillHash: 'd'.repeat(64) })
      .where(eq(items.id, secret.open));
    await new Promise((done) => setTimeout(done, 2100));
    expect((await of('viewer')).text).not.toMatch(/What you asked for/);
    // there is no such file; who may see the item is told so
    expect((await of('trusted')).text).not.toMatch(/What you asked for/);
  });

  test('takes none of it along with other things, and fits none of it', async () => {
    const mixed = [secret.open, secret.item];
    for (const [method, path, body] of [
      ['PATCH', '/items', { ids: mixed, change: { name: 'mine' } }],
      ['POST', '/packs', { name: 'mine', ids: mixed }],
      ['GET', `/items/some?ids=${mixed.join(',')}`],
      ['GET', `/export?ids=${mixed.join(',')}&format=bvh`],
    ] as const) {
      const { status, text } = await ask('viewer', method, path, body);
      expect(status).toBeGreaterThanOrEqual(400);
      expect(text).not.toMatch(/Unannounced/);
    }
    expect((await w.db.select().from(items)).length).toBe(5);
  });

  test('is not told of it when the same file comes in again; what is done to it does not come by the live stream', async () => {
    const person = { id: who.viewer.id, role: 'animator' as const };
    const [intake] = (await w.db.select().from(intakes)).filter((r) =>
      r.result.items.some((i) => i.id === secret.item),
    );
    await w.db
      .update(intakes)
      .set({ fileHash: 'c'.repeat(64) })
      .where(eq(intakes.id, intake!.id));
    expect(await knownFile(w.db, 'c'.repeat(64), person)).toEqual([]);
    expect(await knownFile(w.db, 'c'.repeat(64), w.person)).toMatchObject([{ id: secret.item }]);
    const hidden = (await hiddenFrom(w.db, person))!;
    const event = {
      type: 'changes',
      changes: [secret.item, secret.open].map((subjectId) => ({ subjectId, label: 'x' })),
    };
    expect(hidden.sift(event).changes.map((c) => c.subjectId)).toEqual([secret.open]);
    expect(hidden.sift({ first: { id: secret.item }, n: 1 })).toEqual({ first: null, n: 1 });
  });

  test('has what lies in the open, though it lies there, too', async () => {
    expect((await ask('viewer', 'GET', `/motions/${secret.sharedMotion}`)).status).toBe(200);
    expect((await ask('viewer', 'GET', `/items/${secret.open}`)).status).toBe(200);
  });
});

test.each(['trusted', 'librarian'] as const)('%s sees all of it', async (name) => {
  expect((await ask(name, 'GET', '/items')).body.total).toBe(5);
  expect((await ask(name, 'GET', '/folders')).text).toMatch(/Secret.*/);
  expect((await ask(name, 'GET', `/items/${secret.item}`)).text).toContain('Unannounced fall');
  expect((await ask(name, 'GET', `/motions/${secret.motion}`)).status).toBe(200);
});

test('shown again, it is there for everybody; where nothing is hidden nothing is looked at', async () => {
  await restrictFolder(w.db, w.person, folder, { hidden: false });
  expect((await ask('viewer', 'GET', '/items')).body.total).toBe(5);
  expect(await hiddenFrom(w.db, { id: who.viewer.id, role: 'animator' })).toBeUndefined();
});
