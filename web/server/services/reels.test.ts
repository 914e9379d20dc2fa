import { evaluateFitting, PLACEMENT_DEFAULTS, ReelEvaluator, readGltf, unpackMotion } from '../../../motion/index';
import { diffCells } from '../../documents/cells';
import { REEL, type ReelContent } from '../../documents/reel';
import { partyFromJson } from '../../wishes/party';
import { FIT_DEFAULTS, NO_CHANGE } from '../../wishes/wishes';
import { readSkeleton, testDatabase, type World } from '../test/world';
import { inUse } from './bin';
import { castRig } from './cast';
import { changeItem } from './edits';
import { takeIn } from './intake';
import { getItem, motionBytes } from './items';
import { changeInPlace } from './motion-changes';
import { reelsWith } from './reel-lists';
import { bakeReel, binReel, exportReel, getReel, listReels, makeReel, writeReel } from './reels';
import { getRig } from './rigs';

let w: World;
let castId: string;
let items: string[];
beforeAll(async () => {
  w = await testDatabase();
  const read = await readSkeleton();
  castId = (await takeIn(w.db, read, { fileName: 'On reels.glb', bytes: 10 }, w.personId)).result.cast[0]!.id;
  items = [await w.bring(1, 'First walk', { tags: ['walk'] }), await w.bring(2, 'Second walk')];
});
afterAll(() => w.close());

let pages = 0;
const page = (): string => `pageofreels${++pages}`;
const member = (id: string): ReelContent['members'][number] => ({
  id,
  castId,
  order: 1,
  muted: false,
  base: [
    { ...PLACEMENT_DEFAULTS, at: 0, id: 'a', itemId: items[0]! },
    { ...PLACEMENT_DEFAULTS, id: 'b', itemId: items[1]!, at: 30 },
  ],
  overlays: [],
  keys: [{ handle: 'head', keys: [{ frame: 5, move: [0, 0.02, 0] }] }],
});
const begin = (name: string) => makeReel(w.db, w.person, { name, frames: 70, members: [member('m')] });
const write = async (id: string, how: (c: ReelContent) => ReelContent, from?: ReelContent) => {
  const { content } = await getReel(w.db, id);
  const base = from ?? content;
  const writes = diffCells(REEL.split(base), REEL.split(how(base)));
  return writeReel(w.db, w.person, id, { client: page(), number: 1, writes });
};

test('a reel is listed with who is on it and how many items, those changed last first', async () => {
  const { id } = await begin('Fog bell');
  await begin('Later');
  await write(id, (c) => ({ ...c, frames: 90 }));
  const [first, second] = await listReels(w.db);
  expect(first).toMatchObject({ id, name: 'Fog bell', frames: 90, items: 2, first: items[0], version: 2 });
  expect(first!.members).toEqual([{ id: castId, name: 'On reels' }]);
  expect(second!.name).toBe('Later');
});

test('two who change different things both keep them, and a batch that comes twice is taken once', async () => {
  const { id } = await begin('Shared');
  const { content } = await getReel(w.db, id);
  await write(id, (c) => ({ ...c, name: 'Renamed' }), content);
  const moved = (c: ReelContent): ReelContent => ({
    ...c,
    members: c.members.map((m) => ({ ...m, base: m.base.map((p) => (p.id === 'b' ? { ...p, at: 44 } : p)) })),
  });
  const batch = { client: page(), number: 1, writes: diffCells(REEL.split(content), REEL.split(moved(content))) };
  const done = await writeReel(w.db, w.person, id, batch);
  expect(done.content.name).toBe('Renamed');
  expect(done.content.members[0]!.base[1]!.at).toBe(44);
  expect((await writeReel(w.db, w.person, id, batch)).version).toBe(done.version);
});

test('what a reel cannot hold is refused, and nothing of it is kept', async () => {
  const { id } = await begin('Refusing');
  const batch = { client: page(), number: 1, writes: [{ cell: 'frames', to: -3 }] };
  await expect(writeReel(w.db, w.person, id, batch)).rejects.toThrow();
  const stray = { client: page(), number: 1, writes: [{ cell: 'weather', to: 'fog' }] };
  await expect(writeReel(w.db, w.person, id, stray)).rejects.toThrow('no part "weather"');
  expect((await getReel(w.db, id)).version).toBe(1);
  await expect(getReel(w.db, 'nosuch')).rejects.toThrow('The reel');
});

test('an item says on which reels it lies, as long as they are not in the bin', async () => {
  const third = await w.bring(3, 'Third walk');
  const { id } = await begin('Bearing');
  const on = async () => (await reelsWith(w.db, third)).map((r) => r.name);
  expect(await on()).toEqual([]);
  await write(id, (c) => ({
    ...c,
    members: c.members.map((m) => ({
      ...m,
      base: [...m.base, { ...PLACEMENT_DEFAULTS, id: 'c', itemId: third, at: 60 }],
    })),
  }));
  expect(await on()).toEqual(['Bearing']);
  expect(await inUse(w.db, [third])).toMatchObject([{ name: 'Third walk', by: ['Bearing'] }]);
  await binReel(w.db, w.person, id, true);
  expect(await inUse(w.db, [third])).toEqual([]);
  expect(await on()).toEqual([]);
  expect((await listReels(w.db, true)).map((r) => r.name)).toContain('Bearing');
  await binReel(w.db, w.person, id, false);
  expect(await on()).toEqual(['Bearing']);
  await write(id, (c) => ({ ...c, members: [] }));
  expect(await on()).toEqual([]);
});

test('baked is what is shown, number by number, and knows where it came from', async () => {
  const { id } = await begin('Baked');
  const item = await bakeReel(w.db, w.person, id, { memberId: 'm', start: 10, end: 60, name: 'Both walks' });
  expect(item).toMatchObject({ name: 'Both walks', kind: 'clip', madeFor: castId, tags: ['walk'] });
  expect(item.provenance).toMatchObject({ how: 'reel', reel: id, reelName: 'Baked', start: 10, end: 60 });
  expect(item.facts.frameCount).toBe(51);
  // what a page would show
  const target = partyFromJson(await castRig(w.db, castId));
  const motions = new Map(
    await Promise.all(
      items.map(async (itemId) => {
        const own = await getItem(w.db, itemId);
        const source = partyFromJson(await getRig(w.db, own.rigId));
        const motion = unpackMotion(await motionBytes(w.db, own.motionHash));
        return [itemId, evaluateFitting(source, motion, target, FIT_DEFAULTS).motion] as const;
      }),
    ),
  );
  const live = new ReelEvaluator(target, 30).evaluate(member('m'), 70, (s) => motions.get(s.itemId)).motion;
  const kept = unpackMotion(await motionBytes(w.db, item.motionHash));
  const n = 4 * target.rig.names.length;
  let most = 0;
  kept.turns.forEach((x, i) => {
    most = Math.max(most, Math.abs(Math.abs(x) - Math.abs(live.turns[10 * n + i]!)));
  });
  // as far as packing rounds
  expect(most).toBeLessThan(2e-3);
});

test('one frame is baked into a pose, and what cannot be baked is refused with a sentence', async () => {
  const { id } = await begin('Odd');
  const bake = (wish: object) =>
    bakeReel(w.db, w.person, id, { memberId: 'm', start: 4, end: 4, name: 'One', ...wish });
  expect((await bake({})).kind).toBe('pose');
  await expect(bake({ end: 70 })).rejects.toThrow('Frames 5 to 71 are not within the reel’s 1 to 70.');
  await expect(bake({ memberId: 'nobody' })).rejects.toThrow('The member of the reel');
  await write(id, (c) => ({
    ...c,
    members: c.members.map((m) => ({ ...m, base: m.base.map((p) => ({ ...p, muted: true })) })),
  }));
  await expect(bake({})).rejects.toThrow('Nothing lies on this member’s lanes');
});

test('the version that was laid is baked, whatever is in force by then', async () => {
  const changing = await w.bring(9, 'Changing');
  const laid = await getItem(w.db, changing);
  const { id } = await makeReel(w.db, w.person, {
    name: 'Pinned',
    frames: 30,
    members: [
      {
        ...member('m'),
        keys: [],
        base: [{ ...PLACEMENT_DEFAULTS, at: 0, id: 'x', itemId: changing, versionId: laid.versionId }],
      },
    ],
  });
  const bake = async (name: string) =>
    (await bakeReel(w.db, w.person, id, { memberId: 'm', start: 0, end: 29, name })).motionHash;
  const before = await bake('Before');
  await changeInPlace(w.db, changing, { ...NO_CHANGE, mirror: true }, w.person, laid.versionId);
  expect(await bake('After')).toBe(before);
  const now = (await getItem(w.db, changing)).versionId;
  await write(id, (c) => ({
    ...c,
    members: c.members.map((m) => ({ ...m, base: m.base.map((p) => ({ ...p, versionId: now })) })),
  }));
  expect(await bake('Newest')).not.toBe(before);
});

test('an item in the bin is not played, and the rest is baked without it', async () => {
  const gone = await w.bring(7, 'Soon gone');
  const { id } = await begin('Without');
  await write(id, (c) => ({
    ...c,
    members: c.members.map((m) => ({
      ...m,
      base: [{ ...PLACEMENT_DEFAULTS, at: 0, id: 'x', itemId: gone }, ...m.base],
    })),
  }));
  await changeItem(w.db, w.person, gone, { binned: true });
  const item = await bakeReel(w.db, w.person, id, { memberId: 'm', start: 0, end: 20, name: 'Rest' });
  expect(item.provenance.how === 'reel' && item.provenance.items.map((i) => i.id).sort()).toEqual([...items].sort());
});

test('everybody who is shown goes out in one scene, with the cameras; whoever does nothing is left out', async () => {
  const { id } = await makeReel(w.db, w.person, {
    name: 'Scene',
    frames: 40,
    members: [
      member('m'),
      { ...member('n'), order: 2 },
      { ...member('hidden'), order: 3, muted: true },
      { ...member('idle'), order: 4, base: [] },
    ],
    cameras: [{ id: 'c', name: 'quay', keys: [{ frame: 0, eye: [0, 1, 4], target: [0, 1, 0], fov: 30 }] }],
  });
  const { name, bytes, left } = await exportReel(w.db, id);
  expect([name, left]).toEqual(['Scene.glb', ['On reels']]);
  const text = new TextDecoder().decode(
    bytes.subarray(20, 20 + new DataView(bytes.buffer, bytes.byteOffset).getUint32(12, true)),
  );
  const json = JSON.parse(text) as {
    scenes: { nodes: number[] }[];
    nodes: { name: string }[];
    animations: { name: string }[];
    cameras: unknown[];
  };
  expect(json.scenes[0]!.nodes.map((n) => json.nodes[n]!.name)).toEqual(['On reels', 'On reels', 'quay']);
  expect(json.animations.map((a) => a.name)).toEqual(['Scene']);
  expect(json.cameras).toHaveLength(1);
  expect((await readGltf(bytes)).clips[0]!.motion.frameCount).toBe(40);
  const empty = await makeReel(w.db, w.person, { name: 'Empty', members: [{ ...member('m'), base: [] }] });
  await expect(exportReel(w.db, empty.id)).rejects.toThrow('Nobody visible on this reel');
});
