import { alignmentTurns } from '../body/alignment';
import type { Party } from '../body/party';
import { chainOf, jointOf, SIDES } from '../bodymap/slots';
import { mul64, mulInv64 } from '../math/fast';
import { axisAngleQuat, mulQuat } from '../math/quat';
import { type Motion, PoseReader } from '../motion/motion';
import { TurnWriter } from '../motion/turn-writer';
import { inRange, RAD } from './common';
import { keepFeet } from './feet';

/** Turns a joint in the frame of what carries it: W′ = (carrier · turn in body axes · carrier⁻¹) · W, children follow. */
function turnInBody(
  party: Party,
  motion: Motion,
  items: readonly { joint: number; carrier: number; turn: (f: number) => readonly number[] }[],
): Motion {
  const { rig } = party;
  const aligned = alignmentTurns(rig, party.map, party.pose);
  const writer = new TurnWriter(motion);
  const reader = new PoseReader(rig, motion);
  const body = new Float64Array(4);
  const q = new Float64Array(4);
  for (let f = 0; f < motion.frameCount; f++) {
    const { r } = reader.at(f);
    for (const { joint, carrier, turn } of items) {
      // the carrier's departure from the aligned pose: its axes are the body's left, up, front
      const c = 4 * (carrier >= 0 ? carrier : joint);
      mulInv64(body, 0, r, c, aligned, c);
      mulQuat(q, 0, body, 0, turn(f), 0);
      mulInv64(q, 0, q, 0, body, 0);
      mul64(q, 0, q, 0, r, 4 * joint);
      writer.write(f, joint, r, 4 * rig.parents[joint]!, q, 0);
    }
  }
  return { ...motion, turns: writer.turns };
}

/**
 * Arms apart: both upper arms turned away from the body (above 0) or towards it, in the chest's frame.
 * @param degrees −60 to 60
 * @throws MotionError 'bad-argument' for degrees outside their range
 */
export function armsApart(party: Party, motion: Motion, degrees: number): Motion {
  inRange(degrees, -60, 60, 'Arms apart');
  const chest = chainOf(party.map, 'spine').at(-1) ?? jointOf(party.map, 'hips');
  const items = SIDES.flatMap((side) => {
    const joint = jointOf(party.map, `upperArm${side}`);
    if (joint < 0) return [];
    const turn = [0, 0, 0, 1];
    axisAngleQuat(turn, 0, 0, 0, 1, (side === 'L' ? 1 : -1) * degrees * RAD);
    return [{ joint, carrier: chest, turn: () => turn }];
  });
  return degrees === 0 || items.length === 0 ? motion : turnInBody(party, motion, items);
}

/**
 * Lean: bows the trunk forward (above 0) or back and to the left (above 0) or right; hips, spine and neck share it, the head
 * gives half of it back so that it looks on ahead. Feet stay.
 * @param forward @param left degrees, −45 to 45
 * @throws MotionError 'bad-argument' for degrees outside their range
 */
export function lean(party: Party, motion: Motion, forward: number, left = 0): Motion {
  inRange(forward, -45, 45, 'Lean');
  inRange(left, -45, 45, 'Lean');
  if (forward === 0 && left === 0) return motion;
  const { map } = party;
  const hips = jointOf(map, 'hips');
  const spine = chainOf(map, 'spine');
  const trunk = hips >= 0 ? [hips, ...spine] : spine;
  if (trunk.length === 0) return motion;
  const share = (part: number): number[] => {
    const q = [0, 0, 0, 1];
    const roll = [0, 0, 0, 1];
    axisAngleQuat(q, 0, 1, 0, 0, forward * part * RAD);
    axisAngleQuat(roll, 0, 0, 0, 1, -left * part * RAD);
    mulQuat(q, 0, q, 0, roll, 0);
    return q;
  };
  const hipShare = spine.length > 0 ? 0.35 : 1;
  const items = trunk.map((joint) => {
    const turn = share(joint === hips ? hipShare : (1 - (hips >= 0 ? hipShare : 0)) / spine.length);
    return { joint, carrier: hips >= 0 ? hips : joint, turn: () => turn };
  });
  const head = jointOf(map, 'head');
  const back = share(-0.5);
  if (head >= 0) items.push({ joint: head, carrier: trunk.at(-1)!, turn: () => back });
  return keepFeet(party, motion, turnInBody(party, motion, items));
}
