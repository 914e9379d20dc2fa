import {
  bodyMapToJson,
  type Motion,
  NO_EDITS,
  PLACEMENT_DEFAULTS,
  type ReelMember,
  rigToJson,
} from '@velvet-reel/motion';
import { party, posedRig, wander } from '../../motion/test/bodies';
import { FIT_DEFAULTS } from '../wishes/wishes';
import { matchesOf, performMember, type ReelWish } from './solve-reel';

const rig = posedRig(60);
const small = posedRig(45, 0.7);
const json = (r: typeof rig) => ({
  rig: rigToJson(r),
  map: bodyMapToJson(party(r).map, r),
  restPose: null,
  floorM: null,
});
const motions: Record<string, Motion> = { walk: wander(rig, 60, 1, 30, 0.2), wave: wander(rig, 60, 5, 30, 0.2) };
const load = async (hash: string): Promise<Motion> => {
  const found = motions[hash];
  if (!found) throw new Error('it is away');
  return found;
};
const placement = (id: string, itemId: string, at: number) => ({
  id,
  itemId,
  at,
  ...PLACEMENT_DEFAULTS,
});
const member: ReelMember = {
  id: 'm',
  castId: 'c',
  order: 1,
  muted: false,
  base: [placement('a', 'walk', 0), placement('b', 'wave', 50)],
  overlays: [],
  keys: [],
};
const fit = { source: json(rig), settings: FIT_DEFAULTS, edits: NO_EDITS };
const wish = (target: typeof rig, own: boolean): ReelWish => ({
  fps: 30,
  frames: 110,
  member,
  target: json(target),
  sources: ['walk', 'wave'].map((itemId) => ({ laid: itemId, motionHash: itemId, fit: own ? null : fit })),
});

test('a member plays its items on its own skeleton, and every passage is measured', async () => {
  const done = await performMember(wish(rig, true), load);
  expect([done.motion.frameCount, done.missing]).toEqual([110, []]);
  expect(done.joins).toHaveLength(1);
  expect(done.joins[0]).toMatchObject({ from: 'a', to: 'b', kind: 'crossfade', start: 50, end: 60 });
  expect(done.joins[0]!.check.stepRatio).toBeGreaterThan(0);
});

test('items of another skeleton are fitted on the way, once', async () => {
  const first = await performMember(wish(small, false), load);
  const again = await performMember({ ...wish(small, false), member: { ...member, base: [member.base[0]!] } }, load);
  expect(first.motion.turns.length).toBe(4 * small.names.length * 110);
  // what was fitted is the same motion still
  expect(again.motion.turns.slice(0, 400)).toEqual(first.motion.turns.slice(0, 400));
});

test('what cannot be loaded is named, and the rest plays on', async () => {
  const gone = wish(rig, true);
  const done = await performMember(
    { ...gone, sources: [gone.sources[0]!, { laid: 'wave', motionHash: 'nothing', fit: null }] },
    load,
  );
  expect(done.missing).toEqual(['wave: it is away']);
  expect(done.joins).toHaveLength(0);
});

test('matches are sought in the whole of both, beyond what is cut off', async () => {
  const [a, b] = [placement('a', 'walk', 0), { ...placement('b', 'walk', 40), from: 30 }];
  const { matches, items } = await matchesOf(wish(rig, true), { ...a, to: 20 }, b, load);
  expect(matches[0]!.a).toBe(matches[0]!.b);
  expect(items.previous).toEqual({ frameCount: 60, fps: 30 });
});
