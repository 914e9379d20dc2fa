import type { FittedSoles } from '../analysis/sole-fit';
import { alignmentTurns, carry } from '../body/alignment';
import { type Body, measureBody } from '../body/body';
import type { Party } from '../body/party';
import { carrierOf, pelvisOf } from '../bodymap/body-root';
import { chainOf, FINGERS, jointOf, LIMB_PARTS, SIDES, type Side, TWIST_PARTS } from '../bodymap/slots';
import { LIMBS, stiffLimbs } from '../bodymap/stiff-limbs';
import { mulQuat, normalizeQuat } from '../math/quat';
import { distance3 } from '../math/vec';
import { restPose, type SkeletonRig, type WorldPose } from '../rig/rig';
import { extraChains, matchChains } from './extra-chains';
import { type Follower, findFollowers } from './followers';

/**
 * What a solve needs, worked out once. Per target joint j:
 * a[j], b[j]: source joints whose turns are mixed, −1 for a joint that keeps its rest or is copied; t[j]: share of b.
 * ka, kb: constants (4 numbers a joint) with W_target = W_source · K.
 * same[j]: source joint of equal name whose local departure from rest is copied, −1 for none.
 */
export interface RetargetPlan {
  readonly source: Party & { readonly body: Body };
  readonly target: Party & { readonly body: Body };
  readonly a: Int16Array;
  readonly b: Int16Array;
  readonly t: Float64Array;
  readonly ka: Float64Array;
  readonly kb: Float64Array;
  readonly same: Int16Array;
  /** Limbs of one joint on the target, each with the limb of the source whose two ends it joins. */
  readonly stiff: readonly StiffPart[];
  /** Joint of the target that takes the travel; see carrierOf. */
  readonly carrier: number;
  /** Joints of the target that go rigidly with a mapped one; see findFollowers. */
  readonly followers: readonly Follower[];
  /** Source joints that are left out on purpose. */
  readonly leftOut: ReadonlySet<number>;
  /** Equal joints with equal parents in equal order: places of inner joints are copied too. */
  readonly equalRigs: boolean;
  readonly sourceAligned: Float64Array;
  readonly targetAligned: Float64Array;
  readonly scale: number;
}

/** A target's limb of one joint, and the joints of the source's limb that it follows from end to end. */
export interface StiffPart {
  readonly kind: 'arm' | 'leg';
  readonly side: Side;
  readonly joint: number;
  readonly from: number;
  readonly bend: number;
  readonly to: number;
}

/** Limbs of one joint on the target, as far as it is known where they end, whose counterpart bends. */
function stiffParts(source: Party, target: Party): StiffPart[] {
  return stiffLimbs(target.map).flatMap(({ kind, side, joint }) => {
    const [from, bend, to] = LIMBS[kind].map((part) => jointOf(source.map, part + side)) as [number, number, number];
    const ends = !Number.isNaN(target.rig.tips[3 * joint]!);
    return ends && from >= 0 && bend >= 0 && to >= 0 ? [{ kind, side, joint, from, bend, to }] : [];
  });
}

/**
 * Works out which source joint turns which target joint, and by what constant. Pure.
 * @param leave slots that are not taken from the source: their joints keep their rest turn
 */
export function planRetarget(source: Party, target: Party, leave: readonly string[] = []): RetargetPlan {
  const sourcePose = source.pose ?? restPose(source.rig);
  const targetPose = target.pose ?? restPose(target.rig);
  const sourceBody = measureBody(source.rig, source.map, sourcePose, source.floor);
  const targetBody = measureBody(target.rig, target.map, targetPose, target.floor);
  const sourceAligned = adjusted(alignmentTurns(source.rig, source.map, sourcePose), source.adjust);
  const targetAligned = adjusted(alignmentTurns(target.rig, target.map, targetPose), target.adjust);
  const n = target.rig.names.length;
  const a = new Int16Array(n).fill(-1);
  const b = new Int16Array(n).fill(-1);
  const t = new Float64Array(n);
  const link = (targetJoint: number, first: number, second = first, share = 0): void => {
    if (targetJoint < 0 || first < 0) return;
    a[targetJoint] = first;
    b[targetJoint] = second;
    t[targetJoint] = share;
  };
  const pelvis = pelvisOf(source.rig, source.map);
  link(jointOf(target.map, 'hips'), pelvis);
  linkChain(source, sourcePose, target, targetPose, 'spine', pelvis, link);
  const chest = chainOf(source.map, 'spine').at(-1) ?? pelvis;
  linkChain(source, sourcePose, target, targetPose, 'neck', chest, link);
  link(jointOf(target.map, 'head'), jointOf(source.map, 'head'));
  for (const side of SIDES) {
    for (const part of LIMB_PARTS) link(jointOf(target.map, part + side), jointOf(source.map, part + side));
    for (const finger of FINGERS) {
      for (const k of [1, 2, 3])
        link(jointOf(target.map, `${finger}${k}${side}`), jointOf(source.map, `${finger}${k}${side}`));
    }
    for (const part of TWIST_PARTS) {
      for (const k of [1, 2, 3, 4])
        link(jointOf(target.map, `${part}Twist${k}${side}`), jointOf(source.map, `${part}Twist${k}${side}`));
    }
  }
  const loose = matchChains(
    extraChains(source.rig, source.map, sourcePose, sourceAligned),
    extraChains(target.rig, target.map, targetPose, targetAligned),
  );
  for (const pair of loose) {
    const below = source.rig.parents[pair.source.joints[0]!]!;
    linkJoints(sourcePose, pair.source.joints, targetPose, pair.target.joints, below, link);
  }
  const ka = new Float64Array(4 * n);
  const kb = new Float64Array(4 * n);
  const same = new Int16Array(n).fill(-1);
  const byName = new Map(source.rig.names.map((name, j) => [name, j]));
  // what is left out on purpose does not come in through an equal name, nor does what a slot carries over already
  const left = new Set(
    Object.entries(target.map.slots).flatMap(([slot, s]) => (s.state === 'empty' ? [jointOf(source.map, slot)] : [])),
  );
  const carried = new Set([...a.filter((j) => j >= 0), ...b.filter((j) => j >= 0)]);
  for (const slot of leave) {
    const joint = jointOf(target.map, slot);
    if (joint >= 0) a[joint] = -1;
    left.add(jointOf(source.map, slot));
  }
  for (let j = 0; j < n; j++) {
    if (a[j]! >= 0) {
      carry(ka, 4 * j, sourceAligned, a[j]!, targetAligned, j);
      carry(kb, 4 * j, sourceAligned, b[j]!, targetAligned, j);
    } else {
      const twin = byName.get(target.rig.names[j]!) ?? -1;
      same[j] = left.has(twin) || carried.has(twin) ? -1 : twin;
    }
  }
  const scale =
    sourceBody.leg > 0 && targetBody.leg > 0
      ? targetBody.leg / sourceBody.leg
      : targetBody.hipHeight > 0 && sourceBody.hipHeight > 0
        ? targetBody.hipHeight / sourceBody.hipHeight
        : 1;
  const free = (j: number): boolean => a[j]! < 0 && same[j]! < 0;
  return {
    stiff: stiffParts(source, target),
    carrier: carrierOf(target.rig, target.map, target.skinned),
    followers: findFollowers(target.rig, target.map, targetPose, targetBody.leg, free, target.skinned),
    source: { ...source, body: sourceBody },
    target: { ...target, body: targetBody },
    a,
    b,
    t,
    ka,
    kb,
    same,
    leftOut: left,
    equalRigs: equalRigs(source.rig, target.rig),
    sourceAligned,
    targetAligned,
    scale,
  };
}

const onThemselves = new WeakMap<Party, RetargetPlan>();

/** The plan of a rig on itself, for what leads its feet and hands: worked out once a party. */
export function ownPlan(party: Party): RetargetPlan {
  const known = onThemselves.get(party);
  if (known) return known;
  const made = planRetarget(party, party);
  onThemselves.set(party, made);
  return made;
}

/** The plan for a source whose feet stand on other soles than its rest pose says; see fitSoles. */
export function withSoles(plan: RetargetPlan, { body, turns }: FittedSoles): RetargetPlan {
  const sourceAligned = plan.sourceAligned.slice();
  const ka = plan.ka.slice();
  const kb = plan.kb.slice();
  for (const side of SIDES) {
    const turn = turns[side];
    if (!turn) continue;
    for (const part of ['foot', 'toes']) {
      const s = jointOf(plan.source.map, part + side);
      if (s < 0) continue;
      mulQuat(sourceAligned, 4 * s, turn, 0, sourceAligned, 4 * s);
      plan.a.forEach((a, j) => {
        if (a === s) carry(ka, 4 * j, sourceAligned, s, plan.targetAligned, j);
        if (plan.b[j] === s) carry(kb, 4 * j, sourceAligned, s, plan.targetAligned, j);
      });
    }
  }
  return { ...plan, source: { ...plan.source, body }, sourceAligned, ka, kb };
}

/**
 * Chains of unequal count share the turn by arc length: the chain's turn is known at the end of each source joint's bone
 * (and, at 0, that of the joint below), and read at the end of each target joint's bone. Equal counts go one to one.
 */
function linkChain(
  source: Party,
  sourcePose: WorldPose,
  target: Party,
  targetPose: WorldPose,
  stem: string,
  below: number,
  link: (targetJoint: number, a: number, b: number, t: number) => void,
): void {
  const from = chainOf(source.map, stem);
  const to = chainOf(target.map, stem);
  if (to.length === 0) return;
  if (from.length === 0) {
    for (const j of to) link(j, below, below, 0);
    return;
  }
  linkJoints(sourcePose, from, targetPose, to, below, link);
}

function linkJoints(
  sourcePose: WorldPose,
  from: readonly number[],
  targetPose: WorldPose,
  to: readonly number[],
  below: number,
  link: (targetJoint: number, a: number, b: number, t: number) => void,
): void {
  if (from.length === to.length) {
    to.forEach((j, i) => link(j, from[i]!, from[i]!, 0));
    return;
  }
  const sourceEnds = chainShares(sourcePose, from);
  const targetEnds = chainShares(targetPose, to);
  to.forEach((j, i) => {
    const u = targetEnds[i]!;
    let k = 0;
    while (k < from.length - 1 && sourceEnds[k]! < u - 1e-9) k++;
    const low = k === 0 ? 0 : sourceEnds[k - 1]!;
    const first = k === 0 ? (below >= 0 ? below : from[0]!) : from[k - 1]!;
    const span = sourceEnds[k]! - low;
    link(j, first, from[k]!, span > 1e-9 ? Math.min(1, (u - low) / span) : 1);
  });
}

/** Share of the chain's length at which each joint's bone ends; the last joint's bone counts as long as the mean of the others. */
function chainShares(pose: WorldPose, chain: readonly number[]): number[] {
  const bones = chain.slice(1).map((j, i) => Math.max(1e-6, distance3(pose.p, 3 * j, pose.p, 3 * chain[i]!)));
  bones.push(bones.length > 0 ? bones.reduce((x, y) => x + y, 0) / bones.length : 1);
  const total = bones.reduce((x, y) => x + y, 0);
  let sum = 0;
  return bones.map((x, i) => {
    sum += x;
    return i === bones.length - 1 ? 1 : sum / total;
  });
}

function equalRigs(a: SkeletonRig, b: SkeletonRig): boolean {
  return (
    a.names.length === b.names.length && a.names.every((x, j) => x === b.names[j] && a.parents[j] === b.parents[j])
  );
}

function adjusted(aligned: Float64Array, by: Party['adjust']): Float64Array {
  for (const [joint, turn] of by ?? []) {
    if (4 * joint + 4 > aligned.length) continue;
    mulQuat(aligned, 4 * joint, turn, 0, aligned, 4 * joint);
    normalizeQuat(aligned, 4 * joint);
  }
  return aligned;
}
