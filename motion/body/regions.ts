import { type BodyMap, chainOf, FINGERS, jointOf, LIMB_PARTS, SIDES, TWIST_PARTS } from '../bodymap/slots';
import { MotionError } from '../errors';
import { angleBetweenQuats } from '../math/quat';
import type { Motion } from '../motion/motion';
import { lengthTrack, tellsLength } from '../motion/tracks';
import type { SkeletonRig } from '../rig/rig';

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

export interface KeptRegions {
  /** Joints that are kept. */
  readonly joints: readonly number[];
  /** Names of joints that move, by more than two degrees, and are left out. */
  readonly leftOut: readonly string[];
  /** Names of scalar tracks that change and are left out. */
  readonly leftOutScalars: readonly string[];
}

const MOVES_RAD = 0.035;

/** Which joints are kept, by number; all where neither regions nor joints are named. */
function keeping(rig: SkeletonRig, map: BodyMap, regions: readonly Region[], joints: readonly string[]): boolean[] {
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
): KeptRegions {
  const all = regions.length === 0 && single.length === 0;
  const keep = keeping(rig, map, regions, single);
  const joints: number[] = [];
  const leftOut: string[] = [];
  const n = rig.names.length;
  const step = Math.max(1, Math.floor(motion.frameCount / 120));
  for (let j = 0; j < n; j++) {
    if (keep[j]) {
      joints.push(j);
      continue;
    }
    for (let f = step; f < motion.frameCount; f += step)
      if (angleBetweenQuats(motion.turns, 4 * j, motion.turns, 4 * (f * n + j)) > MOVES_RAD) {
        leftOut.push(rig.names[j]!);
        break;
      }
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
  };
}

/**
 * The motion with some regions, and single joints besides, kept and the others at rest. The place of the hips goes with them;
 * without them the body stands where it stands at rest. Places of other joints go with their joint, face shapes with 'face'.
 * Nothing named keeps everything and answers with the motion itself.
 * @throws MotionError 'bad-argument' for a region or a joint there is none of
 */
export function keepRegions(
  rig: SkeletonRig,
  map: BodyMap,
  motion: Motion,
  regions: readonly Region[],
  single: readonly string[] = [],
): Motion {
  if (regions.length === 0 && single.length === 0) return motion;
  const keep = keeping(rig, map, regions, single);
  const n = rig.names.length;
  const turns = motion.turns.slice();
  for (let j = 0; j < n; j++) {
    if (keep[j]) continue;
    for (let f = 0; f < motion.frameCount; f++)
      for (let k = 0; k < 4; k++) turns[4 * (f * n + j) + k] = rig.restR[4 * j + k]!;
  }
  // how long parts are drawn goes with their joint
  const lengths = new Set(rig.names.filter((_, j) => keep[j]).map(lengthTrack));
  return {
    ...motion,
    turns,
    places: motion.places.filter((t) => keep[t.joint]),
    scales: motion.scales.filter((t) => keep[t.joint]),
    numbers: motion.numbers.filter((t) => (tellsLength(t.name) ? lengths.has(t.name) : regions.includes('face'))),
    steps: regions.includes('face') ? motion.steps : [],
  };
}
