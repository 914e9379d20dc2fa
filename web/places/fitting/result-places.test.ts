import {
  bodyMapToJson,
  measureBody,
  PLANT_PARTS,
  PoseReader,
  restPose,
  rigToJson,
  soleTracks,
} from '@velvet-reel/motion';
import type { RigAnswer } from '@/contract';
import { holdTracks } from '../../../motion/analysis/holds';
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

const body = measureBody(rig, map);
const tracks = { ...soleTracks(rig, motion, body), ...holdTracks({ rig, map }, motion, body, restPose(rig)) };

test.each(PLANT_PARTS)('the spot of the %s is the one that plants are measured on', (part) => {
  const track = tracks[part]!;
  for (const f of [0, 11]) {
    const [x, z] = partSpot(answer, motion, part, f)!;
    expect(x).toBeCloseTo(track[3 * f]!, 4);
    expect(z).toBeCloseTo(track[3 * f + 2]!, 4);
  }
});

test('a frame beyond the end is the last', () => {
  expect(partSpot(answer, motion, 'seat', 900)).toEqual(partSpot(answer, motion, 'seat', 19));
  expect(slotPlace(answer, motion, 'head', 900)).toEqual(slotPlace(answer, motion, 'head', 19));
});
