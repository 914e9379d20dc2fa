import type { Party } from '../body/party';
import { jointOf, SIDES } from '../bodymap/slots';
import { type CorrectionTrack, checkKeys, correct, HANDLES, type Handle } from '../layer/correct';
import { addOffsets, moveAt, type OffsetKey } from '../layer/offsets';
import type { Motion } from '../motion/motion';
import { moveJoint } from '../motion/move-joint';
import { PlaneReader } from '../motion/plane-pose';
import { TurnWriter } from '../motion/turn-writer';
import type { CutoutRig } from '../rig/rig';
import type { FlatParty } from './drive';

/** Corrections by hand on whatever it is: a body in space, or a cut-out in its plane. @throws MotionError as correct does */
export const correctAny = (party: Party, motion: Motion, tracks: readonly CorrectionTrack[]): Motion =>
  party.cutout ? correctFlat({ rig: party.cutout, map: party.map }, motion, tracks) : correct(party, motion, tracks);

/**
 * Corrections by hand on a cut-out, which stays in its plane: turns about the axis towards the eye, moves across the picture.
 * Hips that are moved leave the feet where they are; a hand or a foot that is pulled keeps its turn in the picture, and the limb
 * behind it bends to the side to which it was bent. Parts are drawn as long as they were. A head is turned by its joints alone.
 * @throws MotionError 'bad-argument' for keys out of order, 'bad-number' for what is no finite number
 */
export function correctFlat(party: FlatParty, motion: Motion, tracks: readonly CorrectionTrack[]): Motion {
  if (tracks.every((t) => t.keys.length === 0)) return motion;
  const { rig, map } = party;
  const joints = tracks.flatMap((t) => {
    const joint = 'joint' in t ? rig.names.indexOf(t.joint) : jointOf(map, t.handle);
    const keys = t.keys.flatMap((k) => (k.turn ? [inPlane(k)] : []));
    return joint >= 0 && keys.length > 0 ? [{ joint, keys }] : [];
  });
  const pulls = new Map<Handle, readonly OffsetKey[]>();
  for (const t of tracks) {
    if (!('handle' in t) || !t.keys.some((k) => k.move)) continue;
    checkKeys(t.keys);
    pulls.set(t.handle, movesOf(t.keys));
  }
  let moved = addOffsets(rig, motion, joints);
  const lift = pulls.get('hips');
  const hips = jointOf(map, 'hips');
  const limbs = limbsOf(
    rig,
    map,
    HANDLES.filter((h) => pulls.has(h) || (lift !== undefined && h.startsWith('foot'))),
  );
  const goals = limbs.map((limb) => goalsOf(rig, moved, limb, pulls.get(limb.handle) ?? []));
  if (lift && hips >= 0) moved = moveJoint(rig, moved, hips, (f) => moveAt(lift, f));
  return limbs.length > 0 ? reach(rig, moved, limbs, goals) : moved;
}

/** A limb that can be pulled by its end. */
export interface FlatLimb {
  readonly handle: Handle;
  /** Upper, lower and end joint; lower is the upper one again for a limb of one piece. */
  readonly chain: readonly [number, number, number];
}

/** The limbs behind handles, as far as the figure has them. */
export const limbsOf = (rig: CutoutRig, map: FlatParty['map'], handles: readonly Handle[]): FlatLimb[] =>
  SIDES.flatMap((side) =>
    (
      [
        [`hand${side}`, ['upperArm', 'forearm', 'hand']],
        [`foot${side}`, ['thigh', 'shin', 'foot']],
      ] as const
    ).flatMap(([handle, parts]): FlatLimb[] => {
      const chain = handles.includes(handle) && chainTo(rig, map, parts.map((p) => `${p}${side}`) as never);
      return chain ? [{ handle, chain }] : [];
    }),
  );

function chainTo(
  rig: CutoutRig,
  map: FlatParty['map'],
  slots: readonly [string, string, string],
): FlatLimb['chain'] | undefined {
  const [upper, lower, end] = slots.map((s) => jointOf(map, s)) as [number, number, number];
  if (upper < 0 || end < 0) return undefined;
  const middle = lower < 0 ? upper : lower;
  const under = (joint: number, above: number): boolean => {
    for (let j = joint; j >= 0; j = rig.parents[j]!) if (j === above) return true;
    return false;
  };
  return under(end, middle) && under(middle, upper) ? [upper, middle, end] : undefined;
}

/** Turns out of the plane are no turns of a paper part. */
function inPlane(key: OffsetKey): OffsetKey {
  const [, , z, w] = key.turn!;
  const size = Math.hypot(z, w) || 1;
  const { move: _, ...rest } = key;
  return { ...rest, turn: [0, 0, z / size, w / size] };
}

const movesOf = (keys: readonly OffsetKey[]): OffsetKey[] =>
  keys.flatMap((k) => {
    if (!k.move) return [];
    const { turn: _, ...rest } = k;
    return [{ ...rest, move: [k.move[0], k.move[1], 0] as const }];
  });

/** Where the end of a limb is to be: 2 F numbers, metres. */
function goalsOf(rig: CutoutRig, motion: Motion, { chain }: FlatLimb, keys: readonly OffsetKey[]): Float64Array {
  const reader = new PlaneReader(rig, motion);
  const at = 6 * chain[2] + 4;
  const out = new Float64Array(2 * motion.frameCount);
  for (let f = 0; f < motion.frameCount; f++) {
    const frames = reader.read(f / motion.fps);
    const by = moveAt(keys, f);
    out[2 * f] = frames[at]! + by[0];
    out[2 * f + 1] = frames[at + 1]! + by[1];
  }
  return out;
}

/**
 * Bends limbs so that their ends come to their goals, as near as they reach, and keep their turns in the picture.
 * @param goals 2 F numbers for each limb, metres
 */
export function reach(
  rig: CutoutRig,
  motion: Motion,
  limbs: readonly FlatLimb[],
  goals: readonly Float64Array[],
): Motion {
  const reader = new PlaneReader(rig, motion);
  const writer = new TurnWriter(motion);
  const n = rig.names.length;
  const turnBy = (f: number, joint: number, angle: number): void => {
    const o = 4 * (f * n + joint);
    const [z, w] = [writer.turns[o + 2]!, writer.turns[o + 3]!];
    const [c, s] = [Math.cos(angle / 2), Math.sin(angle / 2)];
    const last = f > 0 ? o - 4 * n : o;
    const [x, y] = [z * c + w * s, w * c - z * s];
    const sign = x * writer.turns[last + 2]! + y * writer.turns[last + 3]! < 0 ? -1 : 1;
    writer.turns[o + 2] = sign * x;
    writer.turns[o + 3] = sign * y;
  };
  const sides = limbs.map(({ chain }) => bendSides(reader, chain));
  for (let f = 0; f < motion.frameCount; f++) {
    const frames = reader.read(f / motion.fps);
    limbs.forEach(({ chain }, i) => {
      const [upper, lower, end] = chain;
      const [ux, uy] = place(frames, upper);
      const [lx, ly] = place(frames, lower);
      const [ex, ey] = place(frames, end);
      const [gx, gy] = [goals[i]![2 * f]!, goals[i]![2 * f + 1]!];
      if (Math.hypot(gx - ex, gy - ey) < 1e-9) return;
      const towards = Math.atan2(gy - uy, gx - ux);
      // within a figure that is turned over, turns go the other way round
      const way = (joint: number): number => {
        const o = 6 * rig.parents[joint]!;
        return o < 0 || frames[o]! * frames[o + 3]! - frames[o + 1]! * frames[o + 2]! >= 0 ? 1 : -1;
      };
      if (upper === lower) {
        const by = between(Math.atan2(ey - uy, ex - ux), towards);
        turnBy(f, upper, way(upper) * by);
        turnBy(f, end, -way(end) * by);
        return;
      }
      const [a, b] = [Math.hypot(lx - ux, ly - uy), Math.hypot(ex - lx, ey - ly)];
      if (a < 1e-9 || b < 1e-9) return;
      const far = Math.min(Math.max(Math.hypot(gx - ux, gy - uy), Math.abs(a - b) + 1e-9), a + b - 1e-9);
      const first =
        towards - sides[i]![f]! * Math.acos(Math.max(-1, Math.min(1, (a * a + far * far - b * b) / (2 * a * far))));
      const [kx, ky] = [ux + a * Math.cos(first), uy + a * Math.sin(first)];
      const second = Math.atan2(uy + far * Math.sin(towards) - ky, ux + far * Math.cos(towards) - kx);
      const one = between(Math.atan2(ly - uy, lx - ux), first);
      const two = between(Math.atan2(ey - ly, ex - lx), second);
      turnBy(f, upper, way(upper) * one);
      turnBy(f, lower, way(lower) * (two - one));
      turnBy(f, end, -way(end) * two);
    });
  }
  return { ...motion, turns: writer.turns };
}

/** Sines of a bend from which it says to which side a limb is bent, at first and where it changes over. */
const BENT = 0.06;
const OVER = 0.03;

/** To which side a limb is bent, 1 or −1 a frame: what is straight for a while stays on the side it came from. */
function bendSides(reader: PlaneReader, [upper, lower, end]: readonly [number, number, number]): Int8Array {
  const { fps, frameCount } = reader.motion;
  const sines = new Float64Array(frameCount);
  for (let f = 0; f < frameCount; f++) {
    const frames = reader.read(f / fps);
    const [ux, uy] = place(frames, upper);
    const [lx, ly] = place(frames, lower);
    const [ex, ey] = place(frames, end);
    const size = Math.hypot(lx - ux, ly - uy) * Math.hypot(ex - lx, ey - ly);
    sines[f] = size > 0 ? ((lx - ux) * (ey - ly) - (ly - uy) * (ex - lx)) / size : 0;
  }
  let now = (sines.find((s) => Math.abs(s) > BENT) ?? 0) < 0 ? -1 : 1;
  return Int8Array.from(sines, (s) => {
    if (s * now < -OVER) now = -now;
    return now;
  });
}

const place = (frames: Float64Array, joint: number): [number, number] => [
  frames[6 * joint + 4]!,
  frames[6 * joint + 5]!,
];

/** The short way from one angle to another. */
function between(from: number, to: number): number {
  const by = to - from;
  return by - 2 * Math.PI * Math.round(by / (2 * Math.PI));
}
