import type { Party } from '../body/party';
import { jointOf, SIDES } from '../bodymap/slots';
import { mulInv64, norm } from '../math/fast';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';

/** Angular accelerations of one motion, in degrees a second squared. */
export interface Steadiness {
  /** 99.9th percentile over limb parts and frames. */
  readonly jitter: number;
  /** Largest angular acceleration of a knee's or an elbow's bend. */
  readonly snap: number;
  readonly snapFrame: number;
  readonly snapSlot: string;
  /** The same over time, a number a frame: how sharply a knee bends, an elbow bends, any limb part turns. */
  readonly knees: Float32Array;
  readonly elbows: Float32Array;
  readonly limbs: Float32Array;
}

const LIMBS = SIDES.flatMap((s) => ['upperArm', 'forearm', 'hand', 'thigh', 'shin', 'foot'].map((p) => p + s));
const HINGES = SIDES.flatMap((s) => [
  ['upperArm', 'forearm', 'hand'].map((p) => p + s),
  ['thigh', 'shin', 'foot'].map((p) => p + s),
]);
const DEG = 180 / Math.PI;
/** The first frame of a capture is often a pose for calibration: bends are compared from the second one on. */
const FIRST = 3;

/**
 * How smoothly limbs turn (QUALITY: jitter and snap). Angular velocity by the rotation vector between neighbouring frames,
 * acceleration by its difference; a bend is the angle between the two bones.
 * @param slots limb parts to look at; those that the map does not hold are left aside
 */
export function steadiness(party: Party, motion: Motion, slots: readonly string[] = LIMBS): Steadiness {
  const { map, rig } = party;
  const parts = slots.map((s) => jointOf(map, s)).filter((j) => j >= 0);
  const hinges = HINGES.map((h) => ({ slot: h[1]!, joints: h.map((s) => jointOf(map, s)) })).filter((h) =>
    h.joints.every((j) => j >= 0),
  );
  const frames = motion.frameCount;
  const [knees, elbows, limbs] = [0, 1, 2].map(() => new Float32Array(frames)) as [
    Float32Array,
    Float32Array,
    Float32Array,
  ];
  const none: Steadiness = { jitter: 0, snap: 0, snapFrame: 0, snapSlot: '', knees, elbows, limbs };
  if (frames < 3 || parts.length === 0) return none;
  const reader = new ChainReader(rig, motion, [...parts, ...hinges.flatMap((h) => h.joints)]);
  const before = new Float64Array(4 * rig.names.length);
  const speed = new Float64Array(3 * parts.length);
  const accelerations = new Float64Array(parts.length * (frames - 2));
  const bends = hinges.map(() => new Float64Array(3));
  const q = new Float64Array(4);
  const rate2 = motion.fps * motion.fps;
  let n = 0;
  let snap = 0;
  let snapFrame = 0;
  let snapSlot = '';
  for (let f = 0; f < frames; f++) {
    const { r, p } = reader.at(f);
    for (let i = 0; i < parts.length; i++) {
      const o = 4 * parts[i]!;
      if (f > 0) {
        mulInv64(q, 0, r, o, before, o);
        const s = q[3]! < 0 ? -1 : 1;
        const half = Math.hypot(q[0]!, q[1]!, q[2]!);
        const k = half > 1e-9 ? (s * 2 * Math.atan2(half, s * q[3]!)) / half : 2 * s;
        const [x, y, z] = [q[0]! * k, q[1]! * k, q[2]! * k];
        if (f > 1) {
          const a = Math.hypot(x - speed[3 * i]!, y - speed[3 * i + 1]!, z - speed[3 * i + 2]!) * rate2 * DEG;
          accelerations[n++] = a;
          if (a > limbs[f - 1]!) limbs[f - 1] = a;
        }
        speed[3 * i] = x;
        speed[3 * i + 1] = y;
        speed[3 * i + 2] = z;
      }
      for (let k = 0; k < 4; k++) before[o + k] = r[o + k]!;
    }
    hinges.forEach(({ slot, joints }, i) => {
      const b = bends[i]!;
      b[f % 3] = bendOf(p, joints);
      if (f < FIRST) return;
      const a = Math.abs(b[f % 3]! - 2 * b[(f + 2) % 3]! + b[(f + 1) % 3]!) * rate2 * DEG;
      const lane = slot.startsWith('shin') ? knees : elbows;
      if (a > lane[f - 1]!) lane[f - 1] = a;
      if (a > snap) {
        snap = a;
        snapFrame = f - 1;
        snapSlot = slot;
      }
    });
  }
  accelerations.sort();
  return { jitter: accelerations[Math.floor(0.999 * (n - 1))] ?? 0, snap, snapFrame, snapSlot, knees, elbows, limbs };
}

/**
 * Largest second difference of the bend of knees (`shin`) or elbows (`forearm`), radians a frame squared; undefined where no
 * such limb is mapped or the motion is too short to tell.
 */
export function sharpestBend(party: Party, motion: Motion, part: 'shin' | 'forearm'): number | undefined {
  const limbs = HINGES.filter((slots) => slots[1]!.startsWith(part))
    .map((slots) => slots.map((s) => jointOf(party.map, s)))
    .filter((joints) => joints.every((j) => j >= 0));
  if (limbs.length === 0 || motion.frameCount < 3) return undefined;
  const reader = new ChainReader(party.rig, motion, limbs.flat());
  const before = limbs.map(() => [0, 0] as [number, number]);
  let most = 0;
  for (let f = 0; f < motion.frameCount; f++) {
    const { p } = reader.at(f);
    limbs.forEach((joints, i) => {
      const b = before[i]!;
      const now = bendOf(p, joints);
      if (f >= FIRST) most = Math.max(most, Math.abs(now - 2 * b[1] + b[0]));
      b[0] = b[1];
      b[1] = now;
    });
  }
  return most;
}

function bendOf(p: Float64Array, joints: readonly number[]): number {
  const [a, b, c] = [3 * joints[0]!, 3 * joints[1]!, 3 * joints[2]!];
  const ux = p[b]! - p[a]!;
  const uy = p[b + 1]! - p[a + 1]!;
  const uz = p[b + 2]! - p[a + 2]!;
  const vx = p[c]! - p[b]!;
  const vy = p[c + 1]! - p[b + 1]!;
  const vz = p[c + 2]! - p[b + 2]!;
  return Math.atan2(norm(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx), ux * vx + uy * vy + uz * vz);
}
