import { type BodyMap, jointOf } from '../bodymap/slots';
import type { WorldPose } from './rig';

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
