import { type BodyMap, jointOf } from '../bodymap/slots';
import { type Motion, PoseReader } from '../motion/motion';
import type { SkeletonRig, WorldPose } from '../rig/rig';

export type RestKind = 'T' | 'A' | 'hanging' | 'other';

/** Angle of an upper arm from hanging straight down, in degrees; undefined where the arm is not mapped. Y is up. */
export function armAngle(pose: WorldPose, map: BodyMap, side: 'L' | 'R'): number | undefined {
  const a = jointOf(map, `upperArm${side}`);
  const b = jointOf(map, `forearm${side}`);
  if (a < 0 || b < 0) return undefined;
  const [x, y, z] = [0, 1, 2].map((k) => pose.p[3 * b + k]! - pose.p[3 * a + k]!) as [number, number, number];
  return (Math.atan2(Math.hypot(x, z), -y) * 180) / Math.PI;
}

/** Judges a pose by its arms: level is T, slanting is A, beside the body is hanging. */
export function restKind(pose: WorldPose, map: BodyMap): RestKind {
  const angles = (['L', 'R'] as const).map((s) => armAngle(pose, map, s)).filter((x) => x !== undefined);
  if (angles.length === 0) return 'other';
  const mean = angles.reduce((a, b) => a + b, 0) / angles.length;
  if (Math.max(...angles) - Math.min(...angles) > 35) return 'other';
  if (mean < 22) return 'hanging';
  if (mean < 70) return 'A';
  return mean < 110 ? 'T' : 'other';
}

/** First frame in which a motion stands in T, within its first three seconds; −1 where it never does. */
export function findTPose(rig: SkeletonRig, map: BodyMap, motion: Motion): number {
  const reader = new PoseReader(rig, motion);
  const last = Math.min(motion.frameCount - 1, Math.round(3 * motion.fps));
  for (let f = 0; f <= last; f++) {
    const pose = reader.at(f);
    if (restKind(pose, map) === 'T' && legsStraight(pose, map)) return f;
  }
  return -1;
}

function legsStraight(pose: WorldPose, map: BodyMap): boolean {
  return (['L', 'R'] as const).every((side) => {
    const [a, b, c] = ['thigh', 'shin', 'foot'].map((s) => jointOf(map, s + side)) as [number, number, number];
    if (a < 0 || b < 0 || c < 0) return true;
    const along = (p: number, q: number): number[] => [0, 1, 2].map((k) => pose.p[3 * q + k]! - pose.p[3 * p + k]!);
    const [u, v] = [along(a, b), along(b, c)];
    const cos = u.reduce((s, x, k) => s + x * v[k]!, 0) / (Math.hypot(...u) * Math.hypot(...v) || 1);
    return cos > 0.94 && -u[1]! > 0.9 * Math.hypot(...u);
  });
}
