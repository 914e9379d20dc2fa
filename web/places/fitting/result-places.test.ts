import { bodyMapToJson, measureBody, PoseReader, rigToJson, SOLE_PARTS, soleTracks } from '@velvet-reel/motion';
import type { RigAnswer } from '@/client/types';
import { party, posedRig, wander } from '../../../motion/test/bodies';
import { partSpot, slotPlace } from './result-places';

const rig = posedRig(60, 0.9, true);
const { map } = party(rig);
const motion = wander(rig, 20, 4, 30, 0.3);
const answer = {
  rig: rigToJson(rig),
  map: bodyMapToJson(map, rig),
  floorM: null,
  heightM: 1.6,
} as unknown as RigAnswer;

test('the place of a slot is where forward kinematics has its joint', () => {
  for (const f of [0, 7, 19]) {
    const { p } = new PoseReader(rig, motion).at(f);
    const hand = rig.names.indexOf('LeftHand');
    slotPlace(answer, motion, 'handL', f)!.forEach((x, k) => expect(x).toBeCloseTo(p[3 * hand + k]!, 4));
  }
  expect(slotPlace(answer, motion, 'index1L', 0)).toBeUndefined();
});

test.each(SOLE_PARTS)('the spot of the %s is the one that plants are measured on', (part) => {
  const track = soleTracks(rig, motion, measureBody(rig, map))[part]!;
  for (const f of [0, 11]) {
    const [x, z] = partSpot(answer, motion, part, f)!;
    expect(x).toBeCloseTo(track[3 * f]!, 4);
    expect(z).toBeCloseTo(track[3 * f + 2]!, 4);
  }
});

test('hands, knees and the seat have spots, too; a frame beyond the end is the last', () => {
  for (const part of ['handR', 'kneeL', 'seat'] as const) expect(partSpot(answer, motion, part, 3)).toHaveLength(2);
  expect(slotPlace(answer, motion, 'head', 900)).toEqual(slotPlace(answer, motion, 'head', 19));
});
