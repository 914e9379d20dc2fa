import {
  composePose,
  isSole,
  jointOf,
  type Motion,
  measureBody,
  newWorldPose,
  type PlantPart,
  type WorldPose,
} from '@velvet-reel/motion';
import type { RigAnswer } from '@/client/types';
import { rigView } from '@/stage/rig-view';

/** What of a motion a single pose needs. */
type Shown = Pick<Motion, 'frameCount' | 'rotations' | 'translations'>;

// Single poses of a result, for buttons that say "here": worked out on the page, one frame at a time.

function poseAt(rig: RigAnswer, motion: Shown, frame: number): WorldPose {
  const view = rigView(rig).rig;
  const n = view.names.length;
  const f = Math.max(0, Math.min(motion.frameCount - 1, frame));
  const places = Float32Array.from(view.restT);
  for (const t of motion.translations) places.set(t.values.subarray(3 * f, 3 * f + 3), 3 * t.joint);
  const pose = newWorldPose(n);
  composePose(view.parents, motion.rotations.subarray(4 * n * f, 4 * n * (f + 1)), places, pose.r, pose.p);
  return pose;
}

/** Place of a slot's joint, metres. */
export function slotPlace(
  rig: RigAnswer,
  motion: Shown,
  slot: string,
  frame: number,
): [number, number, number] | undefined {
  const joint = jointOf(rigView(rig).map, slot);
  if (joint < 0) return undefined;
  const { p } = poseAt(rig, motion, frame);
  return [p[3 * joint]!, p[3 * joint + 1]!, p[3 * joint + 2]!];
}

/** Where a part that can be planted is on the ground, x and z, metres. */
export function partSpot(rig: RigAnswer, motion: Shown, part: PlantPart, frame: number): [number, number] | undefined {
  const view = rigView(rig);
  if (!isSole(part)) {
    const slot = part === 'seat' ? 'hips' : part.startsWith('knee') ? `shin${part.slice(-1)}` : part;
    const at = slotPlace(rig, motion, slot, frame);
    return at && [at[0], at[2]];
  }
  const sole = measureBody(view.rig, view.map, undefined, rig.floorM ?? undefined).soles[part.slice(-1) as 'L' | 'R'];
  if (!sole) return undefined;
  const { r, p } = poseAt(rig, motion, frame);
  const v = part.startsWith('heel') ? sole.heel : sole.ball;
  const [x, y, z, w] = [0, 1, 2, 3].map((k) => r[4 * sole.foot + k]!) as [number, number, number, number];
  const t = [2 * (y * v[2]! - z * v[1]!), 2 * (z * v[0]! - x * v[2]!), 2 * (x * v[1]! - y * v[0]!)];
  return [
    p[3 * sole.foot]! + v[0]! + w * t[0]! + y * t[2]! - z * t[1]!,
    p[3 * sole.foot + 2]! + v[2]! + w * t[2]! + x * t[1]! - y * t[0]!,
  ];
}
