import { sql } from 'drizzle-orm';
import { fieldChange, itemChange } from '../../contract';
import { insertFile, insertUpload } from '../db/bytes';
import { readTake, testDatabase, type World } from '../test/world';
import { destroyItems, inUse } from './bin';
import { addCast, changeCast, getCast } from './cast';
import { changeItem, EditConflict, editItems, setFavourite, undoGroup } from './edits';
import { addField, changeField, listFields, removeField } from './fields';
import { belowFolder, changeFolder, folderByPath, folderCounts, listFolders, pathIn, removeFolder } from './folders';
import { activity, historyOf } from './history';
import { getItem, getItems, motionBytes } from './items';
import { makePack, memberIds, setMembers } from './packs';
import { askForRight, closedFolders, decideRequest, openRequests, restrictFolder, rightsTo, takeRight } from './rights';
import { getRig, saveMap } from './rigs';
import { searchLibrary } from './search';
import { listSearches, removeSearch, saveSearch } from './searches';
import { setSteps, stepsAmong } from './sequences';
import { keepStill } from './stills';
import { changeTag, listTags } from './tags';
import { usesOf } from './uses';
import { listVersions, restoreVersion, saveOver } from './versions';

let w: World;
beforeAll(async () => {
  w = await testDatabase();
});
afterAll(() => w.close());
const find = async (text: string, more = {}) =>
  (await searchLibrary(w.db, w.library, w.person, { text, ...more })).items.map((i) => i.name);

describe('editing many', () => {
  test('is one step: all or none, and taken back as one', async () => {
    const ids = [await w.bring(101, 'Bulk one', { tags: ['a'] }), await w.bring(102, 'Bulk two', { tags: ['b'] })];
    const { group, changed } = await editItems(
      w.db,
      w.person,
      ids.map((id) => ({ id, change: { addTags: ['wet'], rights: 'own', rating: 4 } })),
    );
    expect(changed).toBe(2);
    expect((await getItems(w.db, ids)).map((i) => [i.tags, i.rights, i.rating])).toEqual([
      [['a', 'wet'], 'own', 4],
      [['b', 'wet'], 'own', 4],
    ]);
    await undoGroup(w.db, w.person, group);
    expect((await getItems(w.db, ids)).map((i) => [i.tags, i.rights, i.rating])).toEqual([
      [['a'], 'unknown', 0],
      [['b'], 'unknown', 0],
    ]);
  });

  test('with one item gone nothing at all is written', async () => {
    const id = await w.bring(103, 'Stays as it is');
    await expect(
      editItems(w.db, w.person, [
        { id, change: { name: 'Changed' } },
        { id: 'nobody', change: { name: 'x' } },
      ]),
    ).rejects.toMatchObject({ status: 404 });
    expect((await getItem(w.db, id)).name).toBe('Stays as it is');
    expect((await historyOf(w.db, 'item', id)).map((h) => h.action)).toEqual(['add']);
  });

  test('an edit that changes nothing leaves no trace', async () => {
    const id = await w.bring(104, 'Same', { tags: ['x'] });
    const { changed } = await editItems(w.db, w.person, [{ id, change: { name: 'Same', tags: [' X '] } }]);
    expect(changed).toBe(0);
    expect(await historyOf(w.db, 'item', id)).toHaveLength(1);
    expect((await getItem(w.db, id)).revision).toBe(1);
  });

  test('every field can be set and comes back', async () => {
    const id = await w.bring(105, 'All fields');
    const field = await addField(w.db, w.person, { name: 'Shot', type: 'text', options: [] });
    const change = {
      name: 'All of them',
      note: 'a note',
      heading: 'Second day',
      kind: 'clip' as const,
      folder: 'One / Two',
      tags: ['t1', 't2'],
      rating: 3,
      rights: 'licensed' as const,
      source: 'bought',
      madeFor: 'c1',
      props: [{ name: 'seat', heightM: 0.45 }],
      fields: { [field.id]: '12A' },
    };
    const { item, group } = await changeItem(w.db, w.person, id, change);
    const { folder, ...plain } = change;
    expect(item).toMatchObject(plain);
    expect(pathIn(await listFolders(w.db), item.folderId)).toBe(folder);
    const back = (await undoGroup(w.db, w.person, group)).items[0]!;
    expect(back).toMatchObject({
      name: 'All fields',
      note: '',
      heading: '',
      kind: 'take',
      tags: [],
      rating: 0,
      rights: 'unknown',
      madeFor: null,
      props: [],
    });
    expect(pathIn(await listFolders(w.db), back.folderId)).toBe('');
  });
});

describe('two people at once', () => {
  test('different fields merge; the same field is a conflict with both versions told', async () => {
    const id = await w.bring(111, 'Shared', { note: 'old' });
    const noor = await w.somebody('animator', 'Noor');
    await changeItem(w.db, noor, id, { note: 'Noor wrote this' });
    // the other one saw the old note, but changes the name
    await changeItem(w.db, w.person, id, { name: 'Shared by two' }, { name: 'Shared' });
    expect(await getItem(w.db, id)).toMatchObject({ name: 'Shared by two', note: 'Noor wrote this' });
    const clash = changeItem(w.db, w.person, id, { note: 'mine' }, { note: 'old' });
    await expect(clash).rejects.toBeInstanceOf(EditConflict);
    await expect(clash).rejects.toMatchObject({
      status: 409,
      conflicts: [{ id, field: 'note', theirs: 'Noor wrote this', yours: 'mine' }],
    });
    expect((await getItem(w.db, id)).note).toBe('Noor wrote this');
  });

  test('to write what is there already is no conflict', async () => {
    const id = await w.bring(112, 'Agreed');
    await changeItem(w.db, w.person, id, { rating: 5 });
    await changeItem(w.db, w.person, id, { rating: 5 }, { rating: 0 });
    expect((await getItem(w.db, id)).rating).toBe(5);
  });

  test('edits at the same moment go one after the other and none is lost', async () => {
    const id = await w.bring(113, 'Busy');
    await Promise.all(Array.from({ length: 12 }, (_, i) => changeItem(w.db, w.person, id, { addTags: [`t${i}`] })));
    expect((await getItem(w.db, id)).tags).toHaveLength(12);
    expect((await getItem(w.db, id)).revision).toBe(13);
  });

  test('taking back is refused where somebody has changed the same since', async () => {
    const id = await w.bring(114, 'First name');
    const { group } = await changeItem(w.db, w.person, id, { name: 'Second name' });
    await changeItem(w.db, w.person, id, { name: 'Third name' });
    await expect(undoGroup(w.db, w.person, group)).rejects.toMatchObject({ status: 409 });
    expect((await getItem(w.db, id)).name).toBe('Third name');
  });
});

describe('history and activity', () => {
  test('say who changed what, from what to what', async () => {
    const id = await w.bring(121, 'Old name');
    const noor = await w.somebody('animator', 'Noor Lind');
    await changeItem(w.db, noor, id, { name: 'New name' });
    const [entry] = await historyOf(w.db, 'item', id);
    expect(entry).toMatchObject({
      personName: 'Noor Lind',
      label: 'Renamed Old name to New name',
      before: { name: 'Old name' },
      after: { name: 'New name' },
    });
  });

  test('an action on many is one entry of the activity; a person’s own can be picked out', async () => {
    const ids = [await w.bring(122, 'Act one'), await w.bring(123, 'Act two')];
    const bram = await w.somebody('librarian', 'Bram');
    await editItems(
      w.db,
      bram,
      ids.map((id) => ({ id, change: { rating: 2 } })),
      'Two stars for two',
    );
    const own = await activity(w.db, { personId: bram.id });
    expect(own).toHaveLength(1);
    expect(own[0]).toMatchObject({ label: 'Two stars for two', count: 2, personName: 'Bram' });
    expect(own[0]!.subjects.map((s) => s.name).sort()).toEqual(['Act one', 'Act two']);
    const all = await activity(w.db, {});
    expect(all[0]!.seq).toBeGreaterThan(all.at(-1)!.seq);
    const earlier = await activity(w.db, { before: all[0]!.seq, limit: 1 });
    expect(earlier[0]!.seq).toBeLessThan(all[0]!.seq);
  });
});

describe('versions', () => {
  test('saving over keeps the old one; any can be put in force again', async () => {
    const id = await w.bring(131, 'Versioned');
    const first = await getItem(w.db, id);
    const { rigId } = first;
    const clip = (await readTake(132)).clips[0]!;
    const version = { rigId, clip, provenance: first.provenance, note: 'calmer' };
    const { item, group } = await saveOver(w.db, w.person, id, version, first.versionId);
    expect(item).toMatchObject({ version: 2, versions: 2 });
    expect(item.motionHash).not.toBe(first.motionHash);
    expect((await motionBytes(w.db, first.motionHash)).length).toBeGreaterThan(0);
    // whoever looked at the first one is told
    await expect(saveOver(w.db, w.person, id, version, first.versionId)).rejects.toMatchObject({ status: 409 });
    const back = await restoreVersion(w.db, w.person, id, first.versionId);
    expect(back.item.motionHash).toBe(first.motionHash);
    expect((await listVersions(w.db, id)).map((v) => [v.number, v.current, v.note])).toEqual([
      [2, false, 'calmer'],
      [1, true, ''],
    ]);
    // taking back does the same: nothing where that is so already, and not over a version that came since
    expect((await undoGroup(w.db, w.person, group)).changed).toBe(0);
    const again = await undoGroup(w.db, w.person, back.group);
    expect(again.items[0]!.versionId).toBe(item.versionId);
    expect((await undoGroup(w.db, w.person, group)).items[0]!.versionId).toBe(first.versionId);
    await saveOver(w.db, w.person, id, { ...version, note: 'third' }, first.versionId);
    await expect(undoGroup(w.db, w.person, group)).rejects.toMatchObject({ status: 409 });
    const other = await w.bring(133, 'Another');
    await expect(changeItem(w.db, w.person, other, { versionId: first.versionId })).rejects.toMatchObject({
      status: 404,
    });
    await expect(restoreVersion(w.db, w.person, other, first.versionId)).rejects.toMatchObject({ status: 404 });
  });

  test('the same motion on the same rig is read and kept once', async () => {
    const a = await getItem(w.db, await w.bring(134, 'Twin a'));
    const b = await getItem(w.db, await w.bring(134, 'Twin b'));
    expect(b.readingId).toBe(a.readingId);
    expect(b.versionId).not.toBe(a.versionId);
  });
});

describe('kinds', () => {
  test('nothing becomes a pack by its name, whoever asks', () => {
    expect(itemChange.safeParse({ kind: 'cycle' }).success).toBe(true);
    expect(itemChange.safeParse({ kind: 'pack' }).success).toBe(false);
  });
});

describe('packs', () => {
  test('are one entry with a count; members stay usable alone and say where they are', async () => {
    const ids = [await w.bring(141, 'Member a'), await w.bring(142, 'Member b')];
    const pack = await makePack(w.db, w.person, 'Both members', ids);
    expect(pack).toMatchObject({ kind: 'pack', members: 2 });
    expect((await getItem(w.db, ids[0]!)).packs).toEqual([{ id: pack.id, name: 'Both members' }]);
    expect(await find('', { pack: pack.id })).toEqual(['Member a', 'Member b']);
    expect(await find('kind:pack both')).toEqual(['Both members']);
    await setMembers(w.db, w.person, pack.id, [ids[1]!]);
    expect(await memberIds(w.db, pack.id)).toEqual([ids[1]]);
    await expect(setMembers(w.db, w.person, pack.id, [pack.id])).rejects.toMatchObject({ code: 'empty' });
    await expect(makePack(w.db, w.person, 'Of packs', [pack.id])).rejects.toMatchObject({ code: 'empty' });
    await expect(setMembers(w.db, w.person, ids[0]!, ids)).rejects.toMatchObject({ code: 'no-pack' });
  });
});

describe('sequences', () => {
  test('items go on into each other; what changed is told, and taken back by saying the opposite', async () => {
    const [a, b, c] = [await w.bring(161, 'Sits'), await w.bring(162, 'Rises'), await w.bring(163, 'Walks off')];
    expect(
      await setSteps(
        w.db,
        w.person,
        [
          [a, b],
          [b, c],
          [a, b],
        ],
        true,
      ),
    ).toEqual([
      [a, b],
      [b, c],
    ]);
    // said again, only what is new counts
    expect(
      await setSteps(
        w.db,
        w.person,
        [
          [a, b],
          [c, a],
        ],
        true,
      ),
    ).toEqual([[c, a]]);
    expect(await usesOf(w.db, b)).toMatchObject({
      next: [{ id: c, name: 'Walks off' }],
      before: [{ id: a, name: 'Sits' }],
      variants: [],
    });
    expect((await historyOf(w.db, 'item', a)).map((h) => h.label)).toContain('Sits leads to Rises');
    expect(
      await setSteps(
        w.db,
        w.person,
        [
          [a, b],
          [b, a],
        ],
        false,
      ),
    ).toEqual([[a, b]]);
    expect((await usesOf(w.db, a)).next).toEqual([]);
    // in the bin it is passed over, destroyed it is forgotten
    await changeItem(w.db, w.person, c, { binned: true });
    expect((await usesOf(w.db, b)).next).toEqual([]);
    await changeItem(w.db, w.person, c, { binned: false });
    expect((await usesOf(w.db, b)).next).toHaveLength(1);
    await changeItem(w.db, w.person, c, { binned: true });
    await destroyItems(w.db, w.person, [c], false);
    expect(await stepsAmong(w.db, [a, b, c])).toEqual([]);
  });

  test('an item into itself, a pack, what is gone and a closed folder are refused', async () => {
    const [a, b] = [await w.bring(164, 'One'), await w.bring(165, 'Two', { folder: 'Shut away' })];
    const pack = await makePack(w.db, w.person, 'Both', [a, b]);
    await expect(setSteps(w.db, w.person, [[a, a]], true)).rejects.toMatchObject({ code: 'itself' });
    await expect(setSteps(w.db, w.person, [[a, pack.id]], true)).rejects.toThrow('Both is a pack');
    await expect(setSteps(w.db, w.person, [[a, 'nobody']], true)).rejects.toMatchObject({ status: 404 });
    const { folderId } = await getItem(w.db, b);
    await restrictFolder(w.db, w.person, folderId!, { restricted: true });
    const animator = await w.somebody('animator');
    await expect(setSteps(w.db, animator, [[b, a]], true)).rejects.toMatchObject({ code: 'closed-folder' });
    // what comes after may lie where one may not write: nothing of it changes
    expect(await setSteps(w.db, animator, [[a, b]], true)).toEqual([[a, b]]);
    await restrictFolder(w.db, w.person, folderId!, { restricted: false });
  });
});

describe('the bin', () => {
  test('nothing in use is destroyed unless that was said; what is not binned never', async () => {
    const source = await w.bring(151, 'Source');
    const made = await w.bring(152, 'Made from it', { derivedFrom: source } as never);
    await changeItem(w.db, w.person, source, { binned: true });
    const { db, person } = w;
    const { items } = await import('../db/schema');
    const { eq } = await import('drizzle-orm');
    await db.update(items).set({ derivedFrom: source }).where(eq(items.id, made));
    expect(await inUse(db, [source])).toEqual([{ id: source, name: 'Source', by: ['Made from it'] }]);
    expect((await usesOf(db, source)).made.map((m) => m.name)).toEqual(['Made from it']);
    expect((await usesOf(db, made)).from?.name).toBe('Source');
    await expect(destroyItems(db, person, [source], false)).rejects.toMatchObject({ status: 409, code: 'in-use' });
    await expect(destroyItems(db, person, [made], true)).rejects.toMatchObject({ code: 'not-binned' });
    expect(await getItem(db, source)).toMatchObject({ name: 'Source' });
    expect(await destroyItems(db, person, [source], true)).toEqual({ destroyed: 1 });
    await expect(getItem(db, source)).rejects.toMatchObject({ status: 404 });
    expect((await getItem(db, made)).name).toBe('Made from it');
  });

  test('motions go with the last version that needs them, not before', async () => {
    const [a, b] = [await w.bring(155, 'Double a'), await w.bring(155, 'Double b')];
    const { motionHash } = await getItem(w.db, a);
    await editItems(
      w.db,
      w.person,
      [a, b].map((id) => ({ id, change: { binned: true } })),
    );
    await destroyItems(w.db, w.person, [a], false);
    expect((await motionBytes(w.db, motionHash)).length).toBeGreaterThan(0);
    await destroyItems(w.db, w.person, [b], false);
    await expect(motionBytes(w.db, motionHash)).rejects.toMatchObject({ status: 404 });
  });

  test('a pack outlives its first member and shows the next; with its last member it goes', async () => {
    const { db, person } = w;
    const [a, b] = [await w.bring(156, 'First of pack'), await w.bring(157, 'Second of pack')];
    const pack = await makePack(db, person, 'Outliving pack', [a, b]);
    const destroy = async (id: string): Promise<void> => {
      await editItems(db, person, [{ id, change: { binned: true } }]);
      await destroyItems(db, person, [id], true);
    };
    await destroy(a);
    const left = await getItem(db, pack.id);
    expect([left.members, left.motionHash]).toEqual([1, (await getItem(db, b)).motionHash]);
    expect(await find('outliving')).toEqual(['Outliving pack']);
    await destroy(b);
    await expect(getItem(db, pack.id)).rejects.toMatchObject({ status: 404 });
    expect(await find('outliving')).toEqual([]);
  });
});

describe('what is written together', () => {
  test('comes about whole or not at all: without its line of history nothing is changed', async () => {
    const { db, person } = w;
    const id = await w.bring(158, 'All or nothing', { folder: 'Quiet hold' });
    const item = await getItem(db, id);
    const rig = await getRig(db, item.rigId);
    const cast = await addCast(db, {
      name: 'Quiet one',
      rigId: item.rigId,
      heightM: 1.6,
      figure: null,
      personId: person.id,
    });
    await db.execute(sql.raw("create trigger mute before insert on changes for each row signal sqlstate '45000'"));
    try {
      for (const act of [
        () => restrictFolder(db, person, item.folderId!, { restricted: true }),
        () => setFavourite(db, person, id, true),
        () => saveMap(db, item.rigId, rig.map, rig.mapVersion, person.id),
        () => changeCast(db, person, cast.id, { name: 'Loud one' }),
      ])
        await expect(act()).rejects.toThrow();
    } finally {
      await db.execute(sql.raw('drop trigger mute'));
    }
    expect((await listFolders(db)).find((f) => f.id === item.folderId)!.restricted).toBe(false);
    expect((await getItem(db, id, person.id)).favourite).toBe(false);
    expect((await getRig(db, item.rigId)).mapVersion).toBe(rig.mapVersion);
    expect((await getCast(db, cast.id)).name).toBe('Quiet one');
  });

  test('a file of more bytes than a string can spell out is kept', async () => {
    const bytes = new Uint8Array(272 * 2 ** 20).fill(7);
    const hash = 'ab'.repeat(32);
    await w.db.transaction((tx) => insertFile(tx, hash, 'model/gltf-binary', bytes));
    await insertUpload(w.db, hash, bytes.subarray(0, 9));
    for (const [table, n] of [
      ['files', bytes.length],
      ['uploads', 9],
    ]) {
      const [rows] = (await w.db.execute(
        sql.raw(`select octet_length(bytes) n, right(bytes, 1) last from ${table} where hash = '${hash}'`),
      )) as unknown as [{ n: number; last: Buffer }[]];
      expect([Number(rows[0]!.n), rows[0]!.last[0]]).toEqual([n, 7]);
    }
  });
});

describe('folders', () => {
  test('nest, count, move and are never lost in themselves', async () => {
    const { db, person } = w;
    const deck = (await folderByPath(db, 'Ship / Deck', person.id))!;
    const ship = (await folderByPath(db, 'Ship', person.id))!;
    expect(await folderByPath(db, ' Ship /  Deck ', person.id)).toBe(deck);
    await w.bring(161, 'On deck', { folder: 'Ship / Deck' });
    expect((await folderCounts(db)).get(deck)).toBe(1);
    const all = await listFolders(db);
    expect(belowFolder(all, ship)).toEqual([ship, deck]);
    await expect(changeFolder(db, person, ship, { parentId: deck })).rejects.toMatchObject({ code: 'in-itself' });
    await folderByPath(db, 'Ship / Hold', person.id);
    await expect(changeFolder(db, person, deck, { name: 'hold' })).rejects.toMatchObject({ code: 'name-taken' });
    await changeFolder(db, person, deck, { name: 'Main deck', parentId: null });
    expect(pathIn(await listFolders(db), deck)).toBe('Main deck');
    await expect(removeFolder(db, person, deck)).rejects.toMatchObject({ code: 'not-empty' });
    await removeFolder(db, person, ship);
    expect((await listFolders(db)).some((f) => f.id === ship)).toBe(false);
  });
});

describe('rights', () => {
  test('a closed folder keeps others out until they have asked and been granted', async () => {
    const { db, person } = w;
    const noor = await w.somebody('animator', 'Noor again');
    const bram = await w.somebody('librarian', 'Bram again');
    const id = await w.bring(171, 'Suffix the door', { folder: 'Closed / Inner' });
    const open = await w.bring(172, 'Outside');
    const closed = (await folderByPath(db, 'Closed', person.id))!;
    const inner = (await folderByPath(db, 'Closed / Inner', person.id))!;
    await restrictFolder(db, bram, closed, { restricted: true });
    expect([...(await closedFolders(db, noor))].sort()).toEqual([closed, inner].sort());
    expect((await closedFolders(db, bram)).size).toBe(0);
    await expect(changeItem(db, noor, id, { name: 'x' })).rejects.toMatchObject({ status: 403, code: 'closed-folder' });
    // nor can anything be put in from outside
    await expect(changeItem(db, noor, open, { folder: 'Closed' })).rejects.toMatchObject({ code: 'closed-folder' });
    expect((await getItem(db, open)).folderId).toBeNull();
    await expect(changeFolder(db, noor, inner, { name: 'y' })).rejects.toMatchObject({ status: 403 });
    const asked = await askForRight(db, noor, closed, 'for the haul');
    expect(await askForRight(db, noor, closed, 'again')).toEqual(asked);
    expect((await openRequests(db)).map((r) => [r.personName, r.folderName])).toEqual([['Noor again', 'Closed']]);
    await decideRequest(db, bram, asked.id, true);
    await expect(decideRequest(db, bram, asked.id, false)).rejects.toMatchObject({ status: 409 });
    expect((await changeItem(db, noor, id, { name: 'Through the door' })).item.name).toBe('Through the door');
    expect((await rightsTo(db, [closed])).map((r) => r.personName)).toEqual(['Noor again']);
    await takeRight(db, bram, closed, noor.id);
    await expect(changeItem(db, noor, id, { name: 'z' })).rejects.toMatchObject({ status: 403 });
    await restrictFolder(db, bram, closed, { restricted: false });
    expect((await changeItem(db, noor, id, { name: 'Open again' })).item.name).toBe('Open again');
  });
});

describe('tags', () => {
  test('have colours and other words, are renamed and joined', async () => {
    const { db, person } = w;
    const [a, b] = [
      await w.bring(181, 'Wet walk', { tags: ['wet'] }),
      await w.bring(182, 'Damp walk', { tags: ['damp', 'wet'] }),
    ];
    const tag = (name: string) => listTags(db).then((all) => all.find((t) => t.name === name));
    const wet = (await tag('wet'))!;
    expect(wet.n).toBe(2);
    await changeTag(db, person, wet.id, { colour: 'verdigris', synonyms: ['soaked', 'wet'] });
    expect(await tag('wet')).toMatchObject({ colour: 'verdigris', synonyms: ['soaked'] });
    expect(await find('soaked')).toEqual(['Damp walk', 'Wet walk']);
    await changeTag(db, person, wet.id, { name: 'Drenched ' });
    expect(await find('tag:drenched')).toEqual(['Damp walk', 'Wet walk']);
    const damp = (await tag('damp'))!;
    const joined = await changeTag(db, person, damp.id, { name: 'drenched' });
    expect(joined).toMatchObject({ name: 'drenched', n: 2 });
    expect(joined.synonyms).toEqual(expect.arrayContaining(['damp', 'soaked']));
    expect((await getItem(db, b)).tags).toEqual(['drenched']);
    expect((await getItem(db, a)).tags).toEqual(['drenched']);
    expect(await find('tag:damp')).toEqual(['Damp walk', 'Wet walk']);
  });
});

describe('what else a library keeps', () => {
  test('favourites are one’s own', async () => {
    const id = await w.bring(191, 'Liked');
    const noor = await w.somebody('animator', 'Noor who likes');
    await setFavourite(w.db, noor, id, true);
    await setFavourite(w.db, noor, id, true);
    expect(
      (await searchLibrary(w.db, w.library, noor, { text: 'is:favourite' })).items.map((i) => [i.name, i.favourite]),
    ).toEqual([['Liked', true]]);
    expect(await find('is:favourite')).toEqual([]);
    await setFavourite(w.db, noor, id, false);
    expect((await searchLibrary(w.db, w.library, noor, { text: 'is:favourite' })).found).toBe(0);
  });

  test('saved searches are one’s own unless shared; others cannot remove them', async () => {
    const noor = await w.somebody('animator', 'Noor saves');
    const teo = await w.somebody('viewer', 'Teo');
    await saveSearch(w.db, noor, { name: 'Mine', view: '{}', shared: false });
    const shared = await saveSearch(w.db, noor, { name: 'Ours', view: '{}', shared: true });
    expect((await listSearches(w.db, noor)).map((s) => [s.name, s.mine])).toEqual([
      ['Mine', true],
      ['Ours', true],
    ]);
    expect((await listSearches(w.db, teo)).map((s) => [s.name, s.mine])).toEqual([['Ours', false]]);
    await expect(saveSearch(w.db, teo, { name: 'x', view: '{}', shared: true })).rejects.toMatchObject({ status: 403 });
    await expect(removeSearch(w.db, teo, shared.id)).rejects.toMatchObject({ status: 403 });
    await removeSearch(w.db, noor, shared.id);
    expect(await listSearches(w.db, teo)).toEqual([]);
  });

  test('an item holds nothing in fields that the library does not have, nor what they are not for', async () => {
    const field = await addField(w.db, w.person, { name: 'Height', type: 'number', options: [] });
    const id = await w.bring(188, 'Bounded');
    const set = (fields: Record<string, string | number | boolean>) => changeItem(w.db, w.person, id, { fields });
    for (let i = 0; i < 3; i++)
      await expect(set({ [`f${i}`]: 'x'.repeat(1000) })).rejects.toMatchObject({ status: 400, code: 'no-such-field' });
    await expect(set({ [field.id]: 'tall' })).rejects.toMatchObject({ status: 400 });
    await set({ [field.id]: 1.8 });
    expect((await getItem(w.db, id)).fields).toEqual({ [field.id]: 1.8 });
    await removeField(w.db, w.person, field.id);
  });

  test('own fields come, change and go; what items hold stays with them', async () => {
    const field = await addField(w.db, w.person, { name: 'Status', type: 'choice', options: ['raw', 'clean'] });
    await changeField(w.db, w.person, field.id, { options: ['raw', 'clean', 'final'] });
    expect((await listFields(w.db)).find((f) => f.id === field.id)?.options).toEqual(['raw', 'clean', 'final']);
    const id = await w.bring(192, 'With a field');
    await changeItem(w.db, w.person, id, { fields: { [field.id]: 'raw' } });
    await removeField(w.db, w.person, field.id);
    expect((await listFields(w.db)).some((f) => f.id === field.id)).toBe(false);
    expect((await getItem(w.db, id)).fields[field.id]).toBe('raw');
    // it comes back under its own id, once
    await addField(w.db, w.person, { name: 'Status', type: 'choice', options: ['raw'] }, field.id);
    expect((await listFields(w.db)).find((f) => f.id === field.id)).toMatchObject({ name: 'Status', options: ['raw'] });
    await expect(
      addField(w.db, w.person, { name: 'Other', type: 'text', options: [] }, field.id),
    ).rejects.toMatchObject({ status: 409 });
  });

  test('a change of a field’s name leaves its choices alone', () => {
    expect(fieldChange.parse({ name: 'Level' })).toEqual({ name: 'Level' });
    expect(fieldChange.safeParse({ type: 'number' }).success).toBe(false);
  });

  test('a picture is a PNG of sane size and nothing else', async () => {
    const png = (width: number, height: number): Uint8Array => {
      const bytes = new Uint8Array(64);
      bytes.set([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]);
      const view = new DataView(bytes.buffer);
      view.setUint32(12, 0x49484452);
      view.setUint32(16, width);
      view.setUint32(20, height);
      return bytes;
    };
    expect(await keepStill(w.db, png(480, 270))).toMatch(/^[0-9a-f]{64}$/);
    for (const bad of [
      png(0, 10),
      png(50_000, 10),
      new TextEncoder().encode('<svg onload="alert(1)"/>'),
      new Uint8Array(0),
    ])
      await expect(keepStill(w.db, bad)).rejects.toMatchObject({ code: 'no-picture' });
  });
});
