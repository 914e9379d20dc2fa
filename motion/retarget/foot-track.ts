import type { Sole } from '../body/body';
import { jointOf, type Side } from '../bodymap/slots';
import { mulInv64, rotate64 } from '../math/fast';
import { mulQuat } from '../math/quat';
import { distance3 } from '../math/vec';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import { turnedRound } from '../motion/turned-round';
import { restPose } from '../rig/rig';
import type { RetargetPlan } from './plan';

/** One leg of the target over time, as transferred. All in the world, metres. */
export interface FootTrack {
  readonly side: Side;
  readonly sole: Sole;
  readonly thigh: number;
  readonly shin: number;
  /** 3 F each: hip joint, knee and ankle. */
  readonly hip: Float64Array;
  readonly knee: Float64Array;
  readonly ankle: Float64Array;
  /** Lengths of thigh and shin. */
  readonly bones: readonly [number, number];
  /** 4 F: turn of the foot joint. Corrected in place by the planner. */
  readonly turn: Float64Array;
  /** 4 F: turn of the toe joint; empty where there are none. */
  readonly toeTurn: Float64Array;
  /** From the foot's frame: ball to toe joint is fixed, so the toe joint's place follows from the ankle. */
  readonly toeOffset: Float64Array;
  /** 4: turn of the foot with its sole flat, looking forward. */
  readonly flat: Float64Array;
}

/** Follows both feet of the transferred motion. */
export function trackFeet(plan: RetargetPlan, given: Motion): FootTrack[] {
  const { rig, map, body, pose, cutout } = plan.target;
  // what is turned over has its feet on the other side
  const motion = turnedRound(cutout, given);
  const tracks: FootTrack[] = [];
  for (const side of ['L', 'R'] as const) {
    const sole = body.soles[side];
    if (!sole) continue;
    const toes = sole.toes;
    const [thigh, shin] = [jointOf(map, `thigh${side}`), jointOf(map, `shin${side}`)];
    const rest = pose ?? restPose(rig);
    tracks.push({
      side,
      sole,
      thigh,
      shin,
      bones: [distance3(rest.p, 3 * thigh, rest.p, 3 * shin), distance3(rest.p, 3 * shin, rest.p, 3 * sole.foot)],
      hip: new Float64Array(3 * motion.frameCount),
      knee: new Float64Array(3 * motion.frameCount),
      ankle: new Float64Array(3 * motion.frameCount),
      turn: new Float64Array(4 * motion.frameCount),
      toeTurn: new Float64Array(toes >= 0 ? 4 * motion.frameCount : 0),
      toeOffset:
        toes >= 0 && rig.parents[toes] === sole.foot
          ? Float64Array.from(rig.restT.subarray(3 * toes, 3 * toes + 3))
          : new Float64Array(3),
      // a foot of paper stands as it was drawn
      flat: Float64Array.from((cutout ? rest.r : plan.targetAligned).subarray(4 * sole.foot, 4 * sole.foot + 4)),
    });
  }
  const reader = new ChainReader(
    rig,
    motion,
    tracks.flatMap(({ sole }) => (sole.toes >= 0 ? [sole.foot, sole.toes] : [sole.foot])),
  );
  for (let f = 0; f < motion.frameCount; f++) {
    const pose = reader.at(f);
    for (const t of tracks) {
      for (let k = 0; k < 3; k++) {
        t.hip[3 * f + k] = pose.p[3 * t.thigh + k]!;
        t.knee[3 * f + k] = pose.p[3 * t.shin + k]!;
        t.ankle[3 * f + k] = pose.p[3 * t.sole.foot + k]!;
      }
      for (let k = 0; k < 4; k++) t.turn[4 * f + k] = pose.r[4 * t.sole.foot + k]!;
      if (t.sole.toes >= 0) for (let k = 0; k < 4; k++) t.toeTurn[4 * f + k] = pose.r[4 * t.sole.toes + k]!;
    }
  }
  return tracks;
}

/** Sole that lies flat and looks along a heading (radians about Y from +Z), sloping up by `rise` along it. */
export function flatTurn(
  dst: Float64Array | number[],
  o: number,
  flat: Float64Array,
  heading: number,
  rise: number,
): void {
  const yaw = [0, Math.sin(heading / 2), 0, Math.cos(heading / 2)];
  const pitch = [Math.sin(-rise / 2), 0, 0, Math.cos(rise / 2)];
  mulQuat(yaw, 0, yaw, 0, pitch, 0);
  mulQuat(dst, o, yaw, 0, flat, 0);
}

const relative = new Float64Array(4);
const ahead = new Float64Array(3);
const FORWARD = Float64Array.of(0, 0, 1);

/** Heading of a foot: where its forward direction points on the ground. */
export function headingOf(turn: Float64Array, o: number, flat: Float64Array): number {
  mulInv64(relative, 0, turn, o, flat, 0);
  rotate64(ahead, 0, relative, 0, FORWARD, 0);
  return Math.atan2(ahead[0]!, ahead[2]!);
}
