import type { Plant } from '../analysis/plants';
import { jointOf, SIDES } from '../bodymap/slots';
import { rotate64 } from '../math/fast';
import { smoothstep } from '../math/vec';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import { HULL_POINTS } from '../rig/thickness';
import { weightOf } from './arms';
import { runningMean } from './envelope';
import type { FootTrack } from './foot-track';
import type { RetargetPlan } from './plan';
import type { HeldHips } from './settle-hips';

/** Hip joints lower than this share of a leg lie on the ground; between both, they come to. */
const ON_GROUND = 0.15;
const NEAR_GROUND = 0.28;
/** What lies on the ground may be lifted off it a little where legs would have to bend far otherwise. */
const SOFT = 0.1;
const REST_FADE_S = 0.25;

/**
 * Where the pelvis rests on the ground or on a seat, that and not the legs says how high it is: legs bend as they must. On the
 * ground a body rests on its own skin, where that is known, else as high as the source does, scaled.
 * @returns undefined where the pelvis never rests
 */
export function restingHips(
  plan: RetargetPlan,
  motion: Motion,
  tracks: readonly FootTrack[],
  plants: readonly Plant[],
): HeldHips | undefined {
  const { leg } = plan.target.body;
  const frames = motion.frameCount;
  const height = new Float64Array(frames);
  for (const { hip } of tracks)
    for (let f = 0; f < frames; f++) height[f] = height[f]! + hip[3 * f + 1]! / tracks.length;
  const seats = plants.filter((p) => p.part === 'seat');
  const onGround = height.map((y) => 1 - smoothstep((y / leg - ON_GROUND) / (NEAR_GROUND - ON_GROUND)));
  if (seats.length === 0 && !onGround.some((x) => x > 0)) return undefined;
  const fade = Math.round(REST_FADE_S * motion.fps);
  const spot = Float64Array.from(seats.length > 0 ? weightOf(seats, frames, fade) : new Float32Array(frames));
  return {
    level: onGround.map((x, f) => Math.max(SOFT * x, spot[f]!)),
    lift: runningMean(ontoSkin(plan, motion, height, onGround), fade >> 1),
    spot,
  };
}

/** How much higher the hips have to be so that the trunk lies on its skin where the source's lies on the ground, metres. */
function ontoSkin(plan: RetargetPlan, motion: Motion, height: Float64Array, onGround: Float64Array): Float64Array {
  const { rig, map, hull } = plan.target;
  const lift = new Float64Array(height.length);
  const low = [...height.keys()].filter((f) => onGround[f] === 1).map((f) => height[f]!);
  if (!hull || low.length === 0) return lift;
  // how high the source's hips are while they rest
  const rests = low.sort((a, b) => a - b)[low.length >> 1]!;
  const trunk = trunkJoints(plan).filter((j) => !Number.isNaN(hull[3 * HULL_POINTS * j]!));
  if (trunk.length === 0 || jointOf(map, 'hips') < 0) return lift;
  const points = Float64Array.from(hull);
  const reader = new ChainReader(rig, motion, trunk);
  const v = new Float64Array(3);
  for (let f = 0; f < height.length; f++) {
    if (onGround[f] === 0) continue;
    const { r, p } = reader.at(f);
    let lowest = Number.POSITIVE_INFINITY;
    for (const j of trunk)
      for (let i = 0; i < HULL_POINTS; i++) {
        rotate64(v, 0, r, 4 * j, points, 3 * (HULL_POINTS * j + i));
        lowest = Math.min(lowest, p[3 * j + 1]! + v[1]!);
      }
    lift[f] = onGround[f]! * (Math.max(0, height[f]! - rests) - lowest);
  }
  return lift;
}

/** Joints of trunk and head: what carries the hips or hangs from them and belongs to no limb. */
function trunkJoints(plan: RetargetPlan): number[] {
  const { rig, map } = plan.target;
  const limbs = new Set(
    SIDES.flatMap((s) => ['upperArm', 'thigh'].map((part) => jointOf(map, part + s))).filter((j) => j >= 0),
  );
  const off = new Uint8Array(rig.names.length);
  const own: number[] = [];
  const hips = jointOf(map, 'hips');
  const below = new Uint8Array(rig.names.length);
  for (let j = 0; j < rig.names.length; j++) {
    const above = rig.parents[j]!;
    if (limbs.has(j) || (above >= 0 && off[above])) off[j] = 1;
    if (j === hips || (above >= 0 && below[above])) below[j] = 1;
    if (below[j] && !off[j] && !plan.followers.some((f) => f.joint === j)) own.push(j);
  }
  return own;
}
