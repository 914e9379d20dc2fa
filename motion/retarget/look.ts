import { jointOf } from '../bodymap/slots';
import { MotionError } from '../errors';
import { mul64, rotate64, slerp64 } from '../math/fast';
import { arcQuat, invertQuat } from '../math/quat';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import { TurnWriter } from '../motion/turn-writer';
import { type ImportanceKey, importanceAt } from './hand-goals';
import type { RetargetPlan } from './plan';

/** The head looks at a point in the world, so far as its importance says. */
export interface LookGoal {
  /** x, y, z, metres. */
  readonly point: readonly [number, number, number];
  readonly weight?: number | readonly ImportanceKey[];
}

/** Farthest that a look turns the head from where the motion has it, radians. */
const MOST_GAZE = (70 * Math.PI) / 180;

/**
 * Turns the head towards a spot; neck and trunk stay as they are. Pure.
 * @throws MotionError 'bad-argument' for a point or keys that are none
 */
export function lookAt(plan: RetargetPlan, motion: Motion, goals: readonly LookGoal[]): Motion {
  const { rig, map } = plan.target;
  const head = jointOf(map, 'head');
  if (head < 0 || goals.length === 0) return motion;
  for (const g of goals)
    if (g.point.some((x) => !Number.isFinite(x)))
      throw new MotionError('bad-argument', 'A look needs the spot it goes to: x, y and z in metres.');
  const writer = new TurnWriter(motion);
  const reader = new ChainReader(rig, motion, [head]);
  // the face's direction in the head's frame: ahead in the aligned pose
  const back = new Float64Array(4);
  const ahead = Float64Array.of(0, 0, 1);
  invertQuat(back, 0, plan.targetAligned, 4 * head);
  rotate64(ahead, 0, back, 0, ahead, 0);
  const now = new Float64Array(3);
  const turn = Float64Array.of(0, 0, 0, 1);
  const own = new Float64Array(4);
  const same = Float64Array.of(0, 0, 0, 1);
  const arc = [0, 0, 0, 1];
  for (let f = 0; f < motion.frameCount; f++) {
    const { r, p } = reader.at(f);
    own.set(r.subarray(4 * head, 4 * head + 4));
    for (const g of goals) {
      const w = importanceAt(g.weight ?? 1, f);
      if (w <= 0) continue;
      rotate64(now, 0, own, 0, ahead, 0);
      const to = g.point.map((x, k) => x - p[3 * head + k]!);
      if (Math.hypot(...to) < 1e-4) continue;
      arcQuat(arc, 0, now, 0, to, 0);
      const angle = 2 * Math.atan2(Math.hypot(arc[0]!, arc[1]!, arc[2]!), arc[3]!);
      slerp64(turn, 0, same, 0, Float64Array.from(arc), 0, w * Math.min(1, MOST_GAZE / Math.max(angle, 1e-9)));
      mul64(own, 0, turn, 0, own, 0);
    }
    writer.write(f, head, r, 4 * rig.parents[head]!, own, 0);
  }
  return { ...motion, turns: writer.turns };
}
