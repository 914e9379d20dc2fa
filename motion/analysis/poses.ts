import { MotionError } from '../errors';
import { describePose, poseDistance } from './descriptor';
import { type Contacts, isSole } from './plants';
import { FEATURE_WIDTH, type PoseFeatures } from './pose-features';

// A list of poses, one record each:
//   0  u16 frame
//   2  u8  support: 1 the left foot stands, 2 the right, 3 both, 0 none
//   3  FEATURE_WIDTH signed bytes, see describePose
export const POSE_RECORD = 3 + FEATURE_WIDTH;
/** Most poses kept of one motion. */
export const MOST_POSES = 16;
/** Poses nearer to one that is kept than this say nothing new, legs. */
const NEW = 0.06;

/** On which feet the body stands in a frame: 1 left, 2 right, 3 both, 0 none. */
export function supportAt(contacts: Contacts, frame: number): number {
  let feet = 0;
  for (const p of contacts.plants)
    if (isSole(p.part) && p.start <= frame && p.end >= frame) feet |= p.part.endsWith('L') ? 1 : 2;
  return feet;
}

/**
 * The poses that a motion passes through, for search by pose: first, last, and between them those that differ most from
 * what is kept already (farthest point first), at most MOST_POSES.
 * @param features of every frame, or of every `step`th
 */
export function describePoses(features: PoseFeatures, contacts: Contacts, step = 1): Uint8Array {
  const frames = features.frameCount;
  const stride = Math.max(1, Math.floor(frames / 120));
  const candidates: number[] = [];
  for (let f = 0; f < frames; f += stride) candidates.push(f);
  const poses = candidates.map((f) => describePose(features, f));
  const chosen = [0];
  const nearest = poses.map((p) => poseDistance(p, poses[0]!));
  while (chosen.length < Math.min(MOST_POSES, candidates.length)) {
    let best = 0;
    for (let i = 1; i < nearest.length; i++) if (nearest[i]! > nearest[best]!) best = i;
    if (nearest[best]! < NEW) break;
    chosen.push(best);
    for (let i = 0; i < nearest.length; i++) nearest[i] = Math.min(nearest[i]!, poseDistance(poses[i]!, poses[best]!));
  }
  chosen.sort((a, b) => a - b);
  const out = new Uint8Array(POSE_RECORD * chosen.length);
  const view = new DataView(out.buffer);
  chosen.forEach((i, k) => {
    const frame = candidates[i]! * step;
    view.setUint16(POSE_RECORD * k, Math.min(65535, frame), true);
    out[POSE_RECORD * k + 2] = supportAt(contacts, frame);
    out.set(new Uint8Array(poses[i]!.buffer), POSE_RECORD * k + 3);
  });
  return out;
}

/** One record: a pose that is looked for. */
export function poseRecord(features: PoseFeatures, contacts: Contacts, frame: number, step = 1): Uint8Array {
  const at = Math.min(features.frameCount - 1, Math.floor(frame / step));
  const out = new Uint8Array(POSE_RECORD);
  new DataView(out.buffer).setUint16(0, Math.min(65535, frame), true);
  out[2] = supportAt(contacts, frame);
  out.set(new Uint8Array(describePose(features, at).buffer), 3);
  return out;
}

/** @throws MotionError 'wrong-count' on bytes that hold no whole records */
export function poseCount(bytes: Uint8Array): number {
  if (bytes.length % POSE_RECORD !== 0)
    throw new MotionError('wrong-count', `A pose has ${POSE_RECORD} bytes; these are ${bytes.length}.`);
  return bytes.length / POSE_RECORD;
}
