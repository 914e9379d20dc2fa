import { type BodyMap, chainOf, FINGERS, jointOf, LIMB_PARTS, SIDES, TWIST_PARTS } from '../bodymap/slots';
import { MotionError } from '../errors';
import { angleBetweenQuats } from '../math/quat';
import type { Motion } from '../motion/motion';
import { lengthTrack, ORDER_TRACK, type StepTrack, tellsLength, viewTrack } from '../motion/tracks';
import type { CutoutRig, SkeletonRig } from '../rig/rig';

/** Regions of a body that can be kept or left out on their own. */
export const REGIONS = [
  'hips',
  'trunk',
  'head',
  'left arm',
  'right arm',
  'left fingers',
  'right fingers',
  'left leg',
  'right leg',
  'face',
  'others',
] as const;
export type Region = (typeof REGIONS)[number];

/**
 * The region of every joint, by the body map; joints that no slot names follow the mapped joint that carries them, and are
 * 'others' where none does.
 */
export function regionsOf(rig: SkeletonRig, map: BodyMap): Region[] {
  const known = new Map<number, Region>();
  const give = (joints: readonly number[], region: Region): void => {
    for (const j of joints) if (j >= 0) known.set(j, region);
  };
  give([jointOf(map, 'hips')], 'hips');
  give(chainOf(map, 'spine'), 'trunk');
  give([...chainOf(map, 'neck'), jointOf(map, 'head')], 'head');
  for (const side of SIDES) {
    const word = side === 'L' ? 'left' : 'right';
    const arm = ['collar', 'upperArm', 'forearm', 'hand'];
    give(
      LIMB_PARTS.map((p) => jointOf(map, p + side)),
      `${word} leg`,
    );
    give(
      arm.map((p) => jointOf(map, p + side)),
      `${word} arm`,
    );
    for (const part of TWIST_PARTS)
      for (const k of [1, 2, 3, 4])
        give([jointOf(map, `${part}Twist${k}${side}`)], part.endsWith('rm') ? `${word} arm` : `${word} leg`);
    for (const finger of FINGERS)
      give(
        [1, 2, 3].map((k) => jointOf(map, `${finger}${k}${side}`)),
        `${word} fingers`,
      );
  }
  const out: Region[] = [];
  for (let j = 0; j < rig.names.length; j++) {
    const above = rig.parents[j]!;
    out.push(known.get(j) ?? (above >= 0 ? out[above]! : 'others'));
  }
  return out;
}

/** What of the kept parts stays: what they do, which drawings they show, or both. */
export const KEPT_KINDS = ['all', 'movement', 'drawings'] as const;
export type KeptKind = (typeof KEPT_KINDS)[number];

/** What else is known of what is kept. */
export interface KeepOptions {
  /** The paper figure that the motion is on: its drawings go with the joints that carry them. */
  readonly cutout?: CutoutRig | undefined;
  readonly what?: KeptKind | undefined;
}

export interface KeptRegions {
  /** Joints that are kept. */
  readonly joints: readonly number[];
  /** Names of joints that move, by more than two degrees, and are left out. */
  readonly leftOut: readonly string[];
  /** Names of scalar tracks that change and are left out. */
  readonly leftOutScalars: readonly string[];
  /** Names of parts whose drawings or views change and are left out, and the drawing order where that does. */
  readonly leftOutDrawings: readonly string[];
}

const MOVES_RAD = 0.035;
/** Metres, and shares of a size. */
const MOVES_M = 0.004;

/**
 * Which joints are kept, by number; all where neither regions nor joints are named.
 * @throws MotionError 'bad-argument' for a region or a joint there is none of
 */
export function keptJoints(
  rig: SkeletonRig,
  map: BodyMap,
  regions: readonly Region[],
  joints: readonly string[],
): boolean[] {
  for (const r of regions)
    if (!REGIONS.includes(r))
      throw new MotionError('bad-argument', `There is no region “${r}”: ${REGIONS.join(', ')}.`);
  const unknown = joints.find((name) => !rig.names.includes(name));
  if (unknown !== undefined)
    throw new MotionError('bad-argument', `The skeleton has no joint “${unknown}”: take it off those that are kept.`);
  if (regions.length === 0 && joints.length === 0) return rig.names.map(() => true);
  const named = new Set(joints);
  return regionsOf(rig, map).map((r, j) => regions.includes(r) || named.has(rig.names[j]!));
}

/**
 * What keeping some regions, and single joints besides, keeps and what it loses. Nothing named keeps everything.
 * @throws MotionError 'bad-argument' for a region or a joint there is none of
 */
export function keptRegions(
  rig: SkeletonRig,
  map: BodyMap,
  motion: Motion,
  regions: readonly Region[],
  single: readonly string[] = [],
  { cutout, what = 'all' }: KeepOptions = {},
): KeptRegions {
  const all = regions.length === 0 && single.length === 0;
  const keep = keptJoints(rig, map, regions, single);
  const moves = movers(rig, motion);
  const joints: number[] = [];
  const leftOut: string[] = [];
  for (let j = 0; j < rig.names.length; j++) {
    if (keep[j]) joints.push(j);
    if (moves[j] && (!keep[j] || what === 'drawings')) leftOut.push(rig.names[j]!);
  }
  const face = all || regions.includes('face');
  return {
    joints,
    leftOut,
    leftOutScalars: face
      ? []
      : motion.numbers
          .filter((s) => !tellsLength(s.name) && s.values.some((x) => x !== s.values[0]))
          .map((s) => s.name),
    leftOutDrawings: motion.steps
      .filter((s) => s.values.some((x) => x !== s.values[0]) && !keepsStep(s, keep, all, { cutout, what }, face))
      .map((s) => s.name),
  };
}

/** Which joints turn by more than two degrees, or are moved or resized by themselves. */
function movers(rig: SkeletonRig, motion: Motion): boolean[] {
  const n = rig.names.length;
  const step = Math.max(1, Math.floor(motion.frameCount / 120));
  const moves = rig.names.map((_, j) => {
    for (let f = step; f < motion.frameCount; f += step)
      if (angleBetweenQuats(motion.turns, 4 * j, motion.turns, 4 * (f * n + j)) > MOVES_RAD) return true;
    return false;
  });
  for (const { joint, values } of [...motion.places, ...motion.scales])
    if (values.some((x, i) => Math.abs(x - values[i % 3]!) > MOVES_M)) moves[joint] = true;
  return moves;
}

/** Whether a track of labels stays: with the joint that carries its part; of bodies in space with the face. */
function keepsStep(
  { name }: StepTrack,
  keep: readonly boolean[],
  all: boolean,
  { cutout, what }: KeepOptions,
  face: boolean,
): boolean {
  if (what === 'movement') return false;
  if (!cutout) return all || face;
  if (name === ORDER_TRACK) return all;
  const part = cutout.parts.find((p) => p.name === name);
  const joint = part?.joint ?? cutout.names.findIndex((j) => viewTrack(j) === name);
  return joint < 0 ? all : keep[joint]!;
}

/**
 * The motion with some regions, and single joints besides, kept and the others at rest. The place of the hips goes with them;
 * without them the body stands where it stands at rest. Places of other joints go with their joint, face shapes with 'face', and
 * a paper figure's drawings with the joints that carry them. Nothing named keeps everything; that, of both kinds, is the motion
 * itself.
 * @throws MotionError 'bad-argument' for a region or a joint there is none of
 */
export function keepRegions(
  rig: SkeletonRig,
  map: BodyMap,
  motion: Motion,
  regions: readonly Region[],
  single: readonly string[] = [],
  { cutout, what = 'all' }: KeepOptions = {},
): Motion {
  const all = regions.length === 0 && single.length === 0;
  if (all && what === 'all') return motion;
  const keep = keptJoints(rig, map, regions, single);
  const moving = keep.map((k) => k && what !== 'drawings');
  const n = rig.names.length;
  const turns = motion.turns.slice();
  for (let j = 0; j < n; j++) {
    if (moving[j]) continue;
    for (let f = 0; f < motion.frameCount; f++)
      for (let k = 0; k < 4; k++) turns[4 * (f * n + j) + k] = rig.restR[4 * j + k]!;
  }
  const face = all || regions.includes('face');
  // how long parts are drawn goes with their joint
  const lengths = new Set(rig.names.filter((_, j) => moving[j]).map(lengthTrack));
  return {
    ...motion,
    turns,
    places: motion.places.filter((t) => moving[t.joint]),
    scales: motion.scales.filter((t) => moving[t.joint]),
    numbers: motion.numbers.filter((t) => (tellsLength(t.name) ? lengths.has(t.name) : face && what !== 'drawings')),
    steps: motion.steps.filter((t) => keepsStep(t, keep, all, { cutout, what }, face)),
  };
}
