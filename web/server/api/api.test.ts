import { NextRequest } from 'next/server';
import type { z } from 'zod';
import { Catalogue } from '../../../cli/supplier/takes';
import { PLACEMENT_DEFAULTS } from '../../../motion/index';
import type { Role } from '../../contract';
import { FIT_DEFAULTS } from '../../wishes/wishes';
import { addPerson, auth } from '../auth/accounts';
import { invite } from '../auth/invitations';
import { makeToken } from '../auth/tokens';
import { supplied } from '../db/schema';
import { Refusal } from '../errors';
import { keepDestination } from '../services/destinations';
import { changeItem } from '../services/edits';
import { addField } from '../services/fields';
import { keepFitting } from '../services/fittings';
import { folderByPath } from '../services/folders';
import { takeIn } from '../services/intake';
import { newIntake, openIntake } from '../services/intake-jobs';
import { getItem } from '../services/items';
import { listJobs } from '../services/jobs';
import { makePlay } from '../services/plays';
import { addProfile } from '../services/profiles';
import { makeReel } from '../services/reels';
import { askForRight, can, giveRight, restrictFolder } from '../services/rights';
import { saveSearch } from '../services/searches';
import { linkAccount } from '../services/supplier';
import { openSupplier, SUPPLIER_KEY, type TestSupplier } from '../test/supplier';
import { readSkeleton, testDatabase, type World } from '../test/world';
import { ENDPOINTS } from './all';
import { type Endpoint, endpoint, HELD_MS, match, serve } from './endpoint';
import { openApi } from './openapi';

const ROLES: readonly Role[] = ['viewer', 'animator', 'librarian', 'admin'];
process.env.VELVET_SESSION ??= 'of these tests';
let w: World;
/** What a server process keeps for itself; here it ends with the tests. */
const kept = globalThis as { velvetDatabase?: unknown; velvetCatalogue?: unknown };
const keys = {} as Record<Role, string>;
/** For what is not done with a token. */
const cookies = {} as Record<Role, string>;

beforeAll(async () => {
  w = await testDatabase();
  kept.velvetDatabase = { db: w.db };
  kept.velvetCatalogue = w.library;
  for (const role of ROLES) {
    const [email, password] = [`${role}@ferry.example`, `the ${role} of the tide`];
    const { id } = await addPerson(w.db, { name: `Api ${role}`, email, password, role }, null);
    keys[role] = (await makeToken(w.db, id, 'test')).token;
    const signed = await auth().api.signInEmail({ body: { email, password }, asResponse: true });
    cookies[role] = signed.headers.getSetCookie()[0]!.split(';')[0]!;
  }
});
afterAll(() => w.close());

interface Asked {
  role?: Role;
  body?: unknown;
  raw?: string;
  headers?: Record<string, string>;
}

// biome-ignore lint/suspicious/noExplicitAny: answers differ by address
async function ask(method: string, path: string, asked: Asked = {}): Promise<{ status: number; body: any }> {
  const text = asked.raw ?? (asked.body === undefined ? undefined : JSON.stringify(asked.body));
  const to = match(ENDPOINTS, method, path.split('?')[0]!.split('/').filter(Boolean));
  const bySession = typeof to === 'object' && to.endpoint.sessionOnly === true;
  const request = new NextRequest(`http://127.0.0.1/api/v1${path}`, {
    method,
    headers: {
      host: '127.0.0.1',
      ...(asked.role && !bySession ? { authorization: `Bearer ${keys[asked.role]}` } : { origin: 'http://127.0.0.1' }),
      ...(asked.role && bySession && { cookie: cookies[asked.role] }),
      ...(text !== undefined && { 'content-type': 'application/json' }),
      ...asked.headers,
    },
    ...(text !== undefined && { body: text }),
  });
  const answer = await serve(ENDPOINTS, request, new URL(request.url).pathname.split('/').slice(3));
  const type = answer.headers.get('content-type') ?? '';
  const told = type.includes('json') ? await answer.json() : await answer.text();
  // whatever is answered in these tests is as the contract says
  const found = match(ENDPOINTS, method, new URL(request.url).pathname.split('/').slice(3));
  if (answer.ok && typeof found === 'object') found.endpoint.answer?.parse(told);
  return { status: answer.status, body: told };
}

/** An address with everything in braces filled in. */
const filled = (e: Endpoint, by: string): string =>
  e.path.replace(/\{(\w+)\}/g, (_, name) =>
    name === 'hash' && by === 'nobody' ? 'f'.repeat(64) : name === 'what' ? 'pause' : name === 'number' ? '0' : by,
  );
const named = ENDPOINTS.map((e) => [`${e.method} ${e.path}`, e] as const);
const least = (e: Endpoint): number => ROLES.findIndex((r) => can({ role: r }, e.need));

describe('every address', () => {
  test.each(named.filter(([, e]) => e.sessionOnly))('%s is not for tokens', async (_, e) => {
    const headers = { authorization: `Bearer ${keys.admin}` };
    const { body } = await ask(e.method, filled(e, 'nobody'), { headers, ...(e.body && { body: {} }) });
    expect(body.code).toBe('no-token');
  });

  test.each(named)('%s turns a stranger away', async (_, e) => {
    const { status, body } = await ask(e.method, filled(e, 'nobody'), e.body ? { body: {} } : {});
    expect(status).toBe(401);
    expect(body.message).toBe('You are not signed in.');
  });

  test.each(named.filter(([, e]) => least(e) > 0))('%s turns away whoever has no right to it', async (_, e) => {
    const role = ROLES[least(e) - 1]!;
    const { status, body } = await ask(e.method, filled(e, 'nobody'), { role, ...(e.body && { body: {} }) });
    expect(status).toBe(403);
    expect(body.message).toMatch(new RegExp(`^Api ${role} may `));
  });

  test.each(named.filter(([, e]) => e.params))('%s refuses what cannot be an id, with a sentence', async (_, e) => {
    const { status, body } = await ask(e.method, filled(e, '..%2Fetc'), { role: 'admin', ...(e.body && { body: {} }) });
    expect([400, 404]).toContain(status);
    expect(body.message).toMatch(/\w{3,} \w/);
  });

  test.each(named.filter(([, e]) => e.body && !e.form))('%s refuses a body that is none', async (_, e) => {
    for (const raw of ['', '{', 'null', '7', '"x"', '[[[]]]', '{"__proto__": {"role": "admin"}, "constructor": 1}']) {
      const { status, body } = await ask(e.method, filled(e, 'nobody'), { role: 'admin', raw });
      // a list of wishes may be empty and then changes nothing; anything else is a refusal with words
      if (status === 200) expect((e.body as z.ZodType).safeParse(JSON.parse(raw)).success).toBe(true);
      else {
        expect([400, 404]).toContain(status);
        expect(body.message.length).toBeGreaterThan(8);
      }
    }
  });

  test.each(named.filter(([, e]) => /\{id\}/.test(e.path) && e.method === 'GET'))(
    '%s says that there is nothing of that id',
    async (_, e) => {
      const { status, body } = await ask('GET', filled(e, 'nobody'), { role: 'admin' });
      if (status === 200) expect(JSON.stringify(body).length).toBeLessThan(200);
      else expect([404, ...(e.query ? [400] : [])]).toContain(status);
    },
  );

  test('is described in the document, with who may use it, and nothing else is', () => {
    const paths = openApi().paths as Record<string, Record<string, { summary: string }>>;
    const told = Object.entries(paths).flatMap(([path, ways]) =>
      Object.keys(ways)
        .filter((m) => m !== 'parameters')
        .map((m) => `${m.toUpperCase()} ${path.replace(/^\/api\/v1/, '')}`),
    );
    expect(new Set(told)).toEqual(new Set(named.map(([name]) => name)));
  });
});

describe('a request', () => {
  test('to nowhere, or in a way that an address does not take, is told so', async () => {
    expect(await ask('GET', '/nowhere', { role: 'viewer' })).toMatchObject({
      status: 404,
      body: { message: 'Page not found.' },
    });
    expect(await ask('DELETE', '/items', { role: 'viewer' })).toMatchObject({
      status: 405,
      body: { message: 'DELETE is not supported at this address.' },
    });
  });

  test.each([
    ['another site', { origin: 'http://evil.example' }],
    ['no page at all', { origin: '' }],
    ['a page without an address', { origin: 'null' }],
    ['something that is no address', { origin: 'http://' }],
  ])('that changes something and comes from %s is refused', async (_, headers) => {
    const { status, body } = await ask('POST', '/fields', { body: {}, headers });
    expect(status).toBe(403);
    expect(body.message).toBe('The request came from another page.');
  });

  test('under a name that is not the server’s own is refused, whoever asks', async () => {
    const { status } = await ask('GET', '/items', { role: 'admin', headers: { host: 'evil.example' } });
    expect(status).toBe(403);
  });

  test('with a key that was revoked, or never was, is a stranger’s', async () => {
    const person = await w.somebody('admin', 'Short-lived');
    const { id, token } = await makeToken(w.db, person.id, 'short');
    const by = { headers: { authorization: `Bearer ${token}` } };
    expect((await ask('GET', '/counts', by)).status).toBe(200);
    const listed = await ask('GET', `/people/${person.id}/tokens`, { role: 'admin' });
    expect(listed.body).toMatchObject([{ id, name: 'short', scope: 'change' }]);
    expect(JSON.stringify(listed.body)).not.toContain(token);
    expect((await ask('DELETE', `/tokens/${id}`, by)).body.code).toBe('no-token');
    expect((await ask('DELETE', `/people/${person.id}/tokens/${id}`, { role: 'admin' })).status).toBe(200);
    expect((await ask('GET', '/counts', by)).status).toBe(401);
    expect((await ask('GET', '/counts', { headers: { authorization: 'Bearer nonsense' } })).status).toBe(401);
  });

  test('that is too large is refused, also where it does not say how large it is', async () => {
    const huge = JSON.stringify({ name: 'x'.repeat(5_000_000) });
    expect(await ask('POST', '/fields', { role: 'admin', raw: huge })).toMatchObject({ status: 413 });
    const request = new NextRequest('http://127.0.0.1/api/v1/fields', {
      method: 'POST',
      headers: { host: '127.0.0.1', authorization: `Bearer ${keys.admin}` },
      body: new ReadableStream({
        start(controller) {
          for (let i = 0; i < 50; i++) controller.enqueue(new TextEncoder().encode(' '.repeat(100_000)));
          controller.close();
        },
      }),
      duplex: 'half',
    } as never);
    expect((await serve(ENDPOINTS, request, ['fields'])).status).toBe(413);
  });
});

describe('who asks too much', () => {
  const busy = endpoint({
    method: 'GET',
    path: '/busy',
    summary: '',
    about: '',
    need: 'read',
    run: () => Promise.reject(new Refusal(429, 'too-many', 'Too many.')),
  });
  const knock = (signal?: AbortSignal): Promise<Response> =>
    serve(
      [busy],
      new NextRequest('http://127.0.0.1/api/v1/busy', {
        headers: { host: '127.0.0.1', authorization: `Bearer ${keys.viewer}` },
        ...(signal && { signal }),
      }),
      ['busy'],
    );

  test('hears it after a pause, so that asking again and again takes little from others', async () => {
    const began = performance.now();
    expect((await knock()).status).toBe(429);
    expect(performance.now() - began).toBeGreaterThan(HELD_MS - 20);
  });

  test('and goes away meanwhile leaves nothing waiting', async () => {
    const stop = new AbortController();
    const answer = knock(stop.signal);
    setTimeout(() => stop.abort(), 50);
    expect((await answer).status).toBe(499);
  });
});

describe('through the interface for programs', () => {
  test('an item is found, described, moved, and its change taken back', async () => {
    const id = await w.bring(901, 'Api walk');
    const list = await ask('GET', '/items?q=api&facets=1', { role: 'viewer' });
    expect(list.body.items.map((i: { name: string }) => i.name)).toContain('Api walk');
    const edit = await ask('PATCH', `/items/${id}`, {
      role: 'animator',
      body: { change: { name: 'Api run', tags: ['quick'], folder: 'Api / Deep', rating: 4 } },
    });
    expect(edit.status).toBe(200);
    const now = await ask('GET', `/items/${id}`, { role: 'viewer' });
    expect(now.body).toMatchObject({ name: 'Api run', tags: ['quick'], rating: 4 });
    const folders = await ask('GET', '/folders', { role: 'viewer' });
    expect(folders.body.map((f: { name: string }) => f.name)).toEqual(expect.arrayContaining(['Api', 'Deep']));
    const history = await ask('GET', `/items/${id}/history`, { role: 'viewer' });
    const group = history.body[0].groupId;
    expect((await ask('POST', `/history/${group}/undo`, { role: 'animator', body: {} })).status).toBe(200);
    expect((await ask('GET', `/items/${id}`, { role: 'viewer' })).body).toMatchObject({ name: 'Api walk', tags: [] });
  });

  test('names of everything found stand in the order of the search', async () => {
    for (const [seed, name] of [
      [911, 'Zz names b'],
      [912, 'Zz names a'],
      [913, 'Zz names c'],
    ] as const)
      await w.bring(seed, name);
    const names = async (query: string) =>
      (await ask('GET', `/items/names?q=zz+names${query}`, { role: 'viewer' })).body.names;
    expect(await names('&sort=name')).toEqual(
      [
        ['Zz names a', 'clip'],
        ['Zz names b', 'clip'],
        ['Zz names c', 'clip'],
      ].map(([name]) => [name, expect.any(String)]),
    );
    expect((await names('&sort=name&backwards=1')).map(([name]: [string]) => name)).toEqual([
      'Zz names c',
      'Zz names b',
      'Zz names a',
    ]);
    expect((await ask('GET', '/items/names?q=nothingiscalledthat', { role: 'viewer' })).body).toEqual({ names: [] });
  });

  test('an edit that expected something else is refused with both versions, field by field', async () => {
    const id = await w.bring(902, 'Api clash');
    await ask('PATCH', `/items/${id}`, { role: 'animator', body: { change: { note: 'theirs' } } });
    const clash = await ask('PATCH', '/items', {
      role: 'librarian',
      body: { label: 'mine', edits: [{ id, change: { note: 'mine', rating: 2 }, expected: { note: '', rating: 0 } }] },
    });
    expect(clash).toMatchObject({
      status: 409,
      body: {
        code: 'changed-meanwhile',
        details: { conflicts: [{ id, field: 'note', theirs: 'theirs', yours: 'mine' }] },
      },
    });
    expect((await ask('GET', `/items/${id}`, { role: 'viewer' })).body).toMatchObject({ note: 'theirs', rating: 0 });
  });

  test('a file comes out in every format, and refuses one that there is not', async () => {
    const id = await w.bring(903, 'Api file');
    const bvh = await ask('GET', `/items/${id}/export?format=bvh`, { role: 'viewer' });
    expect(bvh.body).toMatch(/^HIERARCHY/);
    const csv = await ask('GET', `/items/${id}/export?format=csv`, { role: 'viewer' });
    expect(csv.body.trim().split('\n')).toHaveLength(41);
    const json = await ask('GET', `/items/${id}/export?format=json`, { role: 'viewer' });
    expect(json.status).toBe(200);
    const wrong = await ask('GET', `/items/${id}/export?format=exe`, { role: 'viewer' });
    expect(wrong.status).toBe(400);
    expect(wrong.body.message).toMatch(/format/);
  });

  test('what lies in a closed folder is changed only by whoever was let in', async () => {
    const id = await w.bring(904, 'Api closed');
    await ask('PATCH', `/items/${id}`, { role: 'librarian', body: { change: { folder: 'Vault' } } });
    const vault = (await ask('GET', '/folders', { role: 'librarian' })).body.find(
      (f: { name: string }) => f.name === 'Vault',
    );
    await ask('PUT', `/folders/${vault.id}/restricted`, { role: 'librarian', body: { restricted: true } });
    const change = { role: 'animator' as const, body: { change: { rating: 1 } } };
    expect((await ask('PATCH', `/items/${id}`, change)).status).toBe(403);
    expect(
      (await ask('POST', `/folders/${vault.id}/requests`, { role: 'animator', body: { note: 'please' } })).status,
    ).toBe(200);
    const [asked] = (await ask('GET', '/requests', { role: 'librarian' })).body;
    expect(asked).toMatchObject({ folderName: 'Vault', note: 'please', personName: 'Api animator' });
    await ask('POST', `/requests/${asked.id}`, { role: 'librarian', body: { grant: true } });
    expect((await ask('PATCH', `/items/${id}`, change)).status).toBe(200);
  });

  test('a field renamed keeps its choices; one removed by mistake comes back with what it held', async () => {
    const body = { name: 'Deck', type: 'choice', options: ['upper', 'lower'] };
    const made = (await ask('POST', '/fields', { role: 'librarian', body })).body;
    const renamed = await ask('PATCH', `/fields/${made.id}`, { role: 'librarian', body: { name: 'Level' } });
    expect(renamed.body).toMatchObject({ name: 'Level', options: ['upper', 'lower'] });
    expect((await ask('DELETE', `/fields/${made.id}`, { role: 'librarian' })).status).toBe(200);
    const back = await ask('PUT', `/fields/${made.id}`, { role: 'librarian', body });
    expect(back).toMatchObject({ status: 200, body: { id: made.id } });
    expect((await ask('PUT', `/fields/${made.id}`, { role: 'librarian', body })).status).toBe(409);
  });

  test('a search is kept for oneself or shared, and only removed by whose it is', async () => {
    const body = { name: 'Quick ones', view: '{"q":"quick"}', shared: true };
    const made = (await ask('POST', '/searches', { role: 'animator', body })).body;
    const seen = (await ask('GET', '/searches', { role: 'viewer' })).body;
    expect(seen).toEqual([expect.objectContaining({ name: 'Quick ones', mine: false, byName: 'Api animator' })]);
    expect((await ask('DELETE', `/searches/${made.id ?? seen[0].id}`, { role: 'viewer' })).status).toBe(403);
    expect((await ask('DELETE', `/searches/${made.id ?? seen[0].id}`, { role: 'animator' })).status).toBe(200);
    expect((await ask('GET', '/searches', { role: 'viewer' })).body).toEqual([]);
  });

  test('the bin destroys nothing that is in use without being told', async () => {
    const [a, b] = [await w.bring(905, 'Api bin a'), await w.bring(906, 'Api bin b')];
    await ask('PATCH', '/items', {
      role: 'animator',
      body: { label: 'bin', edits: [a, b].map((id) => ({ id, change: { binned: true } })) },
    });
    const gone = await ask('POST', '/bin/destroy', { role: 'librarian', body: { ids: [a], evenInUse: false } });
    expect(gone.body).toMatchObject({ destroyed: 1 });
    expect((await ask('GET', `/items/${a}`, { role: 'viewer' })).status).toBe(404);
    const living = await w.bring(907, 'Api alive');
    const wrong = await ask('POST', '/bin/destroy', { role: 'librarian', body: { ids: [living], evenInUse: true } });
    expect([wrong.status, wrong.body.message]).toEqual([400, 'Only what is in the bin can be destroyed.']);
    expect((await ask('GET', `/items/${living}`, { role: 'viewer' })).status).toBe(200);
  });
});

describe('what is answered', () => {
  /** Something of each kind that an address can be about. */
  const of: Record<string, string> = {};
  let supplier: TestSupplier;
  beforeAll(async () => {
    const { person, db } = w;
    of.items = await w.bring(70, 'Answered');
    const { rigId, versionId } = await getItem(db, of.items);
    const read = await readSkeleton();
    const report = await takeIn(db, read, { fileName: 'Answering.glb', bytes: 10 }, person.id);
    const castId = report.result.cast[0]!.id;
    const kept = await keepFitting(db, of.items, castId, FIT_DEFAULTS, 'Answered on it', person);
    const files = [{ name: 'a.bvh', bytes: 3 }];
    await openIntake(db, person, newIntake.parse({ title: 'one', folder: '', files }));
    await addProfile(db, person, rigId, 'A map');
    await keepDestination(db, person, 'Somewhere', {
      format: 'bvh',
      mesh: true,
      sparse: false,
      folders: true,
      fps: 24,
    });
    await changeItem(db, person, of.items, { tags: ['answered'] });
    await addField(db, person, { name: 'Weather', type: 'text', options: [] });
    const base = [{ ...PLACEMENT_DEFAULTS, at: 0, id: 'p', itemId: of.items }];
    const performing = { id: 'm', castId, order: 1, muted: false, base, overlays: [], keys: [] };
    of.reels = (await makeReel(db, person, { name: 'Answering reel', members: [performing] })).id;
    await saveSearch(db, person, { name: 'Mine', view: 'q=walk', shared: true });
    const folder = (await folderByPath(db, 'Closed', person.id))!;
    await restrictFolder(db, person, folder, { restricted: true });
    const animator = await w.somebody('animator', 'Asking');
    await askForRight(db, animator, folder, 'please');
    await invite(db, person, { name: 'Somebody new', role: 'viewer', days: 7 });
    await giveRight(db, person, folder, animator.id);
    Object.assign(of, {
      people: animator.id,
      kept: kept.id,
      cast: castId,
      rigs: rigId,
      folders: folder,
      version: versionId,
    });
    of.jobs = (await listJobs(db))[0]!.id;
    of.plays = (await makePlay(db, person, { name: 'Answering play', castId })).id;
    supplier = await openSupplier(new Catalogue(4));
    await linkAccount(db, person, SUPPLIER_KEY);
    supplier.ledger.own('take-1', ['take-1'], 1);
    supplier.ledger.issueAnew('take-1', 'Better.');
    const address = process.env.VELVET_SUPPLIER!;
    await db.insert(supplied).values({ address, takeId: 'take-1', issue: 1, itemId: of.items });
  });
  afterAll(() => supplier.close());

  test.each(named.filter(([, e]) => e.method === 'GET' && !e.file))('%s is as the contract says', async (_, e) => {
    expect(e.answer).toBeDefined();
    const about = e.path.split('/')[1]!;
    const to = about === 'items' && e.path.endsWith('freshness') ? of.kept! : of[about];
    const path = e.path
      .replace('{item}', of.items!)
      .replace('{take}', 'take-1')
      .replace('{version}', of.version!)
      .replace('{id}', to ?? '');
    const query =
      e.path === '/items/some' ? `?ids=${of.items},${of.kept}` : e.path.endsWith('/fit') ? `?cast=${of.cast}` : '';
    const { status, body } = await ask('GET', path + query, { role: 'admin' });
    expect(status).toBe(200);
    // an empty list would prove nothing
    if (
      Array.isArray(body) &&
      !['/tokens', '/people/{id}/tokens', '/jobs/{id}/missing', '/items/{id}/members'].includes(e.path)
    )
      expect(body.length).toBeGreaterThan(0);
  });
});
