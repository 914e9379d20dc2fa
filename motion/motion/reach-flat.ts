import type { CutoutRig } from '../rig/rig';
import type { Motion } from './motion';
import { PlaneReader } from './plane-pose';
import { TurnWriter } from './turn-writer';

/** A limb of a cut-out that bends in its plane. */
export interface FlatChain {
  /** Upper, lower and end joint; lower is the upper one again for a limb of one piece. */
  readonly chain: readonly [number, number, number];
}

/**
 * Bends limbs of a cut-out in their plane so that their ends come to their goals, as near as they reach; each bends to the side
 * to which it was bent. Ends keep their turns in the picture unless others are given.
 * @param goals 2 F numbers for each limb, metres
 * @param ways F numbers for each limb: where its end's own x axis is to point in the picture, radians from x towards y
 */
export function reachFlat(
  rig: CutoutRig,
  motion: Motion,
  limbs: readonly FlatChain[],
  goals: readonly Float64Array[],
  ways?: readonly Float64Array[],
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
  // within a figure that is turned over, turns go the other way round
  const way = (frames: Float64Array, joint: number): number => {
    const o = 6 * rig.parents[joint]!;
    return o < 0 || frames[o]! * frames[o + 3]! - frames[o + 1]! * frames[o + 2]! >= 0 ? 1 : -1;
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
      if (ways)
        turnBy(f, end, way(frames, end) * between(Math.atan2(frames[6 * end + 1]!, frames[6 * end]!), ways[i]![f]!));
      if (Math.hypot(gx - ex, gy - ey) < 1e-9) return;
      const towards = Math.atan2(gy - uy, gx - ux);
      if (upper === lower) {
        const by = between(Math.atan2(ey - uy, ex - ux), towards);
        turnBy(f, upper, way(frames, upper) * by);
        turnBy(f, end, -way(frames, end) * by);
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
      turnBy(f, upper, way(frames, upper) * one);
      turnBy(f, lower, way(frames, lower) * (two - one));
      turnBy(f, end, -way(frames, end) * two);
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
