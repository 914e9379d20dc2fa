import {
  composePose,
  jointOf,
  type Motion,
  measureBody,
  newWorldPose,
  type PlantPart,
  partPlace,
  type WorldPose,
} from '@velvet-reel/motion';
import type { RigAnswer } from '@/client/types';
import { rigView } from '@/stage/rig-view';
import { partyFromJson } from '@/workers/party';

/** What of a motion a single pose needs. */
type Shown = Pick<Motion, 'frameCount' | 'turns' | 'places'>;

// Single poses of a result, for buttons that say "here": worked out on the page, one frame at a time.

function poseAt(rig: RigAnswer, motion: Shown, frame: number): WorldPose {
  const view = rigView(rig).rig;
  const n = view.names.length;
  const f = Math.max(0, Math.min(motion.frameCount - 1, frame));
  const places = Float32Array.from(view.restT);
  for (const t of motion.places) places.set(t.values.subarray(3 * f, 3 * f + 3), 3 * t.joint);
  const pose = newWorldPose(n);
  composePose(view.parents, motion.turns.subarray(4 * n * f, 4 * n * (f + 1)), places, pose.r, pose.p);
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

/** Where a part that can be planted is on the ground, x and z, metres: by the point that a plant holds it by. */
export function partSpot(rig: RigAnswer, motion: Shown, part: PlantPart, frame: number): [number, number] | undefined {
  const party = partyFromJson(rig);
  const body = measureBody(party.rig, party.map, party.pose, party.floor);
  const at = partPlace({ ...party, body }, motion, part, frame);
  return at && [at[0], at[2]];
}
