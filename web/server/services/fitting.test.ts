import { eq } from 'drizzle-orm';
import { importFile, restPose, skeletonFromJson, unpackMotion, writeGlb } from '../../../motion/index';
import { posedRig } from '../../../motion/test/bodies';
import type { ExportWish, RigAnswer } from '../../contract';
import { diffCells } from '../../documents/cells';
import { RIG_SETUP, type RigSetting, type RigSetup } from '../../documents/rig-setup';
import { partyFromJson } from '../../wishes/party';
import { FIT_DEFAULTS, type FitEdits, type FitSettings, NO_CHANGE } from '../../wishes/wishes';
import type { Database } from '../db/client';
import { itemLinks, jobParts } from '../db/schema';
import { Worker } from '../jobs/worker';
import { readSkeleton, testDatabase, type World } from '../test/world';
import { measureSkin, readFile } from '../threads/work';
import { addCast, castRig, changeCast, copyCast, getCast, measureSkins } from './cast';
import { keepDestination, listDestinations, removeDestination } from './destinations';
import { changeItem, undoGroup } from './edits';
import { fitJob, openFit, openFitAgain, redoFits } from './fit-jobs';
import { getFitting, saveFitting, writeFitting } from './fitting-documents';
import { exportCharacter, fitAgain, keepFitting } from './fittings';
import { fittingsOf, freshnessOf } from './freshness';
import { takeIn } from './intake';
import { getItem, getItems, motionBytes } from './items';
import { getJob, listParts } from './jobs';
import { changeInPlace, changeIntoNew } from './motion-changes';
import { makePack, memberIds } from './packs';
import { addProfile, applyProfile, listProfiles, removeProfile, restoreProfile } from './profiles';
import { replaceFile, respaceCast, weighReplacement } from './replacement';
import { restrictFolder } from './rights';
import { getRig, saveMap, writeRigSetup } from './rigs';
import { setSteps } from './sequences';
import { addStandIn } from './stand-ins';
import { usesOf } from './uses';

let world: World;
let db: Database;
let castId: string;
const EDITS: FitEdits = { frames: 40, plants: [], goals: [], looks: [], corrections: [] };

beforeAll(async () => {
  world = await testDatabase();
  db = world.db;
  const report = await takeIn(db, await readSkeleton(), { fileName: 'Short one.glb', bytes: 10 }, world.personId);
  castId = report.result.cast[0]!.id;
});
afterAll(() => world.close());

let batches = 0;
/** Sets something for a rig as a page does. */
async function setUp(rigId: string, setting: RigSetting): Promise<RigAnswer> {
  const { map, match, limits, pairs, sets } = await getRig(db, rigId);
  const now: RigSetup = { slots: map.slots, match, limits, pairs, sets };
  const writes = diffCells(RIG_SETUP.split(now), RIG_SETUP.split({ ...now, ...setting }));
  return writeRigSetup(db, world.personId, rigId, { client: 'pageone1', number: ++batches, writes });
}

/** Works until no job has anything left. */
async function work(): Promise<void> {
  const worker = new Worker(db);
  while (await worker.step());
}

describe('a fitting under work', () => {
  test('begins empty, is stored, and counts its versions', async () => {
    const itemId = await world.bring(1, 'Mast climb');
    expect(await getFitting(db, itemId, castId)).toMatchObject({ settings: null, version: 0 });
    const settings: FitSettings = { ...FIT_DEFAULTS, lower: 0.02, leave: ['head'] };
    await saveFitting(db, world.person, { itemId, castId, settings, edits: EDITS, version: 0 });
    const kept = await getFitting(db, itemId, castId);
    expect(kept).toMatchObject({ settings, edits: EDITS, version: 1, changedByName: 'Test Person' });
  });

  test('a colleague’s newer version is not written over, whoever was first', async () => {
    const itemId = await world.bring(2, 'Two at once');
    const other = await world.somebody('animator', 'Quick Colleague');
    await saveFitting(db, other, { itemId, castId, settings: FIT_DEFAULTS, edits: EDITS, version: 0 });
    for (const version of [0, 7])
      await expect(
        saveFitting(db, world.person, { itemId, castId, settings: FIT_DEFAULTS, edits: EDITS, version }),
      ).rejects.toMatchObject({ code: 'changed-meanwhile', message: expect.stringContaining('Quick Colleague') });
    expect((await getFitting(db, itemId, castId)).version).toBe(1);
  });

  test('what two write at the same time stands side by side, and a batch counts once however often it comes', async () => {
    const itemId = await world.bring(41, 'Side by side');
    const other = await world.somebody('animator', 'Busy Colleague');
    const pair = { itemId, castId };
    const lower = { client: 'pageone1', number: 1, writes: [{ cell: 'settings/lower', to: 0.03 }] };
    const limits = { client: 'pagetwo2', number: 1, writes: [{ cell: 'settings/limits', to: true }] };
    await Promise.all([
      writeFitting(db, world.person, pair, lower),
      writeFitting(db, other, pair, limits),
      writeFitting(db, world.person, pair, lower),
    ]);
    expect(await getFitting(db, itemId, castId)).toMatchObject({ settings: { lower: 0.03, limits: true }, version: 2 });
    // the colleague sets the same; what the first one sent again late, or takes back, leaves it
    await writeFitting(db, other, pair, { ...limits, number: 2, writes: [{ cell: 'settings/lower', to: 0.1 }] });
    await writeFitting(db, world.person, pair, lower);
    const back = { ...lower, number: 2, writes: [{ cell: 'settings/lower', to: 0, was: 0.03 }] };
    expect((await writeFitting(db, world.person, pair, back)).settings!.lower).toBe(0.1);
  });

  test('what a fitting cannot hold is refused whole', async () => {
    const itemId = await world.bring(42, 'Cannot hold');
    const pair = { itemId, castId };
    const at = (cell: string, to: unknown) =>
      writeFitting(db, world.person, pair, {
        client: 'pageone1',
        number: 1,
        writes: [
          { cell: 'settings/clear', to: false },
          { cell, to },
        ],
      });
    await expect(at('settings/lower', 9)).rejects.toThrow();
    await expect(at('settings/weather', 'fog')).rejects.toMatchObject({ status: 400, code: 'unknown-cell' });
    await expect(at('correction/handle nose/3', { move: [0, 0, 0] })).rejects.toThrow();
    expect(await getFitting(db, itemId, castId)).toMatchObject({ settings: null, version: 0 });
    // and a program that stores the whole of it begins where nothing was set
    expect(await saveFitting(db, world.person, { ...pair, settings: FIT_DEFAULTS, edits: EDITS, version: 0 })).toEqual({
      version: 1,
    });
  });

  test('what is kept of it knows edits and settings, and has another motion for them', async () => {
    const itemId = await world.bring(3, 'Pulled hand');
    const edits: FitEdits = {
      ...EDITS,
      plants: null,
      corrections: [{ handle: 'handL', keys: [{ frame: 0, move: [0, 0.05, 0] }] }],
    };
    const plain = await keepFitting(db, itemId, castId, FIT_DEFAULTS, 'Plain', world.person);
    const done = await keepFitting(db, itemId, castId, FIT_DEFAULTS, 'Pulled', world.person, edits);
    expect(done.motionHash).not.toBe(plain.motionHash);
    expect(done.provenance).toMatchObject({ how: 'fitting', edits, sourceItem: itemId });
  });
});

describe('kept fittings and what changed since', () => {
  test('fresh at first; out of date when the source gets a version; fresh again when fitted again', async () => {
    const itemId = await world.bring(4, 'Coil');
    const kept = await keepFitting(db, itemId, castId, FIT_DEFAULTS, 'Coil on Short one', world.person);
    expect(await freshnessOf(db, kept.id)).toEqual({ reasons: [], possible: true });
    const source = await getItem(db, itemId);
    await changeInPlace(db, itemId, { ...NO_CHANGE, mirror: true }, world.person, source.versionId);
    expect((await freshnessOf(db, kept.id))!.reasons).toEqual(['Coil is at version 2 now']);
    expect((await getItem(db, kept.id)).motionHash).toBe(kept.motionHash);
    const again = await fitAgain(db, world.person, kept.id, kept.versionId);
    expect(again.item).toMatchObject({ id: kept.id, version: 2 });
    expect(again.item.motionHash).not.toBe(kept.motionHash);
    expect(await freshnessOf(db, kept.id)).toEqual({ reasons: [], possible: true });
    await undoGroup(db, world.person, again.group);
    expect((await getItem(db, kept.id)).motionHash).toBe(kept.motionHash);
  });

  test('a changed map and a changed pose are told, a reason alone is not', async () => {
    const itemId = await world.bring(5, 'Heave');
    const kept = await keepFitting(db, itemId, castId, FIT_DEFAULTS, 'Heave on Short one', world.person);
    const member = await getCast(db, castId);
    const rig = await getRig(db, member.rigId);
    const slots = { ...rig.map.slots, head: { ...rig.map.slots.head!, why: 'looked at again' } };
    const same = await saveMap(db, rig.id, { slots }, rig.mapVersion, world.personId);
    expect((await freshnessOf(db, kept.id))!.reasons).toEqual([]);
    const without = { ...slots, head: { joint: null, state: 'empty', why: 'on purpose' } };
    const changed = await saveMap(db, rig.id, { slots: without }, same.mapVersion, world.personId);
    expect((await freshnessOf(db, kept.id))!.reasons).toEqual(['the body map of Short one was changed']);
    await saveMap(db, rig.id, { slots: rig.map.slots }, changed.mapVersion, world.personId);
    const turns = skeletonFromJson(rig.rig).names.flatMap(() => [0, 0, 0, 1]);
    await setUp(rig.id, { match: { turns, how: 'by hand' } });
    expect((await freshnessOf(db, kept.id))!.reasons).toEqual(['the pose for matching of Short one was changed']);
    await setUp(rig.id, { match: null });
    expect((await fittingsOf(db, castId)).find((f) => f.id === kept.id)).toMatchObject({
      reasons: [],
      sourceName: 'Heave',
    });
  });

  test('changed limits are told where the fitting kept them, and only there', async () => {
    const itemId = await world.bring(9, 'Reach');
    const free = await keepFitting(db, itemId, castId, FIT_DEFAULTS, 'Free', world.person);
    const held = await keepFitting(db, itemId, castId, { ...FIT_DEFAULTS, limits: true }, 'Held', world.person);
    const { id } = await castRig(db, castId);
    const limits = { head: { bone: [0, 1, 0], middle: [0, 1, 0], cone: 20 } } as const;
    await setUp(id, { limits });
    expect((await freshnessOf(db, held.id))!.reasons).toEqual(['the joint limits of Short one were changed']);
    expect((await freshnessOf(db, free.id))!.reasons).toEqual([]);
    await setUp(id, { limits: null });
    expect((await freshnessOf(db, held.id))!.reasons).toEqual([]);
  });

  test('what was not fitted has no freshness and cannot be fitted again', async () => {
    const itemId = await world.bring(6, 'Just a take');
    expect(await freshnessOf(db, itemId)).toBeNull();
    const { versionId } = await getItem(db, itemId);
    await expect(fitAgain(db, world.person, itemId, versionId)).rejects.toMatchObject({ code: 'no-fitting' });
  });

  test('who may not change a folder cannot fit what lies in it again', async () => {
    const itemId = await world.bring(7, 'Locked', { folder: 'Closed' });
    const kept = await keepFitting(db, itemId, castId, FIT_DEFAULTS, 'Locked one', world.person);
    await restrictFolder(db, world.person, kept.folderId!, { restricted: true });
    const animator = await world.somebody('animator');
    await expect(fitAgain(db, animator, kept.id, kept.versionId)).rejects.toMatchObject({ code: 'closed-folder' });
  });
});

describe('what is set for a rig by hand', () => {
  test('pose, limits, pairs and sets are kept; the bind pose is untouched', async () => {
    const { rigId } = await getCast(db, castId);
    const rig = await getRig(db, rigId);
    const before = JSON.stringify(rig.rig);
    const kept = await setUp(rigId, {
      sets: [{ name: 'Grip', joints: ['LeftHand', 'RightHand'] }],
      pairs: [['LeftHand', 'RightHand']],
    });
    expect(kept.sets).toEqual([{ name: 'Grip', joints: ['LeftHand', 'RightHand'] }]);
    expect(kept.pairs).toEqual([['LeftHand', 'RightHand']]);
    expect(JSON.stringify(kept.rig)).toBe(before);
    expect((await castRig(db, castId)).mapVersion).toBe(rig.mapVersion + 1);
  });

  test.each([
    [
      'a pose with too few numbers',
      { match: { turns: [0, 0, 0, 1], how: '' } },
      'needs 84 numbers, four for each joint; it has 4.',
    ],
    ['a joint that is not there', { sets: [{ name: 'x', joints: ['Tail'] }] }, 'no joint "Tail"'],
    [
      'a joint in two pairs',
      {
        pairs: [
          ['LeftHand', 'RightHand'],
          ['LeftHand', 'Head'],
        ] as [string, string][],
      },
      'is in two pairs',
    ],
    ['a slot that nobody has', { slots: { gill: { joint: 'Head', state: 'sure', why: '' } } }, 'not a slot'],
  ])('%s is refused', async (_, setting, words) => {
    const { id } = await castRig(db, castId);
    await expect(setUp(id, setting as RigSetting)).rejects.toThrow(words);
  });

  test('two who set two slots, a limit and a set at once have all of them, and each batch counts once', async () => {
    const other = await world.somebody('animator');
    const { id, mapVersion, map } = await castRig(db, castId);
    const empty = { joint: null, state: 'empty', why: 'on purpose' };
    const limit = { bone: [0, 1, 0], middle: [0, 1, 0], cone: 20 };
    const mine = {
      client: 'pagemine',
      number: 1,
      writes: [
        { cell: 'slot/head', to: empty },
        { cell: 'own limits', to: true },
        { cell: 'limit/head', to: limit },
      ],
    };
    const theirs = {
      client: 'pagetheirs',
      number: 1,
      writes: [
        { cell: 'slot/neck1', to: empty },
        { cell: 'set/Feet', to: ['LeftFoot', 'RightFoot'] },
      ],
    };
    await Promise.all([
      writeRigSetup(db, world.personId, id, mine),
      writeRigSetup(db, other.id, id, theirs),
      writeRigSetup(db, world.personId, id, mine),
    ]);
    const both = await getRig(db, id);
    expect(both.mapVersion).toBe(mapVersion + 2);
    expect(both.map.slots).toMatchObject({ head: empty, neck1: empty, handL: map.slots.handL });
    expect(both.limits).toEqual({ head: limit });
    expect(both.sets.map((s) => s.name)).toContain('Feet');
    // joints that no slot holds any more are free again
    expect(both.map.unused).toContain(map.slots.head!.joint);
    const back = { ...mine, number: 2, writes: [{ cell: 'slot/head', to: map.slots.head }] };
    await writeRigSetup(db, world.personId, id, back);
    const sets = both.sets.filter((s) => s.name !== 'Feet');
    await setUp(id, { slots: map.slots, limits: null, sets } as RigSetting);
  });
});

describe('the skin of a character', () => {
  /** A skeleton with a tube of skin about its left shin. */
  async function withSkin(): Promise<Uint8Array> {
    const rig = posedRig(80);
    const shin = rig.names.indexOf('LeftLeg');
    const { p } = restPose(rig);
    const rings = Array.from({ length: 240 }, (_, i) => ({ y: 0.4 * ((i >> 4) / 15), a: ((i % 16) / 8) * Math.PI }));
    const mesh = {
      name: 'shin',
      positions: Float32Array.from(
        rings.flatMap(({ y, a }) => [
          p[3 * shin]! + 0.07 * Math.sin(a),
          p[3 * shin + 1]! - y,
          p[3 * shin + 2]! + 0.07 * Math.cos(a),
        ]),
      ),
      normals: undefined,
      uvs: undefined,
      colors: undefined,
      joints: Uint16Array.from(rings.flatMap(() => [shin, 0, 0, 0])),
      weights: Float32Array.from(rings.flatMap(() => [1, 0, 0, 0])),
      indices: Uint32Array.from(rings.slice(2).flatMap((_, i) => [i, i + 1, i + 2])),
      material: -1,
      shapes: [],
    };
    return writeGlb({ rig, figure: { meshes: [mesh], materials: [], images: [] } });
  }

  test('is measured as it comes in, goes with copies and reaches the solve', async () => {
    const read = await readFile({ bytes: await withSkin(), name: 'skin.glb' });
    if (!('ok' in read)) throw new Error(read.refused.message);
    const { cast } = (await takeIn(db, read.ok, { fileName: 'skin.glb', bytes: 1 }, world.personId)).result;
    const rig = await castRig(db, cast[0]!.id);
    const shin = skeletonFromJson(rig.rig).names.indexOf('LeftLeg');
    expect(rig.skin!.around[shin]).toBeCloseTo(0.07, 2);
    expect(partyFromJson(rig).radii!.kneeL).toBeCloseTo(0.08, 1);
    const copy = await copyCast(db, world.person, cast[0]!.id, 'With a skin, too');
    expect((await castRig(db, copy.id)).skin).toEqual(rig.skin);
  });

  test('that was never measured is caught up with once; one that cannot be read is not asked for again', async () => {
    const bytes = await withSkin();
    const rigId = (await getCast(db, castId)).rigId;
    const figure = { glb: bytes, floorM: 0, skin: null, vertexCount: 240 };
    const some = { rigId, heightM: 1.7, personId: world.personId };
    const old = await addCast(db, { ...some, name: 'From before', figure });
    const broken = await addCast(db, { ...some, name: 'Broken', figure: { ...figure, glb: Uint8Array.of(1, 2, 3) } });
    const measure = async (glb: Uint8Array) => {
      const outcome = await measureSkin(glb);
      if ('refused' in outcome) throw new Error(outcome.refused.message);
      return outcome.ok;
    };
    expect(await measureSkins(db, measure)).toBe(2);
    expect(Math.max(...(await getCast(db, old.id)).skin!.around)).toBeCloseTo(0.07, 2);
    expect((await getCast(db, broken.id)).skin).toEqual({ around: [], ahead: [] });
    expect(partyFromJson(await castRig(db, broken.id)).radii).toBeUndefined();
    expect(await measureSkins(db, measure)).toBe(0);
  });
});

describe('copies, variants and another file', () => {
  test('what is done to a copy does not touch the original', async () => {
    const copy = await copyCast(db, world.person, castId, 'Short one, trial');
    expect(copy).toMatchObject({ name: 'Short one, trial', variantOf: castId });
    const [mine, theirs] = [await castRig(db, copy.id), await castRig(db, castId)];
    expect(mine.id).not.toBe(theirs.id);
    expect(mine.sets).toEqual(theirs.sets);
    const slots = { ...mine.map.slots, head: { joint: null, state: 'empty', why: 'trial' } };
    await saveMap(db, mine.id, { slots }, mine.mapVersion, world.personId);
    expect((await castRig(db, castId)).map.slots.head).toEqual(theirs.map.slots.head);
    // a file with this skeleton still finds the original
    const again = await takeIn(db, await readSkeleton(), { fileName: 'again.glb', bytes: 1 }, world.personId);
    expect((await getCast(db, again.result.cast[0]!.id)).rigId).toBe(theirs.id);
  });

  test('another file is weighed before it is taken, takes the map along, and can be taken back', async () => {
    const member = await addCast(db, {
      name: 'Changing one',
      rigId: (await getCast(db, castId)).rigId,
      heightM: 1.2,
      figure: null,
      personId: world.personId,
    });
    const rig = posedRig(45, 0.9, true);
    const file = await writeGlb({ rig: { ...rig, names: rig.names.map((n) => (n === 'LeftToe' ? 'LeftToes' : n)) } });
    const read = await readFile({ bytes: file, name: 'new.glb' });
    if (!('ok' in read)) throw new Error(read.refused.message);
    const report = await weighReplacement(db, member.id, read.ok);
    expect(report.differences).toMatchObject({ added: ['LeftToes'], removed: ['LeftToe'] });
    expect(report.slotsLost).toEqual([{ slot: 'toesL', joint: 'LeftToe' }]);
    expect((await getCast(db, member.id)).rigId).toBe(member.rigId);
    const done = await replaceFile(db, world.person, member.id, read.ok);
    const now = await castRig(db, member.id);
    expect(now.id).not.toBe(member.rigId);
    expect(now.map.slots.toesL!.joint).toBe('LeftToes');
    expect(now.map.slots.forearmR!.joint).toBe('RightForeArm');
    expect(now.sets).toEqual([{ name: 'Grip', joints: ['LeftHand', 'RightHand'] }]);
    await changeCast(db, world.person, member.id, done.undo);
    expect((await getCast(db, member.id)).rigId).toBe(member.rigId);
  });
});

describe('a character that was read wrongly', () => {
  const lying = async (): Promise<string> => {
    const member = await addCast(db, {
      name: 'Lying one',
      rigId: (await getCast(db, castId)).rigId,
      heightM: (await getCast(db, castId)).heightM,
      figure: null,
      personId: world.personId,
    });
    return member.id;
  };

  test('becomes ten times as large with everything that was said of it, and small again', async () => {
    const id = await lying();
    const before = await getCast(db, id);
    const done = await respaceCast(db, world.person, id, 10, 'none');
    expect(done.member.heightM / before.heightM).toBeCloseTo(10, 3);
    expect(done.member.found.unitWhy).toMatch(/by hand/);
    const now = await castRig(db, id);
    expect(now.map.slots.forearmL!.joint).toBe('LeftForeArm');
    expect(now.restKind).toBe('A');
    await changeCast(db, world.person, id, done.undo);
    expect((await getCast(db, id)).heightM).toBe(before.heightM);
  });

  test('four quarter turns bring it back to the skeleton it was', async () => {
    const id = await lying();
    const { rigId } = await getCast(db, id);
    const ahead = async (): Promise<number[]> => {
      const rig = skeletonFromJson((await castRig(db, id)).rig);
      const pose = restPose(rig);
      const [foot, toe] = ['LeftFoot', 'LeftToe'].map((n) => rig.names.indexOf(n)) as [number, number];
      return [0, 1, 2].map((k) => pose.p[3 * toe + k]! - pose.p[3 * foot + k]!);
    };
    const first = await ahead();
    await respaceCast(db, world.person, id, 1, 'left');
    const turned = await ahead();
    expect(turned[0]!).toBeCloseTo(first[2]!, 4);
    for (let i = 0; i < 3; i++) await respaceCast(db, world.person, id, 1, 'left');
    (await ahead()).forEach((x, k) => expect(x).toBeCloseTo(first[k]!, 4));
    expect((await getCast(db, id)).rigId).not.toBe('');
    expect(rigId).not.toBe('');
  });
});

describe('saved body maps', () => {
  test('are listed with where they serve, laid on a rig, and taken away without harm', async () => {
    const rig = await castRig(db, castId);
    const profile = await addProfile(db, world.person, rig.id, 'Deck hands');
    const [row] = await listProfiles(db);
    expect(row).toMatchObject({ name: 'Deck hands', byName: 'Test Person' });
    expect(row!.serves.map((s) => s.id)).toContain(castId);
    const slots = { ...rig.map.slots, head: { joint: null, state: 'empty', why: 'x' } };
    const wrong = await saveMap(db, rig.id, { slots }, rig.mapVersion, world.personId);
    const done = await applyProfile(db, world.person, profile.id, rig.id, wrong.mapVersion);
    expect(done.map.slots.head!.joint).toBe(rig.map.slots.head!.joint);
    const { undo } = await removeProfile(db, world.person, profile.id);
    await restoreProfile(db, world.person, profile.id, undo);
    expect((await listProfiles(db)).find((p) => p.id === profile.id)).toMatchObject({ name: undo.name });
    await expect(restoreProfile(db, world.person, profile.id, undo)).rejects.toMatchObject({ status: 409 });
    await removeProfile(db, world.person, profile.id);
    expect(await listProfiles(db)).toEqual([]);
    expect((await castRig(db, castId)).map.slots.head!.joint).toBe(rig.map.slots.head!.joint);
  });

  test('one that names joints the rig lacks is refused by name', async () => {
    const rig = await castRig(db, castId);
    const itemRig = await getRig(db, (await getItem(db, await world.bring(8, 'Other'))).rigId);
    const profile = await addProfile(db, world.person, itemRig.id, 'Same names');
    // both test skeletons have equal names: it serves
    await expect(applyProfile(db, world.person, profile.id, rig.id, rig.mapVersion)).resolves.toBeDefined();
    const odd = await readFile({
      bytes: await writeGlb({ rig: { ...posedRig(45), names: posedRig(45).names.map((n) => `k_${n}`) } }),
      name: 'odd.glb',
    });
    if (!('ok' in odd)) throw new Error(odd.refused.message);
    const taken = await takeIn(db, odd.ok, { fileName: 'odd.glb', bytes: 1 }, world.personId);
    const oddRig = await castRig(db, taken.result.cast[0]!.id);
    await expect(applyProfile(db, world.person, profile.id, oddRig.id, oddRig.mapVersion)).rejects.toThrow('Hips');
  });
});

test('a destination remembers its settings, takes new ones, and can be forgotten', async () => {
  const wish: ExportWish = { format: 'bvh', mesh: false, sparse: false, folders: true, fps: 24 };
  await keepDestination(db, world.person, 'Wharf edit', wish);
  await keepDestination(db, world.person, 'Wharf edit', { ...wish, fps: 30 });
  const [row, ...rest] = await listDestinations(db);
  expect(rest).toEqual([]);
  expect(row).toMatchObject({ name: 'Wharf edit', wish: { fps: 30 } });
  await removeDestination(db, world.person, row!.id);
  expect(await listDestinations(db)).toEqual([]);
});

test('a stand-in joins the cast, is on hand where nobody was, and a motion fits it', async () => {
  const somebody = { ...world.person, performerId: null };
  const member = await addStandIn(db, somebody, { name: 'Stand-in', rest: 'A', heightM: 1.7 });
  expect(member).toMatchObject({ name: 'Stand-in', heightM: 1.7, assets: {} });
  const rig = await castRig(db, member.id);
  expect(rig.restKind).toBe('A');
  expect(Object.values(rig.map.slots).some((s) => s.state === 'guessed')).toBe(false);
  // another of that height shares its skeleton, map and all
  expect((await addStandIn(db, somebody, { name: 'Another', rest: 'A', heightM: 1.7 })).rigId).toBe(member.rigId);
  const kept = await keepFitting(db, await world.bring(91, 'Sway'), member.id, FIT_DEFAULTS, 'Swayed', world.person);
  expect(kept).toMatchObject({ madeFor: member.id, rigId: member.rigId });
});

test('a character goes out as one file with motion of its skeleton in it; other motion is refused by name', async () => {
  const source = await world.bring(93, 'Swab');
  const made = [];
  for (const name of ['Swabbed', 'Swabbed', 'Swept'])
    made.push((await keepFitting(db, source, castId, FIT_DEFAULTS, name, world.person)).id);
  const file = await exportCharacter(db, castId, { itemIds: made, mesh: true, keyTolerance: null });
  expect(file.name).toBe('Short one.glb');
  const back = await importFile(file.bytes, file.name);
  expect(back.clips.map((c) => c.name).sort()).toEqual(['Swabbed', 'Swabbed 2', 'Swept']);
  expect(back.rig.names).toEqual((await castRig(db, castId)).rig.joints.map((j) => j.name));
  const vrm = await exportCharacter(db, castId, { itemIds: [], mesh: true, keyTolerance: null, vrm: true });
  expect(vrm.name).toMatch(/\.vrm$/);
  const length = new DataView(vrm.bytes.buffer, vrm.bytes.byteOffset).getUint32(12, true);
  const gltf = JSON.parse(new TextDecoder().decode(vrm.bytes.subarray(20, 20 + length))) as {
    nodes: { name: string }[];
    extensions: { VRMC_vrm: { humanoid: { humanBones: Record<string, { node: number }> } } };
  };
  const { hips, head } = gltf.extensions.VRMC_vrm.humanoid.humanBones;
  expect([hips, head].map((b) => gltf.nodes[b!.node]!.name)).toEqual(['Hips', 'Head']);
  const bare = await exportCharacter(db, castId, { itemIds: [], mesh: false, keyTolerance: null });
  expect((await importFile(bare.bytes, bare.name)).clips).toEqual([]);
  await expect(
    exportCharacter(db, castId, { itemIds: [source], mesh: true, keyTolerance: null }),
  ).rejects.toMatchObject({ code: 'other-skeleton', message: expect.stringContaining('Swab is on another skeleton') });
});

describe('whole folders and packs at once', () => {
  test('a folder and a pack onto two characters: packs, variants and sequences are made anew among the copies', async () => {
    const a = await world.bring(21, 'Row one', { folder: 'Rowing' });
    const b = await world.bring(22, 'Row two', { folder: 'Rowing / Night' });
    const c = await world.bring(23, 'Bail', { folder: 'Elsewhere' });
    const variant = await changeIntoNew(db, a, { ...NO_CHANGE, mirror: true }, 'Row one, mirrored', world.person);
    const elsewhere = await world.bring(94, 'Not fitted');
    await setSteps(
      db,
      world.person,
      [
        [a, b],
        [b, variant.id],
        [variant.id, a],
        [b, elsewhere],
      ],
      true,
    );
    const pack = await makePack(db, world.person, 'Wet work', [a, c]);
    const second = await copyCast(db, world.person, castId, 'Second one');
    const folderId = (await getItem(db, a)).folderId!;
    const job = await openFit(
      db,
      world.person,
      fitJob.parse({ itemIds: [pack.id], folderIds: [folderId], castIds: [castId, second.id], settings: FIT_DEFAULTS }),
    );
    expect(job.parts).toBe(8);
    await work();
    expect(await getJob(db, job.id)).toMatchObject({ state: 'done', counts: { done: 8, refused: 0 } });
    for (const [id, name] of [
      [castId, 'Short one'],
      [second.id, 'Second one'],
    ] as const) {
      const parts = (await listParts(db, job.id)).filter((p) => (p.result as { castId: string }).castId === id);
      const copyOf = (item: string): string =>
        (parts.find((p) => (p.result as { from: string }).from === item)!.result as { items: { id: string }[] })
          .items[0]!.id;
      const packs = (await getItems(db, [copyOf(a)]))[0]!.packs;
      expect(packs.map((p) => p.name)).toEqual([`Wet work on ${name}`]);
      expect(await memberIds(db, packs[0]!.id)).toEqual([copyOf(a), copyOf(c)]);
      expect((await getItem(db, copyOf(b))).packs).toEqual([]);
      expect((await usesOf(db, copyOf(variant.id))).variants).toEqual([{ id: copyOf(a), name: `Row one on ${name}` }]);
      // the sequence goes round among the copies as it does among the sources, and leads nowhere else
      for (const [from, to] of [
        [a, b],
        [b, variant.id],
        [variant.id, a],
      ] as const)
        expect((await usesOf(db, copyOf(from))).next.map((n) => n.id)).toEqual([copyOf(to)]);
    }
    const links = await db.select().from(itemLinks);
    expect(links.filter((l) => l.kind === 'variant')).toHaveLength(2);
    expect(links.filter((l) => l.kind === 'next')).toHaveLength(4 + 2 * 3);
  });

  test('what was set in Fitting is used; single items can have settings of their own', async () => {
    const a = await world.bring(31, 'Own document');
    const b = await world.bring(32, 'Own settings');
    const c = await world.bring(33, 'The job’s');
    await saveFitting(db, world.person, {
      itemId: a,
      castId,
      settings: { ...FIT_DEFAULTS, lower: 0.1 },
      edits: { ...EDITS, plants: null },
      version: 0,
    });
    const job = await openFit(
      db,
      world.person,
      fitJob.parse({
        itemIds: [a, b, c],
        castIds: [castId],
        settings: { ...FIT_DEFAULTS, travel: 'none' },
        perItem: { [b]: { ...FIT_DEFAULTS, travel: 'path' } },
        nameRule: '{character}: {item}',
        folder: 'Fitted',
      }),
    );
    await work();
    const made = await getItems(
      db,
      (await listParts(db, job.id)).map((p) => (p.result as { items: { id: string }[] }).items[0]!.id),
    );
    expect(made.map((m) => m.name)).toEqual([
      'Short one: Own document',
      'Short one: Own settings',
      'Short one: The job’s',
    ]);
    const settings = made.map((m) => (m.provenance as unknown as { settings: FitSettings }).settings);
    expect(settings.map((s) => [s.travel, s.lower])).toEqual([
      ['leg', 0.1],
      ['path', 0],
      ['none', 0],
    ]);
    expect(new Set(made.map((m) => m.folderId)).size).toBe(1);
  });

  test('the bad ones are made again as next versions; nothing is made twice', async () => {
    const a = await world.bring(41, 'Bad one');
    const b = await world.bring(42, 'Good one');
    const job = await openFit(
      db,
      world.person,
      fitJob.parse({ itemIds: [a, b], castIds: [castId], settings: FIT_DEFAULTS }),
    );
    await work();
    const parts = await listParts(db, job.id);
    const bad = parts.find((p) => (p.result as { from: string }).from === a)!;
    const before = (bad.result as { items: { id: string }[] }).items[0]!.id;
    const again = await redoFits(db, world.person, job.id, {
      parts: [bad.id],
      settings: { ...FIT_DEFAULTS, lower: 0.05 },
    });
    expect(again).toEqual({ again: 1 });
    await work();
    expect(await getItem(db, before)).toMatchObject({ version: 2, versions: 2 });
    const rows = await db.select().from(jobParts).where(eq(jobParts.jobId, job.id));
    expect(rows.map((r) => r.state)).toEqual(['done', 'done']);
    expect((rows.find((r) => r.id === bad.id)!.result as { items: { id: string }[] }).items[0]!.id).toBe(before);
    const other = await world.somebody('animator');
    await expect(redoFits(db, other, job.id, { parts: [bad.id], settings: FIT_DEFAULTS })).rejects.toMatchObject({
      code: 'no-right',
    });
  });

  test('kept fittings are made again as one job and as one step to take back, with their edits', async () => {
    const sources = [await world.bring(61, 'Reeve a'), await world.bring(62, 'Reeve b')];
    const plant = { part: 'heelL' as const, start: 2, end: 9 };
    const edits: FitEdits = { ...EDITS, plants: [plant] };
    const kept = [
      await keepFitting(db, sources[0]!, castId, { ...FIT_DEFAULTS, lower: 0.03 }, 'Reeved a', world.person, edits),
      await keepFitting(db, sources[1]!, castId, FIT_DEFAULTS, 'Reeved b', world.person),
    ];
    const { versionId } = await getItem(db, sources[1]!);
    await changeInPlace(db, sources[1]!, { ...NO_CHANGE, mirror: true }, world.person, versionId);
    const job = await openFitAgain(db, world.person, { itemIds: [...kept.map((k) => k.id), sources[0]!] });
    expect(job.parts).toBe(2);
    await work();
    expect(await getJob(db, job.id)).toMatchObject({ state: 'done', counts: { done: 2, refused: 0 } });
    const [a, b] = [await getItem(db, kept[0]!.id), await getItem(db, kept[1]!.id)];
    expect([a.version, b.version]).toEqual([2, 2]);
    // what had not changed comes out as it was, edits and settings included
    expect(a.motionHash).toBe(kept[0]!.motionHash);
    expect(a.provenance).toMatchObject({ settings: { lower: 0.03 }, edits: { plants: [plant] } });
    expect(b.motionHash).not.toBe(kept[1]!.motionHash);
    expect(await freshnessOf(db, b.id)).toEqual({ reasons: [], possible: true });
    await undoGroup(db, world.person, job.id);
    expect((await getItem(db, b.id)).versionId).toBe(kept[1]!.versionId);
    expect((await getItem(db, a.id)).versionId).toBe(kept[0]!.versionId);
    await expect(openFitAgain(db, world.person, { itemIds: sources })).rejects.toMatchObject({ code: 'no-fitting' });
  });

  test('what is set for a pack holds for its members, but for those that have their own', async () => {
    const ids = [await world.bring(63, 'Splice a'), await world.bring(64, 'Splice b')];
    const pack = await makePack(db, world.person, 'Splices', ids);
    const job = await openFit(
      db,
      world.person,
      fitJob.parse({
        itemIds: [pack.id],
        castIds: [castId],
        settings: FIT_DEFAULTS,
        perItem: { [pack.id]: { ...FIT_DEFAULTS, lower: 0.04 }, [ids[1]!]: { ...FIT_DEFAULTS, lower: 0.01 } },
      }),
    );
    await work();
    const lowered = new Map<string, number>();
    for (const part of await listParts(db, job.id)) {
      const made = await getItem(db, (part.result as { items: { id: string }[] }).items[0]!.id);
      if (made.provenance.how === 'fitting')
        lowered.set(made.provenance.sourceItem, (made.provenance.settings as FitSettings).lower);
    }
    expect([...lowered].sort()).toEqual([[ids[0], 0.04] as const, [ids[1], 0.01] as const].sort());
  });

  test('what is for one character alone is not fitted onto others until it is set free', async () => {
    const source = await world.bring(97, 'Coil');
    const own = await keepFitting(db, source, castId, FIT_DEFAULTS, 'Coil for one', world.person);
    const other = await addStandIn(db, world.person, { name: 'Somebody else', rest: 'T', heightM: 1.6 });
    await changeItem(db, world.person, own.id, { bound: true });
    expect(await getItem(db, own.id)).toMatchObject({ bound: true, madeFor: castId });
    const onto = (castIds: string[]) =>
      openFit(db, world.person, fitJob.parse({ itemIds: [own.id], castIds, settings: FIT_DEFAULTS }));
    await expect(onto([other.id])).rejects.toMatchObject({ code: 'bound', message: expect.stringContaining('alone') });
    await changeItem(db, world.person, own.id, { bound: false });
    expect((await onto([other.id])).parts).toBe(1);
  });

  test('a job of nothing, or onto nobody, is refused', async () => {
    await expect(
      openFit(db, world.person, fitJob.parse({ itemIds: ['nobody'], castIds: [castId], settings: FIT_DEFAULTS })),
    ).rejects.toMatchObject({ code: 'empty' });
    const a = await world.bring(51, 'Alone');
    await expect(
      openFit(db, world.person, fitJob.parse({ itemIds: [a], castIds: ['nobody'], settings: FIT_DEFAULTS })),
    ).rejects.toThrow('castIds');
    expect(fitJob.safeParse({ castIds: [castId], settings: FIT_DEFAULTS }).success).toBe(false);
  });

  test('a kept result plays on the character’s skeleton', async () => {
    const a = await world.bring(61, 'Whole way');
    const kept = await keepFitting(db, a, castId, FIT_DEFAULTS, 'Whole way, fitted', world.person);
    const motion = unpackMotion(await motionBytes(db, kept.motionHash));
    const rig = await castRig(db, castId);
    expect(motion.turns).toHaveLength(4 * rig.rig.joints.length * motion.frameCount);
  });
});
