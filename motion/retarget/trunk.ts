import { type HoldTracks, palmPoint } from '../analysis/holds';
import type { Plant } from '../analysis/plants';
import { chainOf, jointOf, SIDES } from '../bodymap/slots';
import { mul64, rotate64 } from '../math/fast';
import { clamp } from '../math/vec';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import { TurnWriter } from '../motion/turn-writer';
import { restPose } from '../rig/rig';
import { weightOf } from './arms';
import { fillBetween, runningMean } from './envelope';
import type { RetargetPlan } from './plan';

const PITCH_FADE_S = 0.35;
/** Largest pitch of the trunk, radians. */
const MOST_PITCH = (60 * Math.PI) / 180;
/** Least height of a held palm above the ground, metres. */
export const PALM_CLEAR = 0.01;

/**
 * Pitches the trunk so that arms which rest on the ground keep the source's directions: on longer arms the shoulders come
 * up, on shorter ones down, instead of elbows folding or stretching. The spine shares the pitch; upper arms and the head
 * keep their turn in the world, the neck takes half.
 * @param floor height of the ground under the source, metres
 */
export function pitchTrunk(
  plan: RetargetPlan,
  moved: Motion,
  plants: readonly Plant[],
  tracks: HoldTracks,
  floor: number,
): Motion {
  const { rig, map, pose } = plan.target;
  const spine = chainOf(map, 'spine');
  const uppers = SIDES.map((s) => jointOf(map, `upperArm${s}`));
  const rest = pose ?? restPose(rig);
  const hands = SIDES.flatMap((side) => {
    const spans = plants.filter((p) => p.part === `hand${side}`);
    const joint = jointOf(map, `hand${side}`);
    const track = tracks[`hand${side}`];
    if (spans.length === 0 || joint < 0 || !track) return [];
    const palm = palmPoint(rig, plan.target, side, rest);
    return [{ joint, palm, track, held: weightOf(spans, moved.frameCount, 0) }];
  });
  if (hands.length === 0 || spine.length === 0 || uppers.some((j) => j < 0)) return moved;
  const reader = new ChainReader(
    rig,
    moved,
    [...hands.map((h) => h.joint), ...uppers, jointOf(map, 'head')].filter((j) => j >= 0),
  );
  const ask = new Float64Array(moved.frameCount).fill(Number.NaN);
  const offset = new Float64Array(3);
  const frame = newTrunkFrame(spine.length);
  let most = 0;
  for (let f = 0; f < moved.frameCount; f++) {
    let rise = 0;
    let count = 0;
    const { r, p } = reader.at(f);
    for (const { joint, palm, track, held } of hands) {
      if (held[f] !== 1) continue;
      rotate64(offset, 0, r, 4 * joint, palm, 0);
      const want = Math.max(PALM_CLEAR, (track[3 * f + 1]! - floor) * plan.scale);
      rise += want - (p[3 * joint + 1]! + offset[1]!);
      count++;
    }
    if (count === 0) continue;
    readTrunk(frame, p, spine, uppers);
    ask[f] = pitchFor(frame, rise / count, plan.target.body.arm);
    most = Math.max(most, Math.abs(ask[f]!));
  }
  if (most < 1e-4) return moved;
  const fade = Math.max(1, Math.round(PITCH_FADE_S * moved.fps));
  fillBetween(ask, fade);
  const course = runningMean(runningMean(ask, fade >> 2), fade >> 2);
  return pitch(plan, moved, reader, course, spine, uppers, frame);
}

/** The trunk in the plane of its pitch: per spine joint the way to the next one (at last the shoulders), up and ahead. */
interface TrunkFrame {
  readonly up: Float64Array;
  readonly ahead: Float64Array;
  /** Horizontal axis of the pitch, x and z, towards the left shoulder. */
  readonly axis: [number, number];
}

const newTrunkFrame = (n: number): TrunkFrame => ({
  up: new Float64Array(n),
  ahead: new Float64Array(n),
  axis: [1, 0],
});

function readTrunk(out: TrunkFrame, p: Float64Array, spine: readonly number[], [l, r]: readonly number[]): void {
  let x = p[3 * l!]! - p[3 * r!]!;
  let z = p[3 * l! + 2]! - p[3 * r! + 2]!;
  const flat = Math.hypot(x, z);
  if (flat > 1e-6) out.axis.splice(0, 2, x / flat, z / flat);
  [x, z] = out.axis;
  const shoulders = [0, 1, 2].map((k) => (p[3 * l! + k]! + p[3 * r! + k]!) / 2);
  spine.forEach((j, i) => {
    const next = spine[i + 1];
    const d = [0, 1, 2].map((k) => (next === undefined ? shoulders[k]! : p[3 * next + k]!) - p[3 * j + k]!);
    out.up[i] = d[1]!;
    out.ahead[i] = -z * d[0]! + x * d[2]!;
  });
}

/** How much dearer an arm's wrong direction is than the trunk's. */
const ARM_WORTH = 60;

/**
 * Pitch forward, radians, that lifts the shoulders by `rise`, as far as the trunk can; Newton's method on the shared turn. A
 * trunk that stands upright would have to pitch far for little: then arms give way instead, by what that costs both.
 * @param arm length of an arm, metres
 */
function pitchFor({ up, ahead }: TrunkFrame, rise: number, arm: number): number {
  const n = up.length;
  let lever = 0;
  for (let i = 0; i < n; i++) lever -= ((i + 1) / n) * ahead[i]!;
  let angle = 0;
  for (let pass = 0; pass < 8; pass++) {
    let value = -rise;
    let slope = 0;
    for (let i = 0; i < n; i++) {
      const share = (i + 1) / n;
      const [c, s] = [Math.cos(share * angle), Math.sin(share * angle)];
      value += up[i]! * (c - 1) - ahead[i]! * s;
      slope += share * (-up[i]! * s - ahead[i]! * c);
    }
    if (Math.abs(slope) < 1e-4) break;
    angle = clamp(angle - clamp(value / slope, -0.3, 0.3), -MOST_PITCH, MOST_PITCH);
  }
  const worth = ARM_WORTH * (lever / Math.max(arm, 1e-3)) ** 2;
  return (angle * worth) / (1 + worth);
}

function pitch(
  plan: RetargetPlan,
  moved: Motion,
  reader: ChainReader,
  course: Float64Array,
  spine: readonly number[],
  uppers: readonly number[],
  frame: TrunkFrame,
): Motion {
  const { rig, map } = plan.target;
  const n = rig.names.length;
  const writer = new TurnWriter(moved);
  // per joint: the share of the pitch its turn in the world takes, −1 where it follows what carries it
  const own = new Float64Array(n).fill(-1);
  spine.forEach((j, i) => {
    own[j] = (i + 1) / spine.length;
  });
  const neck = chainOf(map, 'neck');
  neck.forEach((j, i) => {
    own[j] = 1 - (0.5 * (i + 1)) / neck.length;
  });
  for (const j of [...uppers, jointOf(map, 'head')]) if (j >= 0) own[j] = 0;
  const carried = new Float64Array(n);
  const edits: { joint: number; by: number }[] = [];
  for (let j = 0; j < n; j++) {
    const above = rig.parents[j]!;
    const from = above < 0 ? 0 : carried[above]!;
    carried[j] = own[j]! >= 0 ? own[j]! : from;
    if (carried[j] !== from) edits.push({ joint: j, by: carried[j]! - from });
  }
  const turn = new Float64Array(4);
  const world = new Float64Array(4);
  for (let f = 0; f < moved.frameCount; f++) {
    const { r, p } = reader.at(f);
    readTrunk(frame, p, spine, uppers);
    for (const { joint, by } of edits) {
      const half = (by * course[f]!) / 2;
      turn[0] = frame.axis[0] * Math.sin(half);
      turn[1] = 0;
      turn[2] = frame.axis[1] * Math.sin(half);
      turn[3] = Math.cos(half);
      mul64(world, 0, turn, 0, r, 4 * joint);
      writer.write(f, joint, r, 4 * rig.parents[joint]!, world, 0);
    }
  }
  return { ...moved, turns: writer.turns };
}
