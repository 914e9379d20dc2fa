import { NextRequest } from 'next/server';
import { PLACEMENT_DEFAULTS } from '../../../motion/index';
import { FIT_DEFAULTS } from '../../wishes/wishes';
import type { Person } from '../auth/person';
import { makeToken } from '../auth/tokens';
import { Worker } from '../jobs/worker';
import { changeItem } from '../services/edits';
import { keepFitting } from '../services/fittings';
import { folderByPath, listFolders } from '../services/folders';
import { takeIn } from '../services/intake';
import { newIntake, openIntake, receivePart } from '../services/intake-jobs';
import { getItem } from '../services/items';
import { getJob, listParts } from '../services/jobs';
import { makePack } from '../services/packs';
import { makePlay } from '../services/plays';
import { makeReel } from '../services/reels';
import { restrictFolder } from '../services/rights';
import { readSkeleton, takeBytes, testDatabase, type World } from '../test/world';
import { ENDPOINTS } from './all';
import { serve } from './endpoint';

// Every way of writing is tried against a folder that the one who writes may not change. A new endpoint has to say here how it
// could touch such a folder, or why it cannot.

let w: World;
let token: string;
let animator: Person;
const kept = globalThis as { velvetDatabase?: unknown; velvetCatalogue?: unknown };
/** Things that lie in the closed folder, and others that do not. */
const at = {} as Record<
  | 'closed'
  | 'parent'
  | 'item'
  | 'reel'
  | 'play'
  | 'version'
  | 'fitted'
  | 'outside'
  | 'cast'
  | 'pack'
  | 'theirJob'
  | 'group',
  string
>;

beforeAll(async () => {
  w = await testDatabase();
  kept.velvetDatabase = { db: w.db };
  kept.velvetCatalogue = w.library;
  const { db, person } = w;
  const read = await readSkeleton();
  at.cast = (await takeIn(db, read, { fileName: 'Kept out.glb', bytes: 10 }, person.id)).result.cast[0]!.id;
  at.item = await w.bring(1, 'Locked away', { folder: 'Closed' });
  at.version = (await getItem(db, at.item)).versionId;
  at.fitted = (await keepFitting(db, at.item, at.cast, FIT_DEFAULTS, 'Locked away on it', person)).id;
  at.outside = await w.bring(2, 'Outside');
  at.closed = (await folderByPath(db, 'Closed', person))!;
  const inner = (await folderByPath(db, 'Open / Inner', person))!;
  at.parent = (await folderByPath(db, 'Open', person))!;
  at.pack = (await makePack(db, person, 'Locked pack', [at.item, at.fitted])).id;
  at.group = (await changeItem(db, person, at.item, { note: 'kept safe' })).group;
  const files = [{ name: 'a.bvh', bytes: 1 }];
  at.theirJob = (await openIntake(db, person, newIntake.parse({ title: 'theirs', files }))).id;
  const performer = { id: 'm', castId: at.cast, order: 1, muted: false, overlays: [], keys: [] };
  const base = [{ ...PLACEMENT_DEFAULTS, at: 0, id: 'p', itemId: at.item }];
  at.reel = (await makeReel(db, person, { name: 'Locked reel', members: [{ ...performer, base }] })).id;
  const shows = { id: 's', name: 'S', at: [0, 0] as const, speed: 1, repeats: true };
  const states = [{ ...shows, content: { kind: 'item' as const, itemId: at.item } }];
  at.play = (await makePlay(db, person, { name: 'Locked play', states })).id;
  await restrictFolder(db, person, at.closed, { restricted: true });
  await restrictFolder(db, person, inner, { restricted: true });
  animator = await w.somebody('animator');
  token = (await makeToken(db, animator.id, 'test')).token;
});
afterAll(() => w.close());

async function ask(method: string, path: string, body?: unknown): Promise<{ status: number; code: string }> {
  const form = new FormData();
  form.set('file', new File([takeBytes(7) as BlobPart], 'x.bvh'));
  const request = new NextRequest(`http://127.0.0.1/api/v1${path}`, {
    method,
    headers: {
      host: '127.0.0.1',
      authorization: `Bearer ${token}`,
      ...(body !== 'form' && { 'content-type': 'application/json' }),
    },
    body: body === 'form' ? form : JSON.stringify(body ?? {}),
  });
  const answer = await serve(ENDPOINTS, request, new URL(request.url).pathname.split('/').slice(3));
  return { status: answer.status, code: ((await answer.json()) as { code: string }).code };
}

/** How an endpoint is tried, or why it has nothing to do with folders. */
type Entry = string | (() => [path: string, body?: unknown]);
const batch = { client: 'pageone1', number: 1, writes: [{ cell: 'settings/lower', to: 0.1 }] };
const none = 'it writes nothing into the library';
const rigs = 'characters and skeletons lie in no folder';
const own = 'it is the person’s own';

const WAYS: Record<string, Entry> = {
  'POST /reels': 'reels lie in no folder',
  'PATCH /reels/{id}': 'reels lie in no folder',
  'PUT /reels/{id}/bin': 'reels lie in no folder',
  'POST /plays': 'play-throughs lie in no folder',
  'PATCH /plays/{id}': 'play-throughs lie in no folder',
  'PUT /plays/{id}/bin': 'play-throughs lie in no folder',
  'POST /plays/{id}/carry': () => [`/plays/${at.play}/carry`, { castId: at.cast, name: 'x', folder: 'Closed' }],
  'POST /reels/{id}/bake': () => [`/reels/${at.reel}/bake`, { memberId: 'm', start: 0, end: 5, name: 'x' }],
  'PATCH /items': () => ['/items', { ids: [at.item], change: { name: 'x' } }],
  'PATCH /items/{id}': () => [`/items/${at.outside}`, { change: { folder: 'Closed / New' } }],
  'PUT /items/{id}/favourite': own,
  'POST /items/{id}/export': none,
  'POST /items/{id}/change': () => [`/items/${at.item}/change`, { name: 'x', change: { tuning: { energy: 1.2 } } }],
  'POST /items/{id}/versions/{version}/restore': () => [`/items/${at.item}/versions/${at.version}/restore`],
  'PUT /items/{id}/still': () => [`/items/${at.item}/still`, 'form'],
  'PUT /items/{id}/members': () => [`/items/${at.pack}/members`, { ids: [at.outside] }],
  'POST /packs': () => ['/packs', { name: 'x', ids: [at.item, at.fitted] }],
  'POST /sequences': () => ['/sequences', { steps: [[at.item, at.outside]], follow: true }],
  'POST /fittings': () => ['/fittings', { itemId: at.item, castId: at.cast, name: 'x', settings: FIT_DEFAULTS }],
  'POST /items/{id}/fit-again': () => [`/items/${at.fitted}/fit-again`, { seen: at.version }],
  'POST /bin/uses': none,
  'POST /bin/destroy': 'librarians may change every folder',
  'POST /history/{id}/undo': () => [`/history/${at.group}/undo`],
  'POST /intake': 'single files come in outside of all folders',
  'POST /jobs/intake': () => [
    '/jobs/intake',
    { title: 'x', folder: 'Closed / Below', files: [{ name: 'a.bvh', bytes: 1 }] },
  ],
  'PUT /jobs/{id}/files/{number}': 'a path in a file’s name is tried below',
  'DELETE /jobs/{id}/missing': () => [`/jobs/${at.theirJob}/missing`],
  'POST /jobs/fit': () => [
    '/jobs/fit',
    { itemIds: [at.outside], castIds: [at.cast], settings: FIT_DEFAULTS, folder: 'Closed' },
  ],
  'POST /jobs/fit-again': () => ['/jobs/fit-again', { itemIds: [at.fitted] }],
  'POST /jobs/{id}/redo': 'only whoever started a job, whose results lie where that person may write',
  'POST /jobs/{id}/{what}': () => [`/jobs/${at.theirJob}/cancel`],
  'POST /folders': () => ['/folders', { path: 'Closed / Another' }],
  'PATCH /folders/{id}': () => [`/folders/${at.closed}`, { name: 'x' }],
  // the folder itself is open, one below it is not
  'DELETE /folders/{id}': () => [`/folders/${at.parent}`],
  'PUT /folders/{id}/restricted': 'librarians may change every folder',
  'PUT /folders/{id}/rights/{person}': 'librarians may change every folder',
  'POST /folders/{id}/requests': 'asking is what is left to do',
  'POST /requests/{id}': 'librarians may change every folder',
  'PATCH /tags/{id}': 'librarians may change every folder',
  'POST /searches': own,
  'DELETE /searches/{id}': own,
  'POST /fields': 'librarians may change every folder',
  'PATCH /fields/{id}': 'librarians may change every folder',
  'PUT /fields/{id}': 'librarians may change every folder',
  'DELETE /fields/{id}': 'librarians may change every folder',
  'PUT /supplier/link': 'librarians may change every folder',
  'PATCH /supplier/link': 'librarians may change every folder',
  'DELETE /supplier/link': 'librarians may change every folder',
  'POST /supplier/fetch': 'librarians may change every folder',
  'POST /supplier/owned': 'owned takes come in outside of all folders',
  'POST /supplier/reissues': 'tried in the tests of the supplier: the job saves over in the name of who asked for it',
  'POST /people': 'admins may change every folder',
  'PATCH /people/{id}': 'admins may change every folder',
  'PATCH /me': own,
  'PUT /me/password': own,
  'POST /me/second-factor': own,
  'PUT /me/second-factor': own,
  'DELETE /me/second-factor': own,
  'PUT /storage': 'admins may change every folder',
  'POST /invitations': 'admins may change every folder',
  'DELETE /invitations/{id}': 'admins may change every folder',
  'DELETE /me/sessions': own,
  'DELETE /me/sessions/{session}': own,
  'DELETE /people/{id}/tokens/{token}': 'admins may change every folder',
  'POST /tokens': own,
  'DELETE /tokens/{id}': own,
  'PATCH /cast/{id}/fittings/{item}': () => [`/cast/${at.cast}/fittings/${at.item}`, batch],
  'PUT /cast/{id}/fittings/{item}': () => [
    `/cast/${at.cast}/fittings/${at.item}`,
    { settings: FIT_DEFAULTS, edits: { frames: 1, plants: null, goals: [], looks: [], corrections: [] }, version: 0 },
  ],
};
const writing = ENDPOINTS.filter((e) => e.method !== 'GET').map((e) => [`${e.method} ${e.path}`, e] as const);

test.each(writing)('%s keeps out of a closed folder', async (name, e) => {
  const way = /^\/(cast|rigs|profiles|destinations)\b/.test(e.path) ? (WAYS[name] ?? rigs) : WAYS[name];
  expect(way).toBeDefined();
  if (typeof way === 'string') return;
  const [path, body] = way!();
  const { status, code } = await ask(e.method, path, body);
  expect([status, ['closed-folder', 'no-right'].includes(code)]).toEqual([403, true]);
});

test('a path in the name of a file that comes in leads nowhere closed, and makes no folder', async () => {
  const { db } = w;
  const files = [{ name: 'Closed/Fresh/x.bvh', bytes: 1 }];
  const { id } = await openIntake(db, animator, newIntake.parse({ title: 'x', files }));
  await receivePart(db, animator, id, 0, { name: 'x.bvh', bytes: takeBytes(8) });
  const worker = new Worker(db);
  while (await worker.step());
  expect((await getJob(db, id)).state).toBe('done');
  expect(await listParts(db, id)).toMatchObject([{ state: 'refused', message: expect.stringContaining('“Closed”') }]);
  expect((await listFolders(db)).map((f) => f.name)).not.toContain('Fresh');
});

test('every entry belongs to an endpoint', () => {
  const known = new Set<string>(writing.map(([name]) => name));
  expect(Object.keys(WAYS).filter((name) => !known.has(name))).toEqual([]);
});
