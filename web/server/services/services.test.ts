import { readFile } from 'node:fs/promises';
import { unpackMotion } from '../../../motion/index';
import type { Database } from '../db/client';
import { motions, rigs } from '../db/schema';
import { Refusal } from '../errors';
import { sha256 } from '../ids';
import { readSkeleton, readTake, testDatabase, type World } from '../test/world';
import { castRig, changeCast, choosePerformer, listCast } from './cast';
import { changeItem, undoGroup } from './edits';
import { listFolders, pathIn } from './folders';
import { listIntakes, refuseIn, takeIn } from './intake';
import { getItem, motionBytes, stripsOf } from './items';
import { getRig, saveMap } from './rigs';
import { type LibrarySearch, searchLibrary } from './search';

let world: World;
let db: Database;
let personId: string;
beforeAll(async () => {
  world = await testDatabase();
  ({ db, personId } = world);
});
afterAll(() => world.close());

const bring: World['bring'] = (...all) => world.bring(...all);
const search = (wish: LibrarySearch) => searchLibrary(db, world.library, world.person, wish);

describe('taking in', () => {
  test('a take becomes an item with motion, strip and facts', async () => {
    const id = await bring(1, 'First take');
    const item = await getItem(db, id);
    expect(item).toMatchObject({
      name: 'First take',
      kind: 'take',
      version: 1,
      provenance: { how: 'intake', format: 'bvh' },
    });
    expect(item.facts.frameCount).toBe(40);
    expect(unpackMotion(await motionBytes(db, item.motionHash)).frameCount).toBe(40);
    expect((await stripsOf(db, [item.readingId]))[0]!.strip.length).toBeGreaterThan(500);
  });

  test('equal skeletons share one rig and its map; equal motions are kept once', async () => {
    await bring(1, 'The same again');
    const report = await takeIn(db, await readTake(2), { fileName: 'other.bvh', bytes: 10 }, personId);
    expect(report.result.known).toBe(true);
    expect(await db.select().from(rigs)).toHaveLength(1);
    expect(await db.select({ hash: motions.hash }).from(motions)).toHaveLength(2);
  });

  test('a bare skeleton joins the cast and, as the first, comes on hand', async () => {
    const report = await takeIn(db, await readSkeleton(), { fileName: 'skeleton.glb', bytes: 10 }, personId);
    expect(report.result.items).toEqual([]);
    const [member] = await listCast(db);
    expect(member).toMatchObject({ name: 'skeleton', restKind: 'A', assets: {} });
    expect(Object.values(member!.map.slots).every((s) => s.state !== 'missing')).toBe(true);
  });

  test('a refused file leaves a report and nothing else', async () => {
    const before = (await search({})).total;
    await refuseIn(db, { fileName: 'broken.bvh', bytes: 5 }, personId, 'truncated', 'It ends too soon.');
    const [newest] = await listIntakes(db);
    expect(newest).toMatchObject({ fileName: 'broken.bvh', state: 'refused', message: 'It ends too soon.' });
    expect((await search({})).total).toBe(before);
  });

  test('when keeping fails half-way nothing stays', async () => {
    const read = await readTake(50);
    const before = (await search({})).total;
    const broken = {
      ...read,
      clips: [read.clips[0]!, { ...read.clips[0]!, name: 'second', facts: null as never }],
    };
    await expect(takeIn(db, broken, { fileName: 'half.bvh', bytes: 1 }, personId)).rejects.toThrow();
    expect((await search({})).total).toBe(before);
  });
});

describe('what was kept by the release before', () => {
  test('stands under its former address, opens, and goes out of the house as ever', async () => {
    // that release kept motions under the hash of their packed bytes, in version 1
    const [stored] = JSON.parse(
      await readFile(new URL('../../../motion/codec/version-1.json', import.meta.url), 'utf8'),
    ) as { packed: string; frameCount: number; fps: number }[];
    const packed = Uint8Array.from(Buffer.from(stored!.packed, 'hex'));
    const former = sha256(packed);
    await db.insert(motions).values({ hash: former, frameCount: stored!.frameCount, fps: stored!.fps, packed });
    const bytes = await motionBytes(db, former);
    expect(sha256(bytes)).toBe(former);
    expect(unpackMotion(bytes).frameCount).toBe(stored!.frameCount);
  });
});

describe('finding', () => {
  beforeAll(async () => {
    await bring(11, 'Rope haul', { tags: ['rope', 'two hands'], folder: 'Ferry / Deck', note: 'slow' });
    await bring(12, 'Rope coil', { tags: ['rope'], folder: 'Ferry / Deck', kind: 'cycle' });
    await bring(13, 'Gangway 100%', { tags: ['walk'], folder: 'Ferry / Shore' });
  });
  const names = async (wish: LibrarySearch): Promise<string[]> => (await search(wish)).items.map((i) => i.name);

  test.each<[string, string[]]>([
    ['rope', ['Rope coil', 'Rope haul']],
    ['ROPE haul', ['Rope haul']],
    ['rope -coil', ['Rope haul']],
    ['two hands', ['Rope haul']],
    ['"rope haul"', ['Rope haul']],
    ['"haul rope"', []],
    ['slow', ['Rope haul']],
    ['100%', ['Gangway 100%']],
    ['%', ['Gangway 100%']],
    ['gangwya', ['Gangway 100%']],
    ["'; drop table items; --", []],
    ['tag:rope', ['Rope coil', 'Rope haul']],
    ['tag:rope kind:cycle', ['Rope coil']],
    ['tag:rope -kind:cycle', ['Rope haul']],
    ['rope kind:cycle kind:take', ['Rope coil', 'Rope haul']],
    ['rope longer:1', ['Rope coil', 'Rope haul']],
    ['rope longer:2', []],
    ['rope folder:deck', ['Rope coil', 'Rope haul']],
    ['rope folder:shore', []],
    ['rope by:"test person"', ['Rope coil', 'Rope haul']],
    ['rope is:new is:mine', ['Rope coil', 'Rope haul']],
  ])('%s', async (text, expected) => {
    expect(await names({ text })).toEqual(expected);
  });

  test('a folder shows what lies below it too, and the total is always told', async () => {
    const ferry = (await listFolders(db)).find((f) => f.name === 'Ferry')!;
    const list = await search({ folderId: ferry.id });
    expect(list.items).toHaveLength(3);
    expect(list.total).toBeGreaterThan(3);
  });

  test('what moves alike comes likest first, whatever it is called, and never out of the bin', async () => {
    const model = await bring(31, 'Swaying');
    const double = await bring(31, 'A double of it');
    const gone = await bring(31, 'Thrown away');
    await changeItem(db, world.person, gone, { binned: true });
    const other = await bring(32, 'Something else', { tags: ['apart'] });
    const read = await readTake(32);
    expect(read.clips[0]!.descriptor.length).toBeGreaterThan(50);
    const found = (await search({ like: model })).items.map((i) => i.id);
    expect(found.slice(0, 2)).toEqual([model, double]);
    expect(found).not.toContain(gone);
    expect(await names({ like: model, text: 'tag:apart' })).toEqual(found.includes(other) ? ['Something else'] : []);
    await expect(search({ like: 'nobody' })).rejects.toMatchObject({ status: 404 });
  });

  test('counts say how many each narrowing would leave, a field’s own narrowing set aside', async () => {
    const { facets } = await search({ text: 'rope kind:cycle', facets: true });
    expect(facets!.kind).toEqual([
      { value: 'cycle', n: 1 },
      { value: 'take', n: 1 },
    ]);
    expect(facets!.tag).toContainEqual({ value: 'rope', n: 1 });
  });

  test('pages follow one another, in any order, backwards too', async () => {
    const whole = await names({ limit: 500 });
    const paged: string[] = [];
    for (let offset = 0; offset < whole.length; offset += 3) paged.push(...(await names({ offset, limit: 3 })));
    expect(paged).toEqual(whole);
    expect(await names({ backwards: true, limit: 500 })).toEqual([...whole].reverse());
    const newest = await search({ sort: 'new', limit: 500 });
    const times = newest.items.map((i) => i.createdAt.getTime());
    expect(times).toEqual([...times].sort((a, b) => b - a));
  });
});

describe('changing', () => {
  test('every change can be taken back, and taking back can be, too', async () => {
    const id = await bring(21, 'Before', { tags: ['one'], folder: 'A / B' });
    const { item, group } = await changeItem(db, world.person, id, {
      name: 'After',
      tags: ['Two ', 'two', 'three'],
      folder: 'C',
      note: 'n',
    });
    expect(item).toMatchObject({ name: 'After', tags: ['three', 'two'], note: 'n' });
    expect(pathIn(await listFolders(db), item.folderId)).toBe('C');
    const back = await undoGroup(db, world.person, group);
    expect(back.items[0]).toMatchObject({ name: 'Before', tags: ['one'], note: '' });
    expect(pathIn(await listFolders(db), back.items[0]!.folderId)).toBe('A / B');
    const again = await undoGroup(db, world.person, back.group);
    expect(again.items[0]).toMatchObject({ name: 'After', tags: ['three', 'two'], note: 'n' });
  });

  test('the bin hides and gives back', async () => {
    const id = await bring(22, 'Move to bin');
    const { group } = await changeItem(db, world.person, id, { binned: true });
    expect((await search({ text: 'Move to bin' })).items).toEqual([]);
    expect((await search({ text: 'Move to bin', bin: true })).items).toHaveLength(1);
    await undoGroup(db, world.person, group);
    expect((await search({ text: 'Move to bin' })).items).toHaveLength(1);
  });

  test('what is not there is said to be gone', async () => {
    await expect(changeItem(db, world.person, 'nobody', { name: 'x' })).rejects.toMatchObject({ status: 404 });
    await expect(getItem(db, 'nobody')).rejects.toBeInstanceOf(Refusal);
  });

  test('cast members are renamed, binned and chosen', async () => {
    const [member] = await listCast(db);
    const { undo } = await changeCast(db, world.person, member!.id, { name: 'Odd one', binned: true });
    expect(await listCast(db)).toEqual([]);
    expect((await listCast(db, true))[0]!.name).toBe('Odd one');
    await changeCast(db, world.person, member!.id, undo);
    await choosePerformer(db, personId, member!.id);
    await expect(choosePerformer(db, personId, 'nobody')).rejects.toMatchObject({ status: 404 });
    expect((await castRig(db, member!.id)).rig.joints).toHaveLength(21);
  });
});

describe('body maps', () => {
  test('a corrected slot is kept for the rig; a stale one is refused with nothing lost', async () => {
    const item = (await search({})).items[0]!;
    const rig = await getRig(db, item.rigId);
    const slots = { ...rig.map.slots, toesL: { joint: null, state: 'empty' as const, why: 'no toes wanted' } };
    const saved = await saveMap(db, rig.id, { slots }, rig.mapVersion, personId);
    expect(saved.mapVersion).toBe(rig.mapVersion + 1);
    expect((await getRig(db, rig.id)).map.slots.toesL).toMatchObject({ joint: null, state: 'empty' });
    await expect(saveMap(db, rig.id, { slots: rig.map.slots }, rig.mapVersion, personId)).rejects.toMatchObject({
      status: 409,
    });
    expect((await getRig(db, rig.id)).map.slots.toesL!.state).toBe('empty');
  });

  test('a map with joints that the rig lacks never reaches the database', async () => {
    const item = (await search({})).items[0]!;
    const rig = await getRig(db, item.rigId);
    await expect(
      saveMap(db, rig.id, { slots: { hips: { joint: 'Nobody' } } }, rig.mapVersion, personId),
    ).rejects.toThrow(/does not have/);
  });
});
