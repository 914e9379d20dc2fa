import { jointOf, SIDES, TWIST_PARTS } from '../bodymap/slots';
import { alignSigns, invertQuat, mulInvQuat, mulQuat, normalizeQuat, rotate3, slerp, twistQuat } from '../math/quat';
import { normalize3 } from '../math/vec';
import type { Motion } from '../motion/motion';
import type { SkeletonRig } from '../rig/rig';
import type { RetargetPlan } from './plan';

const NEXT = { upperArm: 'forearm', forearm: 'hand', thigh: 'shin', shin: 'foot' } as const;

interface TwistJoint {
  readonly joint: number;
  /** Joint whose twist is shared: the one at the bone's end for forearm and shin, the bone's own for upper arm and thigh. */
  readonly driver: number;
  /** Bone direction in the frame in which the driver's departure is told. */
  readonly axis: readonly number[];
  /** Share of the driver's twist: above 0 goes along with it, below 0 takes it back. */
  readonly share: number;
  /** Joints that hang from it and stay where they are in the world. */
  readonly carried: readonly number[];
}

/** Twist joints of the target that no source joint turns. */
function freeTwists(plan: RetargetPlan): TwistJoint[] {
  const { rig, map } = plan.target;
  const out: TwistJoint[] = [];
  for (const side of SIDES) {
    for (const part of TWIST_PARTS) {
      const bone = jointOf(map, part + side);
      const end = jointOf(map, NEXT[part] + side);
      if (bone < 0 || end < 0) continue;
      const along = offsetFrom(rig, bone, end);
      const length = normalize3(along, 0);
      if (length < 1e-6) continue;
      const outer = part === 'forearm' || part === 'shin';
      for (let i = 1; i <= 4; i++) {
        const joint = jointOf(map, `${part}Twist${i}${side}`);
        if (joint < 0 || plan.a[joint]! >= 0) continue;
        const at = offsetFrom(rig, bone, joint);
        const u = Math.max(0, Math.min(1, (at[0]! * along[0]! + at[1]! * along[1]! + at[2]! * along[2]!) / length));
        const carried = [...rig.parents].flatMap((p, j) => (p === joint ? [j] : []));
        out.push({
          joint,
          driver: outer ? end : bone,
          // the end's departure is told in the bone's frame, the bone's own in its own
          axis: along,
          share: outer ? u : u - 1,
          carried,
        });
      }
    }
  }
  return out;
}

/** Place of a joint below another, in the latter's frame at rest. */
function offsetFrom(rig: SkeletonRig, ancestor: number, joint: number): number[] {
  const out = [rig.restT[3 * joint]!, rig.restT[3 * joint + 1]!, rig.restT[3 * joint + 2]!];
  for (let p = rig.parents[joint]!; p !== ancestor; p = rig.parents[p]!) {
    if (p < 0) return [0, 0, 0];
    rotate3(out, 0, rig.restR, 4 * p, out, 0);
    for (let k = 0; k < 3; k++) out[k] = out[k]! + rig.restT[3 * p + k]!;
  }
  return out;
}

/**
 * Shares the twist of wrists, ankles, upper arms and thighs among twist joints along the bones: swing and twist are taken
 * apart about the bone, and a twist joint at share u of the bone gets that share. Limbs themselves do not move.
 */
export function shareTwists(plan: RetargetPlan, motion: Motion): Motion {
  const twists = freeTwists(plan);
  if (twists.length === 0) return motion;
  const { rig } = plan.target;
  const n = rig.names.length;
  const turns = motion.turns.slice();
  const d = [0, 0, 0, 1];
  const part = [0, 0, 0, 1];
  const old = [0, 0, 0, 1];
  const back = [0, 0, 0, 1];
  const same = [0, 0, 0, 1];
  for (const { joint, driver, axis, share, carried } of twists) {
    const outer = share >= 0;
    for (let f = 0; f < motion.frameCount; f++) {
      const o = 4 * (f * n + joint);
      const q = 4 * (f * n + driver);
      if (outer) mulInvQuat(d, 0, motion.turns, q, rig.restR, 4 * driver);
      else {
        invertQuat(back, 0, rig.restR, 4 * driver);
        mulQuat(d, 0, back, 0, motion.turns, q);
      }
      twistQuat(d, 0, d, 0, axis[0]!, axis[1]!, axis[2]!);
      if (share < 0) invertQuat(d, 0, d, 0);
      slerp(part, 0, same, 0, d, 0, Math.abs(share));
      for (let k = 0; k < 4; k++) old[k] = turns[o + k]!;
      mulQuat(turns, o, part, 0, rig.restR, 4 * joint);
      normalizeQuat(turns, o);
      for (const c of carried) {
        const at = 4 * (f * n + c);
        invertQuat(back, 0, turns, o);
        mulQuat(back, 0, back, 0, old, 0);
        mulQuat(turns, at, back, 0, turns, at);
        normalizeQuat(turns, at);
      }
    }
    for (const j of [joint, ...carried]) alignSigns(turns, 4 * j, 4 * n, motion.frameCount);
  }
  return { ...motion, turns };
}
