import { mulInv64, rotate64 } from '../math/fast';
import { mulInvQuat } from '../math/quat';

/** Where a body is on the ground (metres) and which way it faces: radians about Y, 0 along +Z, π/2 along +X. */
export interface RootFrame {
  readonly heading: number;
  readonly x: number;
  readonly z: number;
}

/** Less than this of a unit vector along the ground says nothing of a heading: the body lies. */
const LEVEL = 0.15;

const turn = new Float64Array(4);
const ahead = new Float64Array(3);
const FORWARD = Float64Array.of(0, 0, 1);

/**
 * Which way a body faces, from the world turn of its hips against the turn with which they face +Z; right under any parents,
 * since both are turns in the world. It goes on from the heading before without jumps of a whole turn, and a body that lies
 * keeps it.
 * @param r world turns, the hips' at o @param facing turns that face +Z (see alignmentTurns), the hips' at fo
 * @param last the heading before, 0 where there is none
 */
export function headingOf(r: Float64Array, o: number, facing: Float64Array, fo: number, last = 0): number {
  mulInv64(turn, 0, r, o, facing, fo);
  rotate64(ahead, 0, turn, 0, FORWARD, 0);
  const [x, z] = [ahead[0]!, ahead[2]!];
  if (x * x + z * z < LEVEL * LEVEL) return last;
  const heading = Math.atan2(x, z);
  return heading + 2 * Math.PI * Math.round((last - heading) / (2 * Math.PI));
}

/** The turn about Y nearest to the one that leads from `from` to `to`, −π to π. */
export function yawBetween(to: ArrayLike<number>, t: number, from: ArrayLike<number>, f: number): number {
  const q = [0, 0, 0, 1];
  mulInvQuat(q, 0, to, t, from, f);
  const yaw = 2 * Math.atan2(q[1]!, q[3]!);
  return yaw > Math.PI ? yaw - 2 * Math.PI : yaw < -Math.PI ? yaw + 2 * Math.PI : yaw;
}

/** A turn about Y. @param yaw radians */
export const yawQuat = (yaw: number): number[] => [0, Math.sin(yaw / 2), 0, Math.cos(yaw / 2)];
