import { alignmentTurns } from '../body/alignment';
import { type Body, measureBody } from '../body/body';
import type { Party } from '../body/party';
import { headingOf } from '../body/root-frame';
import { chainOf, jointOf } from '../bodymap/slots';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';

/** Points of the body that features look at, and how much each counts. 'chest' is the last spine joint. */
export const FEATURE_POINTS = [
  ['hips', 1],
  ['chest', 1],
  ['head', 1],
  ['upperArmL', 0.5],
  ['forearmL', 1],
  ['handL', 1.3],
  ['shinL', 1],
  ['footL', 1.3],
  ['toesL', 0.6],
  ['upperArmR', 0.5],
  ['forearmR', 1],
  ['handR', 1.3],
  ['shinR', 1],
  ['footR', 1.3],
  ['toesR', 0.6],
] as const;
export const FEATURE_WIDTH = 3 * FEATURE_POINTS.length;

/** Point of the other side, by index. */
export const MIRROR_POINT: readonly number[] = FEATURE_POINTS.map(([name]) => {
  const other = name.replace(/[LR]$/, (s) => (s === 'L' ? 'R' : 'L'));
  return FEATURE_POINTS.findIndex(([x]) => x === other);
});

/**
 * A motion as any body sees it: places of body points free of travel, heading and size.
 * values: [frame][point] x y z, in legs; x to the body's left, y above the ground, z ahead, origin under the hip centre.
 * heading: radians about Y from +Z, unwrapped. ground: [frame] x z of the hip centre, metres.
 */
export interface PoseFeatures {
  readonly fps: number;
  readonly frameCount: number;
  readonly values: Float32Array;
  readonly heading: Float32Array;
  readonly ground: Float32Array;
  readonly leg: number;
}

/** Slot that stands in for a missing one. */
function featureJoint(party: Party, name: string): number {
  const own = name === 'chest' ? (chainOf(party.map, 'spine').at(-1) ?? -1) : jointOf(party.map, name);
  if (own >= 0) return own;
  const next = name
    .replace('toes', 'foot')
    .replace(/^(hand|head|chest)/, (x) => (x === 'hand' ? 'forearm' : x === 'head' ? 'chest' : 'hips'));
  if (next !== name) return featureJoint(party, next);
  const above = name.replace('forearm', 'upperArm').replace('shin', 'thigh').replace('foot', 'shin');
  if (above !== name) return featureJoint(party, above);
  return Math.max(0, jointOf(party.map, 'hips'));
}

/**
 * Works the features out.
 * @param floor height of the ground under the motion, metres: one, or one for each frame of the motion
 * @param step every so many frames
 */
export function poseFeatures(
  party: Party,
  motion: Motion,
  floor: number | ArrayLike<number> = 0,
  step = 1,
  body: Body = measureBody(party.rig, party.map, party.pose, party.floor),
): PoseFeatures {
  const joints = FEATURE_POINTS.map(([name]) => featureJoint(party, name));
  const hips = joints[0]!;
  const aligned = alignmentTurns(party.rig, party.map, party.pose);
  const frames = Math.ceil(motion.frameCount / step);
  const leg = body.leg || Math.max(0.1, body.hipHeight) || 1;
  const values = new Float32Array(FEATURE_WIDTH * frames);
  const heading = new Float32Array(frames);
  const ground = new Float32Array(2 * frames);
  const reader = new ChainReader(party.rig, motion, [...new Set([...joints, ...body.hipJoints])]);
  let last = 0;
  for (let i = 0; i < frames; i++) {
    const { r, p } = reader.at(i * step);
    const h = headingOf(r, 4 * hips, aligned, 4 * hips, last);
    last = h;
    heading[i] = h;
    let cx = 0;
    let cz = 0;
    for (const a of body.hipJoints) {
      cx += p[3 * a]! / body.hipJoints.length;
      cz += p[3 * a + 2]! / body.hipJoints.length;
    }
    ground[2 * i] = cx;
    ground[2 * i + 1] = cz;
    const s = Math.sin(h);
    const c = Math.cos(h);
    const under = typeof floor === 'number' ? floor : floor[i * step]!;
    for (let k = 0; k < joints.length; k++) {
      const o = 3 * joints[k]!;
      const x = p[o]! - cx;
      const z = p[o + 2]! - cz;
      const at = FEATURE_WIDTH * i + 3 * k;
      values[at] = (c * x - s * z) / leg;
      values[at + 1] = (p[o + 1]! - under) / leg;
      values[at + 2] = (s * x + c * z) / leg;
    }
  }
  return { fps: motion.fps / step, frameCount: frames, values, heading, ground, leg };
}

/** The features as a mirror shows them: sides exchanged, x turned round. */
export function mirrorFeatures(features: PoseFeatures): PoseFeatures {
  const values = new Float32Array(features.values.length);
  for (let i = 0; i < features.frameCount; i++) {
    for (let k = 0; k < FEATURE_POINTS.length; k++) {
      const from = FEATURE_WIDTH * i + 3 * MIRROR_POINT[k]!;
      const to = FEATURE_WIDTH * i + 3 * k;
      values[to] = -features.values[from]!;
      values[to + 1] = features.values[from + 1]!;
      values[to + 2] = features.values[from + 2]!;
    }
  }
  return { ...features, values, heading: features.heading.map((h) => -h) };
}

const WEIGHTS = Float64Array.from(FEATURE_POINTS, ([, w]) => w);
const WEIGHT_SUM = WEIGHTS.reduce((s, w) => s + w, 0);

/** Weighted mean square distance of two frames, in legs². @param lift how much higher a stands than b, legs, taken out */
export function frameDistance(a: PoseFeatures, i: number, b: PoseFeatures, j: number, lift = 0): number {
  let sum = 0;
  for (let k = 0, x = FEATURE_WIDTH * i, y = FEATURE_WIDTH * j; k < WEIGHTS.length; k++, x += 3, y += 3) {
    const dx = a.values[x]! - b.values[y]!;
    const dy = a.values[x + 1]! - b.values[y + 1]! - lift;
    const dz = a.values[x + 2]! - b.values[y + 2]!;
    sum += WEIGHTS[k]! * (dx * dx + dy * dy + dz * dz);
  }
  return sum / WEIGHT_SUM;
}
