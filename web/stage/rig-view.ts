import {
  asSkeleton,
  type BodyMap,
  bodyMapFromJson,
  type CutoutRig,
  chainOf,
  childrenOf,
  jointOf,
  restPose,
  rigFromJson,
  type SkeletonRig,
  StripPoser,
} from '@velvet-reel/motion';
import type { RigAnswer } from '@/contract';

/** A rig made ready for drawing; kept for as long as its answer is. */
export interface RigView {
  /** Of a cut-out, its joints in their plane. */
  rig: SkeletonRig;
  cutout: CutoutRig | undefined;
  /** Hash of a cut-out's pictures. */
  art: string | undefined;
  map: BodyMap;
  readonly poser: StripPoser;
  /** +1 left, −1 right, 0 neither, per joint. */
  side: Int8Array;
  segments: Segment[];
  /** Height of the hips over the ground at rest, metres. */
  stands: number;
  /** How far the body goes to each side of its hips at rest, and how far ahead or behind, metres. */
  reach: { aside: number; ahead: number };
}

/** A tapered limb between two joints, or from a joint to its tip. */
export interface Segment {
  a: number;
  /** −1: to the tip of a. */
  b: number;
  ra: number;
  rb: number;
  side: number;
  kind: 'limb' | 'trunk' | 'head';
}

/** By what a view is made of: an answer that only counts a new version of the same map has the same view. */
const views = new WeakMap<RigAnswer['map']['slots'], RigView>();
/** A rig with another map is still the same rig. */
const rigs = new WeakMap<RigAnswer['rig'], { readonly rig: SkeletonRig; readonly cutout: CutoutRig | undefined }>();

function ownRig(json: RigAnswer['rig']): { readonly rig: SkeletonRig; readonly cutout: CutoutRig | undefined } {
  let own = rigs.get(json);
  if (!own) {
    const whole = rigFromJson(json);
    own = { rig: asSkeleton(whole), cutout: whole.kind === 'cutout' ? whole : undefined };
    rigs.set(json, own);
  }
  return own;
}

export function rigView(answer: RigAnswer): RigView {
  const known = views.get(answer.map.slots);
  if (known) return known;
  const { rig, cutout } = ownRig(answer.rig);
  const map = bodyMapFromJson(answer.map, rig);
  const hips = Math.max(0, jointOf(map, 'hips'));
  const rest = restPose(rig);
  let poser: StripPoser | undefined;
  const view: RigView = {
    rig,
    cutout,
    art: answer.art ?? undefined,
    map,
    // only strips need one
    get poser() {
      poser ??= new StripPoser(rig, map, answer.floorM ?? undefined);
      return poser;
    },
    side: sides(rig, map),
    segments: segments(rig, map),
    stands: rest.p[3 * hips + 1]! - (answer.floorM ?? 0),
    reach: { aside: farthest(rest.p, hips, 0), ahead: farthest(rest.p, hips, 2) },
  };
  views.set(answer.map.slots, view);
  return view;
}

function farthest(p: ArrayLike<number>, from: number, axis: number): number {
  let most = 0;
  for (let o = axis; o < p.length; o += 3) most = Math.max(most, Math.abs(p[o]! - p[3 * from + axis]!));
  return most;
}

/** Left and right by slot; joints without one go with the joint above them. */
function sides(rig: SkeletonRig, map: BodyMap): Int8Array {
  const out = new Int8Array(rig.names.length);
  const own = new Map<number, number>();
  for (const [slot, entry] of Object.entries(map.slots)) {
    if (entry.joint >= 0) own.set(entry.joint, slot.endsWith('L') ? 1 : slot.endsWith('R') ? -1 : 0);
  }
  rig.parents.forEach((p, j) => {
    out[j] = own.get(j) ?? (p >= 0 ? out[p]! : 0);
  });
  return out;
}

function segments(rig: SkeletonRig, map: BodyMap): Segment[] {
  const length = (j: number): number => Math.hypot(rig.restT[3 * j]!, rig.restT[3 * j + 1]!, rig.restT[3 * j + 2]!);
  const out: Segment[] = [];
  const hips = jointOf(map, 'hips');
  if (hips < 0) return bare(rig);
  const shoulder = Math.max(length(jointOf(map, 'collarL')) + length(jointOf(map, 'upperArmL')) || 0.18, 0.1);
  const leg = (length(jointOf(map, 'shinL')) || 0.4) + (length(jointOf(map, 'footL')) || 0.4);
  const girth = Math.min(1.7, Math.max(0.7, shoulder / (0.34 * leg + 0.02)));
  const unit = 0.05 * leg;
  const add = (from: string, to: string, ra: number, rb: number, side = 0): void => {
    const a = jointOf(map, from);
    const b = jointOf(map, to);
    if (a >= 0 && b >= 0) out.push({ a, b, ra: ra * unit * girth, rb: rb * unit * girth, side, kind: 'limb' });
  };
  const trunk = [hips, ...chainOf(map, 'spine')];
  const top = chainOf(map, 'neck')[0] ?? jointOf(map, 'head');
  trunk.forEach((a, i) => {
    const b = trunk[i + 1] ?? top;
    const u = i / trunk.length;
    if (b >= 0)
      out.push({
        a,
        b,
        ra: (2.1 + 0.5 * u) * unit * girth,
        rb: (2.1 + 0.5 * u) * unit * girth * (b === top ? 0.62 : 1),
        side: 0,
        kind: 'trunk',
      });
  });
  const head = jointOf(map, 'head');
  const neck = chainOf(map, 'neck');
  neck.forEach((a, i) => {
    const b = neck[i + 1] ?? head;
    if (b >= 0) out.push({ a, b, ra: 0.95 * unit, rb: 0.95 * unit, side: 0, kind: 'trunk' });
  });
  if (head >= 0) {
    const tip = Number.isNaN(rig.tips[3 * head]!)
      ? 0.24 * leg
      : Math.hypot(rig.tips[3 * head]!, rig.tips[3 * head + 1]!, rig.tips[3 * head + 2]!);
    out.push({ a: head, b: -1, ra: tip * 0.52, rb: tip * 0.52, side: 0, kind: 'head' });
  }
  for (const [mark, side] of [
    ['L', 1],
    ['R', -1],
  ] as const) {
    add(`upperArm${mark}`, `forearm${mark}`, 1.1, 0.8, side);
    add(`forearm${mark}`, `hand${mark}`, 0.85, 0.55, side);
    add(`thigh${mark}`, `shin${mark}`, 1.7, 1.1, side);
    add(`shin${mark}`, `foot${mark}`, 1.15, 0.65, side);
    add(`foot${mark}`, `toes${mark}`, 0.7, 0.6, side);
    for (const [slot, r] of [
      [`hand${mark}`, 0.6],
      [`toes${mark}`, 0.5],
      [jointOf(map, `toes${mark}`) < 0 ? `foot${mark}` : '', 0.65],
    ] as const) {
      const a = jointOf(map, slot);
      if (a < 0) continue;
      const middle = slot.startsWith('hand') ? jointOf(map, `middle1${mark}`) : -1;
      if (middle >= 0 || !Number.isNaN(rig.tips[3 * a]!))
        out.push({ a, b: middle, ra: r * unit * girth, rb: r * unit * girth * 0.8, side, kind: 'limb' });
    }
  }
  return out;
}

/** A rig that is no body: every bone as a thin limb. */
function bare(rig: SkeletonRig): Segment[] {
  return childrenOf(rig).flatMap((kids, a) =>
    kids.map((b): Segment => ({ a, b, ra: 0.015, rb: 0.012, side: 0, kind: 'limb' })),
  );
}
