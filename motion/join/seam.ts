import { alignmentTurns } from '../body/alignment';
import { measureBody } from '../body/body';
import type { Party } from '../body/party';
import { headingOf, type RootFrame } from '../body/root-frame';
import { carrierOf } from '../bodymap/body-root';
import { jointOf } from '../bodymap/slots';
import { angleBetweenQuats } from '../math/quat';
import { type Motion, PoseReader } from '../motion/motion';
import { hangingFrom, unhang } from '../motion/unhang';

/** How a motion's end meets its beginning, travel and change of heading taken out (QUALITY: seam). */
export interface Seam {
  /** Largest angle of any joint between both frames, and that joint. */
  readonly angleDeg: number;
  readonly joint: string;
  /** Largest distance of any joint, metres and in % of the leg. */
  readonly distanceM: number;
  readonly distancePercentLeg: number;
  /**
   * Largest jump in a joint's velocity across the seam, as a share of the fastest joint's speed in the motion; velocities
   * by second-order differences from either side, less what the joint jerks anyway in the fifth of a second around.
   */
  readonly speedStep: number;
}

/** World places of all joints in the frame of the hips' heading and ground place; 3 J numbers. */
class LocalPoses {
  private readonly reader: PoseReader;
  private readonly aligned: Float64Array;
  private readonly hips: number;

  constructor(
    private readonly party: Party,
    motion: Motion,
  ) {
    this.reader = new PoseReader(party.rig, motion);
    this.aligned = alignmentTurns(party.rig, party.map, party.pose);
    this.hips = Math.max(0, jointOf(party.map, 'hips'));
  }

  frame(f: number): RootFrame {
    const { r, p } = this.reader.at(f);
    const { hips, aligned } = this;
    return { heading: headingOf(r, 4 * hips, aligned, 4 * hips), x: p[3 * hips]!, z: p[3 * hips + 2]! };
  }

  /** Places seen from a frame of reference on the ground. */
  places(f: number, from: RootFrame): Float64Array {
    const { p } = this.reader.at(f);
    const out = new Float64Array(p.length);
    const s = Math.sin(from.heading);
    const c = Math.cos(from.heading);
    for (let o = 0; o < p.length; o += 3) {
      const x = p[o]! - from.x;
      const z = p[o + 2]! - from.z;
      out[o] = c * x - s * z;
      out[o + 1] = p[o + 1]!;
      out[o + 2] = s * x + c * z;
    }
    return out;
  }

  get joints(): number {
    return this.party.rig.names.length;
  }
}

/** Measures the seam between two frames of a motion: end meets start. */
export function seamOf(given: Party, told: Motion, start = 0, end = told.frameCount - 1): Seam {
  const { rig, motion, top } = unhang(given.rig, told, carrierOf(given.rig, given.map, given.skinned));
  const party = { ...given, rig };
  // what stands still beside the body has no part in it
  const own = hangingFrom(rig, top);
  const n = rig.names.length;
  const poses = new LocalPoses(party, motion);
  const body = measureBody(party.rig, party.map, party.pose, party.floor);
  const leg = body.leg || body.hipHeight || 1;
  const a = poses.frame(start);
  const b = poses.frame(end);
  const first = poses.places(start, a);
  const last = poses.places(end, b);
  let distance = 0;
  for (let o = 0; o < first.length; o += 3)
    if (own[o / 3])
      distance = Math.max(
        distance,
        Math.hypot(first[o]! - last[o]!, first[o + 1]! - last[o + 1]!, first[o + 2]! - last[o + 2]!),
      );
  let angle = 0;
  let joint = 0;
  const turn = (b.heading - a.heading) / 2;
  const back = [0, -Math.sin(turn), 0, Math.cos(turn)];
  const q = [0, 0, 0, 1];
  for (let j = 0; j < n; j++) {
    if (!own[j]) continue;
    const o = 4 * (end * n + j);
    for (let k = 0; k < 4; k++) q[k] = motion.turns[o + k]!;
    if (party.rig.parents[j]! < 0) {
      const [x, y, z, w] = [q[0]!, q[1]!, q[2]!, q[3]!];
      q[0] = back[3]! * x + back[1]! * z;
      q[1] = back[3]! * y + back[1]! * w;
      q[2] = back[3]! * z - back[1]! * x;
      q[3] = back[3]! * w - back[1]! * y;
    }
    const d = angleBetweenQuats(q, 0, motion.turns, 4 * (start * n + j));
    if (d > angle) {
      angle = d;
      joint = j;
    }
  }
  return {
    angleDeg: (angle * 180) / Math.PI,
    joint: party.rig.names[joint]!,
    distanceM: distance,
    distancePercentLeg: (100 * distance) / leg,
    speedStep: speedStep(poses, motion, own, start, end, a, b),
  };
}

function speedStep(
  poses: LocalPoses,
  motion: Motion,
  own: Uint8Array,
  start: number,
  end: number,
  a: { heading: number; x: number; z: number },
  b: { heading: number; x: number; z: number },
): number {
  // a thirtieth of a second apart, whatever the frame rate: finer differences measure noise
  const h = Math.max(1, Math.round(motion.fps / 30));
  if (end - start < 4 * h) return 0;
  const oneSided = (f: number, by: 1 | -1, from: typeof a): Float64Array => {
    const p0 = poses.places(f, from);
    const p1 = poses.places(f + by * h, from);
    const p2 = poses.places(f + 2 * by * h, from);
    return p0.map((x, o) => (by * motion.fps * (-3 * x + 4 * p1[o]! - p2[o]!)) / (2 * h));
  };
  const velocity = (f: number, from: typeof a): Float64Array => {
    const p0 = poses.places(f, from);
    return poses.places(f + 1, from).map((x, o) => (x - p0[o]!) * motion.fps);
  };
  const jumps = (into: Float64Array, out: Float64Array): Float64Array =>
    Float64Array.from({ length: out.length / 3 }, (_, j) =>
      Math.hypot(out[3 * j]! - into[3 * j]!, out[3 * j + 1]! - into[3 * j + 1]!, out[3 * j + 2]! - into[3 * j + 2]!),
    );
  const seam = jumps(oneSided(end, -1, b), oneSided(start, 1, a));
  const usual = new Float64Array(seam.length);
  const reach = Math.round(0.2 * motion.fps);
  for (let i = 1; i <= reach; i++) {
    for (const f of [start + 2 * h + i, end - 2 * h - i]) {
      if (f < start + 2 * h || f > end - 2 * h) continue;
      jumps(oneSided(f, -1, a), oneSided(f, 1, a)).forEach((x, j) => {
        usual[j] = Math.max(usual[j]!, x);
      });
    }
  }
  let fastest = 0;
  const stride = Math.max(1, Math.floor((end - start) / 40));
  for (let f = start; f < end; f += stride) {
    const v = velocity(f, a);
    for (let o = 0; o < v.length; o += 3)
      if (own[o / 3]) fastest = Math.max(fastest, Math.hypot(v[o]!, v[o + 1]!, v[o + 2]!));
  }
  if (fastest < 1e-6) return 0;
  return seam.reduce((most, x, j) => (own[j] ? Math.max(most, x - usual[j]!) : most), 0) / fastest;
}
