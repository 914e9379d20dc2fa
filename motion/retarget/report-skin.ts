import type { BodyMap } from '../bodymap/slots';
import { rotate64 } from '../math/fast';
import { axisAngleQuat, invertQuat, mulQuat } from '../math/quat';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import { composePose, newWorldPose, restPose, type SkeletonRig } from '../rig/rig';
import type { SkinEdges } from '../rig/skin-edges';

export interface StretchMeasure {
  /** Largest stretch of an edge against what its own limbs, bent singly, do to it; its frame and the joint at its end. */
  readonly max: number;
  readonly frame: number;
  readonly joint: number;
  /** F: the same over time; frames between those looked at hold what was last seen. */
  readonly lane: Float32Array;
}

/** Looked at so often. */
const LOOKS = 150;
/** Limbs are bent so far, each way, to see what their skin makes of it, radians. */
const BEND = 1.75;

/** A sample of a skin made ready: what its edges do is told against what bending a limb does to them. */
class Skin {
  readonly count: number;
  readonly used: number[];
  /** E: length at rest, and longest length while one limb is bent. */
  readonly usual: Float64Array;
  private readonly local: Float64Array;
  private readonly ends = new Float64Array(6);
  private readonly v = new Float64Array(3);

  constructor(
    rig: SkeletonRig,
    map: BodyMap,
    readonly edges: SkinEdges,
  ) {
    const { places, joints, weights } = edges;
    this.count = places.length / 6;
    this.local = new Float64Array(24 * this.count);
    const rest = restPose(rig);
    const back = new Float64Array(4);
    const used = new Set<number>();
    for (let i = 0; i < 8 * this.count; i++) {
      const j = joints[i]!;
      if (weights[i]! <= 0 || j >= rig.names.length) continue;
      used.add(j);
      for (let k = 0; k < 3; k++) this.v[k] = places[3 * (i >> 2) + k]! - rest.p[3 * j + k]!;
      invertQuat(back, 0, rest.r, 4 * j);
      rotate64(this.local, 3 * i, back, 0, this.v, 0);
    }
    this.used = [...used];
    this.usual = this.bentSingly(rig, map);
  }

  /** Length of an edge in a pose, metres. */
  lengthOf(e: number, r: Float64Array, p: Float64Array): number {
    const { ends, v } = this;
    const { joints, weights } = this.edges;
    ends.fill(0);
    for (let i = 8 * e; i < 8 * e + 8; i++) {
      const w = weights[i]!;
      if (w <= 0) continue;
      const j = joints[i]!;
      rotate64(v, 0, r, 4 * j, this.local, 3 * i);
      const o = i & 4 ? 3 : 0;
      for (let k = 0; k < 3; k++) ends[o + k] = ends[o + k]! + w * (v[k]! + p[3 * j + k]!);
    }
    return Math.hypot(ends[0]! - ends[3]!, ends[1]! - ends[4]!, ends[2]! - ends[5]!);
  }

  private bentSingly(rig: SkeletonRig, map: BodyMap): Float64Array {
    const rest = restPose(rig);
    const pose = newWorldPose(rig.names.length);
    const usual = Float64Array.from({ length: this.count }, (_, e) => this.lengthOf(e, rest.r, rest.p));
    const mapped = [...new Set(Object.values(map.slots).map((s) => s.joint))].filter((j) => j >= 0);
    const q = [0, 0, 0, 1];
    const own = [0, 0, 0, 1];
    for (const j of mapped)
      for (const axis of [0, 1, 2])
        for (const by of [BEND, -BEND]) {
          const turns = Float64Array.from(rig.restR);
          // about a world axis at rest
          axisAngleQuat(q, 0, axis === 0 ? 1 : 0, axis === 1 ? 1 : 0, axis === 2 ? 1 : 0, by);
          invertQuat(own, 0, rest.r, 4 * j);
          mulQuat(own, 0, own, 0, q, 0);
          mulQuat(own, 0, own, 0, rest.r, 4 * j);
          mulQuat(turns, 4 * j, rig.restR, 4 * j, own, 0);
          composePose(rig.parents, turns, rig.restT, pose.r, pose.p);
          for (let e = 0; e < this.count; e++) usual[e] = Math.max(usual[e]!, this.lengthOf(e, pose.r, pose.p));
        }
    return usual;
  }
}

const ready = new WeakMap<SkinEdges, Skin>();

/**
 * How far a motion pulls a skin apart: the largest stretch of its edges by linear blend skinning, told against what bending
 * each limb singly does to them. A body that is torn, or skin that hangs on a joint left behind, shows here whatever the
 * joints' turns say. 1 or less is as usual.
 */
export function skinStretch(rig: SkeletonRig, map: BodyMap, motion: Motion, edges: SkinEdges): StretchMeasure {
  const lane = new Float32Array(motion.frameCount).fill(1);
  let skin = ready.get(edges);
  if (!skin) {
    skin = new Skin(rig, map, edges);
    ready.set(edges, skin);
  }
  const reader = new ChainReader(rig, motion, skin.used);
  const step = Math.max(1, Math.floor(motion.frameCount / LOOKS));
  let [max, frame, worst] = [1, 0, -1];
  for (let f = 0; f < motion.frameCount; f += step) {
    const { r, p } = reader.at(f);
    let most = 1;
    for (let e = 0; e < skin.count; e++) {
      const ratio = skin.lengthOf(e, r, p) / Math.max(SHORT, skin.usual[e]!);
      if (ratio > most) most = ratio;
      if (ratio > max) {
        max = ratio;
        frame = f;
        worst = e;
      }
    }
    lane.fill(most, f, Math.min(motion.frameCount, f + step));
  }
  return { max, frame, joint: worst < 0 ? -1 : edges.joints[8 * worst]!, lane };
}

/** Edges are told as if they were at least so long, metres: nobody sees a finger's breadth of millimetres. */
const SHORT = 0.02;
