import type { Party } from '../body/party';
import { chainOf, jointOf, SIDES } from '../bodymap/slots';
import { MotionError } from '../errors';
import { mul64, norm, normalize64, rotate64 } from '../math/fast';
import { arcQuat, axisAngleQuat } from '../math/quat';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import { moveJoint } from '../motion/move-joint';
import { TurnWriter } from '../motion/turn-writer';
import { reachHands } from '../retarget/arms';
import { trackFeet } from '../retarget/foot-track';
import { ownPlan, type RetargetPlan } from '../retarget/plan';
import { bendLegs } from '../retarget/reach-feet';
import { addOffsets, moveAt, type OffsetKey, type OffsetTrack } from './offsets';

/** Parts that can be taken by the hand and pulled: the limb or trunk behind them follows. */
export const HANDLES = ['hips', 'head', 'handL', 'handR', 'footL', 'footR'] as const;
export type Handle = (typeof HANDLES)[number];

/**
 * Corrections by hand over time. Of a joint: turns in its own frame. Of a handle: moves in the world, metres, and turns in
 * the handle's own frame. Before the first and after the last key the offset holds.
 */
export type CorrectionTrack =
  | { readonly joint: string; readonly keys: readonly OffsetKey[] }
  | { readonly handle: Handle; readonly keys: readonly OffsetKey[] };

/**
 * Lays corrections over a motion, which stays as it was. Hips that are moved leave the feet where they are; a hand keeps
 * its turn in the world while it is pulled; a head is followed by the spine. Joints that the rig lacks are passed over.
 * Order: turns of joints, hips, trunk, legs, arms.
 * @throws MotionError 'bad-argument' for keys out of order, 'bad-number' for what is no finite number
 */
export function correct(party: Party, motion: Motion, tracks: readonly CorrectionTrack[]): Motion {
  if (tracks.every((t) => t.keys.length === 0)) return motion;
  const { rig, map } = party;
  const joints: OffsetTrack[] = tracks.flatMap((t) => {
    const joint = 'joint' in t ? rig.names.indexOf(t.joint) : -1;
    return joint >= 0 ? [{ joint, keys: t.keys.map(({ move: _, ...k }) => k) }] : [];
  });
  let moved = addOffsets(rig, motion, joints);
  const pulls = new Map<Handle, readonly OffsetKey[]>();
  for (const t of tracks) if ('handle' in t && t.keys.length > 0) pulls.set(t.handle, t.keys);
  if (pulls.size === 0) return moved;
  for (const keys of pulls.values()) checkKeys(keys);
  const plan = ownPlan(party);
  const feet = trackFeet(plan, moved);
  const turnOf = (handle: Handle, joint: number): void => {
    const keys = pulls.get(handle)?.filter((k) => k.turn);
    if (joint >= 0 && keys && keys.length > 0)
      moved = addOffsets(rig, moved, [{ joint, keys: keys.map(({ move: _, ...k }) => k) }]);
  };
  // (1) hips; the feet stay
  const hips = plan.carrier;
  turnOf('hips', hips);
  const lift = pulls.get('hips');
  if (lift) moved = moveJoint(rig, moved, hips, (f) => moveAt(lift, f));
  // (2) trunk
  const nod = pulls.get('head');
  if (nod) moved = bendTrunk(plan, moved, nod);
  turnOf('head', jointOf(map, 'head'));
  // (3) legs
  const legs = feet.filter((t) => lift || pulls.has(`foot${t.side}`));
  if (legs.length > 0) {
    const plans = legs.map((t) => {
      const keys = pulls.get(`foot${t.side}`) ?? [];
      const goal = Float64Array.from(t.ankle);
      for (let f = 0; f < moved.frameCount; f++) {
        const by = moveAt(keys, f);
        for (let k = 0; k < 3; k++) goal[3 * f + k] = goal[3 * f + k]! + by[k]!;
      }
      return { goal, held: new Uint8Array(moved.frameCount) };
    });
    moved = bendLegs(plan, moved, legs, plans, new Float64Array(moved.frameCount)).motion;
  }
  for (const side of SIDES) turnOf(`foot${side}`, jointOf(map, `foot${side}`));
  // (4) arms
  const goals = SIDES.flatMap((side) => {
    const keys = pulls.get(`hand${side}`);
    const hand = jointOf(map, `hand${side}`);
    if (!keys?.some((k) => k.move) || hand < 0) return [];
    const at = new Float64Array(3 * moved.frameCount);
    const weight = new Float32Array(moved.frameCount);
    const reader = new ChainReader(rig, moved, [hand]);
    for (let f = 0; f < moved.frameCount; f++) {
      const by = moveAt(keys, f);
      const { p } = reader.at(f);
      for (let k = 0; k < 3; k++) at[3 * f + k] = p[3 * hand + k]! + by[k]!;
      if (Math.hypot(...by) > 1e-6) weight[f] = 1;
    }
    return [{ side, at, weight }];
  });
  moved = reachHands(plan, moved, goals).motion;
  for (const side of SIDES) turnOf(`hand${side}`, jointOf(map, `hand${side}`));
  return moved;
}

/** @throws MotionError 'bad-argument' for keys out of order, 'bad-number' for a move that is no finite number */
export function checkKeys(keys: readonly OffsetKey[]): void {
  keys.forEach((k, i) => {
    if (!Number.isFinite(k.frame) || (i > 0 && k.frame <= keys[i - 1]!.frame))
      throw new MotionError('bad-argument', 'The keys of a correction must stand in rising order of frame.');
    if (k.move?.some((x) => !Number.isFinite(x)))
      throw new MotionError('bad-number', 'A correction is not a finite number.', { frame: k.frame });
  });
}

/** Bends the spine so that the head comes as near to where it is pulled as its length allows; the head keeps its turn. */
function bendTrunk(plan: RetargetPlan, motion: Motion, keys: readonly OffsetKey[]): Motion {
  const { rig, map } = plan.target;
  const head = jointOf(map, 'head');
  const spine = chainOf(map, 'spine');
  if (head < 0 || spine.length === 0) return motion;
  const writer = new TurnWriter(motion);
  const reader = new ChainReader(rig, motion, [...spine, head]);
  const places = new Float64Array(3 * (spine.length + 1));
  const want = new Float64Array(3);
  const total = new Float64Array(4);
  const above = new Float64Array(4);
  const own = new Float64Array(4);
  const turn = Float64Array.of(0, 0, 0, 1);
  const before = new Float64Array(4);
  const from = new Float64Array(3);
  const to = new Float64Array(3);
  const v = new Float64Array(3);
  const chain = [...spine, head];
  const write = (f: number, joint: number, before: Float64Array, after: Float64Array, r: Float64Array): void => {
    const parent = rig.parents[joint]!;
    if (parent >= 0) mul64(above, 0, before, 0, r, 4 * parent);
    mul64(own, 0, after, 0, r, 4 * joint);
    writer.write(f, joint, above, Math.min(0, parent), own, 0);
  };
  const same = Float64Array.of(0, 0, 0, 1);
  for (let f = 0; f < motion.frameCount; f++) {
    const by = moveAt(keys, f);
    const { r, p } = reader.at(f);
    for (let i = 0; i < chain.length; i++) for (let k = 0; k < 3; k++) places[3 * i + k] = p[3 * chain[i]! + k]!;
    const tip = 3 * spine.length;
    for (let k = 0; k < 3; k++) want[k] = places[tip + k]! + by[k]!;
    total.set(same);
    for (let i = 0; i < spine.length; i++) {
      for (let k = 0; k < 3; k++) {
        from[k] = places[tip + k]! - places[3 * i + k]!;
        to[k] = want[k]! - places[3 * i + k]!;
      }
      arcQuat(turn, 0, from, 0, to, 0);
      // every joint takes an equal part of what is left
      const half = norm(turn[0]!, turn[1]!, turn[2]!);
      const angle = (2 * Math.atan2(half, turn[3]!)) / (spine.length - i);
      if (half > 1e-9) axisAngleQuat(turn, 0, turn[0]! / half, turn[1]! / half, turn[2]! / half, angle);
      before.set(total);
      mul64(total, 0, turn, 0, total, 0);
      normalize64(total, 0);
      for (let m = i + 1; m <= spine.length; m++) {
        for (let k = 0; k < 3; k++) v[k] = places[3 * m + k]! - places[3 * i + k]!;
        rotate64(v, 0, turn, 0, v, 0);
        for (let k = 0; k < 3; k++) places[3 * m + k] = places[3 * i + k]! + v[k]!;
      }
      write(f, spine[i]!, before, total, r);
    }
    write(f, head, total, same, r);
  }
  return { ...motion, turns: writer.turns };
}
