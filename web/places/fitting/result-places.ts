import {
  jointOf,
  type Motion,
  measureBody,
  type PlantPart,
  PoseReader,
  partPlace,
  type WorldPose,
} from '@velvet-reel/motion';
import type { RigAnswer } from '@/contract';
import { rigView } from '@/stage/rig-view';
import { partyFromJson } from '@/wishes/party';

// Single poses of a result, for buttons that say "here": worked out on the page, one frame at a time.

function poseAt(rig: RigAnswer, motion: Motion, frame: number): WorldPose {
  return new PoseReader(rigView(rig).rig, motion).at(Math.max(0, Math.min(motion.frameCount - 1, frame)));
}

/** Place of a slot's joint, metres. */
export function slotPlace(
  rig: RigAnswer,
  motion: Motion,
  slot: string,
  frame: number,
): [number, number, number] | undefined {
  const joint = jointOf(rigView(rig).map, slot);
  if (joint < 0) return undefined;
  const { p } = poseAt(rig, motion, frame);
  return [p[3 * joint]!, p[3 * joint + 1]!, p[3 * joint + 2]!];
}

/** Where a part that can be planted is on the ground, x and z, metres: by the point that a plant holds it by. */
export function partSpot(rig: RigAnswer, motion: Motion, part: PlantPart, frame: number): [number, number] | undefined {
  const party = partyFromJson(rig);
  const body = measureBody(party.rig, party.map, party.pose, party.floor);
  const at = partPlace({ ...party, body }, motion, part, frame);
  return at && [at[0], at[2]];
}
