import { unpackMotion } from '../../../motion/index';
import type { Database } from '../db/client';
import { motions, rigs } from '../db/schema';
import { Refusal } from '../errors';
import { readSkeleton, readTake, testDatabase } from '../test/world';
import { castRig, changeCast, choosePerformer, listCast } from './cast';
import { listFolders } from './folders';
import { listIntakes, refuseIn, takeIn } from './intake';
import { changeItem, getItem, libraryCounts, motionBytes, pathOf, searchItems, stripsOf } from './items';
import { getRig, saveMap } from './rigs';

let db: Database;
let personId: string;
let close: () => Promise<void> = async () => undefined;
beforeAll(async () => {
  ({ db, personId, close } = await testDatabase());
});
afterAll(() => close());

const bring = async (seed: number, name: string, extra = {}) =>
  (await takeIn(db, await readTake(seed), `${name}.bvh`, 1000, personId, { item: { name, ...extra } })).result.items[0]!
    .id;

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
    expect((await stripsOf(db, [item.versionId]))[0]!.strip.length).toBeGreaterThan(500);
  });

  test('equal skeletons share one rig and its map; equal motions are kept once', async () => {
    await bring(1, 'The same again');
    const report = await takeIn(db, await readTake(2), 'other.bvh', 10, personId);
    expect(report.result.known).toBe(true);
    expect(await db.select().from(rigs)).toHaveLength(1);
    expect(await db.select({ hash: motions.hash }).from(motions)).toHaveLength(2);
  });

  test('a bare skeleton joins the cast and, as the first, comes on hand', async () => {
    const report = await takeIn(db, await readSkeleton(), 'skeleton.glb', 10, personId);
    expect(report.result.items).toEqual([]);
    const [member] = await listCast(db);
    expect(member).toMatchObject({ name: 'skeleton', restKind: 'A', fileHash: null });
    expect(Object.values(member!.map.slots).every((s) => s.state !== 'missing')).toBe(true);
  });

  test('a refused file leaves a report and nothing else', async () => {
    const before = (await searchItems(db, {})).total;
    await refuseIn(db, 'broken.bvh', 5, personId, 'truncated', 'It ends too soon.');
    const [newest] = await listIntakes(db);
    expect(newest).toMatchObject({ fileName: 'broken.bvh', state: 'refused', message: 'It ends too soon.' });
    expect((await searchItems(db, {})).total).toBe(before);
  });

  test('when keeping fails half-way nothing stays', async () => {
    const read = await readTake(50);
    const before = (await searchItems(db, {})).total;
    const broken = { ...read, clips: [read.clips[0]!, { ...read.clips[0]!, name: 'second', packed: null as never }] };
    await expect(takeIn(db, broken, 'half.bvh', 1, personId)).rejects.toThrow();
    expect((await searchItems(db, {})).total).toBe(before);
  });
});

describe('finding', () => {
  beforeAll(async () => {
    await bring(11, 'Rope haul', { tags: ['rope', 'two hands'], folder: 'Ferry / Deck', note: 'slow' });
    await bring(12, 'Rope coil', { tags: ['rope'], folder: 'Ferry / Deck', kind: 'cycle' });
    await bring(13, 'Gangway 100%', { tags: ['walk'], folder: 'Ferry / Shore' });
  });
  const names = async (search: Parameters<typeof searchItems>[1]): Promise<string[]> =>
    (await searchItems(db, search)).items.map((i) => i.name);

  test.each<[Parameters<typeof searchItems>[1], string[]]>([
    [{ words: 'rope' }, ['Rope coil', 'Rope haul']],
    [{ words: 'ROPE haul' }, ['Rope haul']],
    [{ words: 'rope -coil' }, ['Rope haul']],
    [{ words: 'two hands' }, ['Rope haul']],
    [{ words: 'slow' }, ['Rope haul']],
    [{ words: '100%' }, ['Gangway 100%']],
    [{ words: '%' }, ['Gangway 100%']],
    [{ words: "'; drop table items; --" }, []],
    [{ tag: 'rope' }, ['Rope coil', 'Rope haul']],
    [{ tag: 'rope', kind: 'cycle' }, ['Rope coil']],
  ])('%j', async (search, expected) => {
    expect(await names(search)).toEqual(expected);
  });

  test('a folder shows what lies below it too, and the total is always told', async () => {
    const ferry = (await listFolders(db)).find((f) => f.name === 'Ferry')!;
    const list = await searchItems(db, { folderId: ferry.id });
    expect(list.items).toHaveLength(3);
    expect(list.total).toBeGreaterThan(3);
  });

  test('what moves alike comes likest first, whatever it is called, and never out of the bin', async () => {
    const model = await bring(31, 'Swaying');
    const double = await bring(31, 'A double of it');
    const gone = await bring(31, 'Thrown away');
    await changeItem(db, gone, { binned: true });
    const other = await bring(32, 'Something else', { tags: ['apart'] });
    const read = await readTake(32);
    expect(read.clips[0]!.descriptor.length).toBeGreaterThan(50);
    const found = (await searchItems(db, { like: model })).items.map((i) => i.id);
    expect(found.slice(0, 2)).toEqual([model, double]);
    expect(found).not.toContain(gone);
    expect(await names({ like: model, tag: 'apart' })).toEqual(found.includes(other) ? ['Something else'] : []);
    await expect(searchItems(db, { like: 'nobody' })).rejects.toMatchObject({ status: 404 });
  });

  test('counts say how many each narrowing would leave', async () => {
    const counts = await libraryCounts(db);
    expect(counts.tags.find((t) => t.name === 'rope')!.n).toBe(2);
    expect(counts.kinds.find((k) => k.kind === 'cycle')!.n).toBe(1);
  });
});

describe('changing', () => {
  test('every change says what undoes it', async () => {
    const id = await bring(21, 'Before', { tags: ['one'], folder: 'A / B' });
    const { item, undo } = await changeItem(db, id, {
      name: 'After',
      tags: ['Two ', 'two', 'three'],
      folder: 'C',
      note: 'n',
    });
    expect(item).toMatchObject({ name: 'After', tags: ['three', 'two'], note: 'n' });
    expect(await pathOf(db, item.folderId)).toBe('C');
    const back = await changeItem(db, id, undo);
    expect(back.item).toMatchObject({ name: 'Before', tags: ['one'], note: '' });
    expect(await pathOf(db, back.item.folderId)).toBe('A / B');
  });

  test('the bin hides and gives back', async () => {
    const id = await bring(22, 'To the bin');
    const { undo } = await changeItem(db, id, { binned: true });
    expect((await searchItems(db, { words: 'To the bin' })).items).toEqual([]);
    expect((await searchItems(db, { words: 'To the bin', bin: true })).items).toHaveLength(1);
    await changeItem(db, id, undo);
    expect((await searchItems(db, { words: 'To the bin' })).items).toHaveLength(1);
  });

  test('what is not there is said to be gone', async () => {
    await expect(changeItem(db, 'nobody', { name: 'x' })).rejects.toMatchObject({ status: 404 });
    await expect(getItem(db, 'nobody')).rejects.toBeInstanceOf(Refusal);
  });

  test('cast members are renamed, binned and chosen', async () => {
    const [member] = await listCast(db);
    const { undo } = await changeCast(db, member!.id, { name: 'Odd one', binned: true });
    expect(await listCast(db)).toEqual([]);
    expect((await listCast(db, true))[0]!.name).toBe('Odd one');
    await changeCast(db, member!.id, undo);
    await choosePerformer(db, personId, member!.id);
    await expect(choosePerformer(db, personId, 'nobody')).rejects.toMatchObject({ status: 404 });
    expect((await castRig(db, member!.id)).rig.joints).toHaveLength(21);
  });
});

describe('body maps', () => {
  test('a corrected slot is kept for the rig; a stale one is refused with nothing lost', async () => {
    const item = (await searchItems(db, {})).items[0]!;
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
    const item = (await searchItems(db, {})).items[0]!;
    const rig = await getRig(db, item.rigId);
    await expect(
      saveMap(db, rig.id, { slots: { hips: { joint: 'Nobody' } } }, rig.mapVersion, personId),
    ).rejects.toThrow(/does not have/);
  });
});
