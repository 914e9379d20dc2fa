import type { Party } from '../body/party';
import { jointOf, SIDES } from '../bodymap/slots';
import { type CorrectionTrack, checkKeys, correct, HANDLES, type Handle } from '../layer/correct';
import { addOffsets, moveAt, type OffsetKey } from '../layer/offsets';
import type { Motion } from '../motion/motion';
import { moveJoint } from '../motion/move-joint';
import { PlaneReader } from '../motion/plane-pose';
import { type FlatChain, reachFlat } from '../motion/reach-flat';
import type { CutoutRig } from '../rig/rig';
import type { FlatParty } from './drive';

/** Corrections by hand on whatever it is: a body in space, or a cut-out in its plane. @throws MotionError as correct does */
export const correctAny = (party: Party, motion: Motion, tracks: readonly CorrectionTrack[]): Motion =>
  party.cutout ? correctFlat({ rig: party.cutout, map: party.map }, motion, tracks) : correct(party, motion, tracks);

/**
 * Corrections by hand on a cut-out, which stays in its plane: turns about the axis towards the eye, moves across the picture.
 * Hips that are moved leave the feet where they are; a hand or a foot that is pulled keeps its turn in the picture, and the limb
 * behind it bends to the side to which it was bent. Parts are drawn as long as they were. A head is turned by its joints alone.
 * @throws MotionError 'bad-argument' for keys out of order, 'bad-number' for what is no finite number
 */
export function correctFlat(party: FlatParty, motion: Motion, tracks: readonly CorrectionTrack[]): Motion {
  if (tracks.every((t) => t.keys.length === 0)) return motion;
  const { rig, map } = party;
  const joints = tracks.flatMap((t) => {
    const joint = 'joint' in t ? rig.names.indexOf(t.joint) : jointOf(map, t.handle);
    const keys = t.keys.flatMap((k) => (k.turn ? [inPlane(k)] : []));
    return joint >= 0 && keys.length > 0 ? [{ joint, keys }] : [];
  });
  const pulls = new Map<Handle, readonly OffsetKey[]>();
  for (const t of tracks) {
    if (!('handle' in t) || !t.keys.some((k) => k.move)) continue;
    checkKeys(t.keys);
    pulls.set(t.handle, movesOf(t.keys));
  }
  let moved = addOffsets(rig, motion, joints);
  const lift = pulls.get('hips');
  const hips = jointOf(map, 'hips');
  const limbs = limbsOf(
    rig,
    map,
    HANDLES.filter((h) => pulls.has(h) || (lift !== undefined && h.startsWith('foot'))),
  );
  const goals = limbs.map((limb) => goalsOf(rig, moved, limb, pulls.get(limb.handle) ?? []));
  if (lift && hips >= 0) moved = moveJoint(rig, moved, hips, (f) => moveAt(lift, f));
  return limbs.length > 0 ? reachFlat(rig, moved, limbs, goals) : moved;
}

/** A limb that can be pulled by its end. */
export interface FlatLimb extends FlatChain {
  readonly handle: Handle;
}

/** The limbs behind handles, as far as the figure has them. */
export const limbsOf = (rig: CutoutRig, map: FlatParty['map'], handles: readonly Handle[]): FlatLimb[] =>
  SIDES.flatMap((side) =>
    (
      [
        [`hand${side}`, ['upperArm', 'forearm', 'hand']],
        [`foot${side}`, ['thigh', 'shin', 'foot']],
      ] as const
    ).flatMap(([handle, parts]): FlatLimb[] => {
      const chain = handles.includes(handle) && chainTo(rig, map, parts.map((p) => `${p}${side}`) as never);
      return chain ? [{ handle, chain }] : [];
    }),
  );

function chainTo(
  rig: CutoutRig,
  map: FlatParty['map'],
  slots: readonly [string, string, string],
): FlatLimb['chain'] | undefined {
  const [upper, lower, end] = slots.map((s) => jointOf(map, s)) as [number, number, number];
  if (upper < 0 || end < 0) return undefined;
  const middle = lower < 0 ? upper : lower;
  const under = (joint: number, above: number): boolean => {
    for (let j = joint; j >= 0; j = rig.parents[j]!) if (j === above) return true;
    return false;
  };
  return under(end, middle) && under(middle, upper) ? [upper, middle, end] : undefined;
}

/** Turns out of the plane are no turns of a paper part. */
function inPlane(key: OffsetKey): OffsetKey {
  const [, , z, w] = key.turn!;
  const size = Math.hypot(z, w) || 1;
  const { move: _, ...rest } = key;
  return { ...rest, turn: [0, 0, z / size, w / size] };
}

const movesOf = (keys: readonly OffsetKey[]): OffsetKey[] =>
  keys.flatMap((k) => {
    if (!k.move) return [];
    const { turn: _, ...rest } = k;
    return [{ ...rest, move: [k.move[0], k.move[1], 0] as const }];
  });

/** Where the end of a limb is to be: 2 F numbers, metres. */
function goalsOf(rig: CutoutRig, motion: Motion, { chain }: FlatLimb, keys: readonly OffsetKey[]): Float64Array {
  const reader = new PlaneReader(rig, motion);
  const at = 6 * chain[2] + 4;
  const out = new Float64Array(2 * motion.frameCount);
  for (let f = 0; f < motion.frameCount; f++) {
    const frames = reader.read(f / motion.fps);
    const by = moveAt(keys, f);
    out[2 * f] = frames[at]! + by[0];
    out[2 * f + 1] = frames[at + 1]! + by[1];
  }
  return out;
}
