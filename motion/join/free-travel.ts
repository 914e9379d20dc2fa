import type { Party } from '../body/party';
import { alignSigns, invMulQuat, normalizeQuat, rotate3 } from '../math/quat';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import { restPose, type SkeletonRig } from '../rig/rig';
import { travelJoint } from '../tune/common';

/** A body whose travelling joint hangs from nothing, and the ways there and back. */
export interface Freed {
  readonly party: Party;
  /** A motion as that body has it: the travelling joint's turns and places are those of the world. */
  readonly off: (motion: Motion) => Motion;
  /** Back under whatever it hangs from, as that moves. */
  readonly on: (motion: Motion) => Motion;
}

const known = new WeakMap<Party, Freed>();
const SAME = (motion: Motion): Motion => motion;

/**
 * Takes the joint that travels off what it hangs from (a root on the ground, an armature with other axes). Two motions that are
 * turned against each other can only be mixed there: mixed below a root that turns, places would swing round it.
 * Joints keep their numbers, and what is above goes on as a body of its own.
 */
export function freeTravel(party: Party): Freed {
  const before = known.get(party);
  if (before) return before;
  const made = freed(party);
  known.set(party, made);
  return made;
}

function freed(party: Party): Freed {
  const { rig } = party;
  const joint = travelJoint(party);
  const above = rig.parents[joint]!;
  if (above < 0) return { party, off: SAME, on: SAME };
  const n = rig.names.length;
  const rest = restPose(rig);
  const parents = rig.parents.slice();
  const restT = rig.restT.slice();
  const restR = rig.restR.slice();
  parents[joint] = -1;
  restT.set(rest.p.subarray(3 * joint, 3 * joint + 3), 3 * joint);
  restR.set(rest.r.subarray(4 * joint, 4 * joint + 4), 4 * joint);
  const free: SkeletonRig = { ...rig, parents, restT, restR };
  return {
    party: { ...party, rig: free },
    off: (motion) => {
      const turns = motion.turns.slice();
      const values = new Float32Array(3 * motion.frameCount);
      const reader = new ChainReader(rig, motion, [joint]);
      for (let f = 0; f < motion.frameCount; f++) {
        const { r, p } = reader.at(f);
        turns.set(r.subarray(4 * joint, 4 * joint + 4), 4 * (f * n + joint));
        values.set(p.subarray(3 * joint, 3 * joint + 3), 3 * f);
      }
      alignSigns(turns, 4 * joint, 4 * n, motion.frameCount);
      return withPlaces({ ...motion, turns }, joint, values);
    },
    on: (motion) => {
      const turns = motion.turns.slice();
      const values = motion.places.find((t) => t.joint === joint)!.values.slice();
      const reader = new ChainReader(rig, motion, [above]);
      const back = [0, 0, 0, 1];
      for (let f = 0; f < motion.frameCount; f++) {
        const { r, p } = reader.at(f);
        const o = 4 * (f * n + joint);
        invMulQuat(turns, o, r, 4 * above, turns, o);
        normalizeQuat(turns, o);
        for (let k = 0; k < 4; k++) back[k] = k < 3 ? -r[4 * above + k]! : r[4 * above + k]!;
        for (let k = 0; k < 3; k++) values[3 * f + k] = values[3 * f + k]! - p[3 * above + k]!;
        rotate3(values, 3 * f, back, 0, values, 3 * f);
      }
      alignSigns(turns, 4 * joint, 4 * n, motion.frameCount);
      return withPlaces({ ...motion, turns }, joint, values);
    },
  };
}

const withPlaces = (motion: Motion, joint: number, values: Float32Array): Motion => ({
  ...motion,
  places: [...motion.places.filter((t) => t.joint !== joint), { joint, values }],
});
