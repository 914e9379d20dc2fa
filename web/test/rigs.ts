// Skeletons as the server answers them, made from bodies of the core's own tests.
import { bodyMapToJson, rigToJson, type SkeletonRig } from '@velvet-reel/motion';
import { party, posedRig } from '../../motion/test/bodies';
import type { RigAnswer } from '../contract';

export function rigAnswer(more: Partial<RigAnswer> = {}, rig: SkeletonRig = posedRig(90)): RigAnswer {
  const { map } = party(rig);
  return {
    id: 'rig1',
    rig: rigToJson(rig),
    map: bodyMapToJson(map, rig),
    mapVersion: 1,
    restPose: null,
    restKind: 'T',
    heightM: 1.75,
    floorM: 0,
    skin: null,
    art: null,
    match: null,
    limits: null,
    pairs: null,
    sets: [],
    ...more,
  };
}
