import { findPairing } from '../body/pairing';
import type { Party } from '../body/party';
import { REGIONS, type Region, regionsOf } from '../body/regions';
import { jointOf, type Slot } from '../bodymap/slots';
import { MotionError } from '../errors';
import { Course, carried, meet } from '../join/meet';
import type { CorrectionTrack, Handle } from '../layer/correct';
import { moveAt, type OffsetKey } from '../layer/offsets';
import { jointsOf } from '../layer/overlay';
import { invMul64, load4, mul64, slerp64 } from '../math/fast';
import { expQuat, logQuat } from '../math/rotation-vector';
import { type MirrorMode, mirror } from '../mirror/mirror';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import { pickFrames } from '../motion/timing';

export const AXES = ['x', 'y', 'z'] as const;
export type Axis = (typeof AXES)[number];

/** A pose that is put over what is there, by so much. */
export interface PoseWish {
  /** Its first frame is the pose. */
  readonly pose: Motion;
  /** 0 leaves what is there, 1 is the pose; beyond both along the arc. */
  readonly strength: number;
  /** Regions and single joints that it takes; all of them where both are empty. */
  readonly regions: readonly Region[];
  readonly joints: readonly string[];
  readonly mirror: MirrorMode | null;
  /** Axes of a joint’s own frame about which it turns towards the pose; all three where left out. */
  readonly axes?: readonly Axis[] | undefined;
  /**
   * Ways along which the body moves to where the pose has it: y up, to the pose's height above the ground; x to its left and z
   * ahead of it, to where it lies over its feet. None where left out: the body stays where it is.
   */
  readonly moves?: readonly Axis[] | undefined;
  /** Hands and feet that stay where they are. */
  readonly hold: readonly Exclude<Handle, 'hips' | 'head'>[];
  /** Frames over which a joint that has no other key comes in, and goes again. */
  readonly onset: number;
}

export interface PoseKeys {
  /** What was there, with the keys of the pose. */
  readonly keys: readonly CorrectionTrack[];
  /** Joints that a key was set for, and regions of which nothing was touched. */
  readonly written: readonly string[];
  /** How far the body moves in the world, metres. */
  readonly moved: readonly [number, number, number];
  readonly leftAlone: readonly Region[];
}

/** Turns that differ by less than this are the same: half the sine of the angle. */
const SAME = 1e-4;

/**
 * Keys that put a pose over a motion at one frame. The body faces as it does; it stays where it is, or moves along the ways
 * that the wish names, its feet with it where they are not held.
 * @param beneath the motion without any keys @param now the motion with those that are there
 * @param keys those that are there, told in the motion's frames
 * @throws MotionError 'bad-argument' for a frame that is not there or a joint that is not
 */
export function poseKeys(
  party: Party,
  beneath: Motion,
  now: Motion,
  frame: number,
  keys: readonly CorrectionTrack[],
  wish: PoseWish,
): PoseKeys {
  const { rig, map } = party;
  const n = rig.names.length;
  if (!(frame >= 0 && frame < now.frameCount))
    throw new MotionError('bad-argument', `Frame ${frame} is not within 0 to ${now.frameCount - 1}.`);
  const single = pickFrames(rig, wish.pose, Float64Array.of(0));
  const turned = wish.mirror
    ? mirror(rig, map, single, {
        mode: wish.mirror,
        pairing: findPairing(rig, map, undefined, party.pairs),
        cutout: party.cutout,
      })
    : single;
  const there = pickFrames(rig, now, Float64Array.of(frame));
  const pose = carried(party, turned, meet(party, new Course(party, there), 0, new Course(party, turned), 0, 'hips'));
  const taken = jointsOf(party, wish);
  const made = there.turns.slice();
  const was = new Float64Array(4);
  const own = new Float64Array(4);
  const goal = new Float64Array(4);
  const by = new Float64Array(4);
  const about = new Float64Array(3);
  /** Axes about which nothing is taken. */
  const left = wish.axes ? [0, 1, 2].filter((k) => !wish.axes!.includes(AXES[k]!)) : [];
  const written: { joint: number; turn: [number, number, number, number] }[] = [];
  for (const j of taken) {
    load4(own, 0, there.turns, 4 * j);
    load4(goal, 0, pose.turns, 4 * j);
    slerp64(goal, 0, own, 0, goal, 0, wish.strength);
    invMul64(by, 0, own, 0, goal, 0);
    if (left.length > 0) {
      logQuat(about, 0, by, 0);
      for (const k of left) about[k] = 0;
      expQuat(by, 0, about, 0);
      mul64(goal, 0, own, 0, by, 0);
    }
    if (Math.hypot(by[0]!, by[1]!, by[2]!) < SAME) continue;
    made.set(goal, 4 * j);
    load4(was, 0, beneath.turns, 4 * (frame * n + j));
    invMul64(by, 0, was, 0, goal, 0);
    written.push({ joint: j, turn: [by[0]!, by[1]!, by[2]!, by[3]!] });
  }
  let out = [...keys];
  for (const { joint, turn } of written)
    out = withKeyAt(out, { joint: rig.names[joint]! }, frame, { turn }, wish.onset, now.frameCount);
  const moved = bodyMove(party, there, pose, wish, taken);
  const goes = Math.hypot(...moved) >= SAME;
  if (goes) {
    const own = keys.find((t) => isOf(t, { handle: 'hips' }));
    const before = own ? moveAt(own.keys, frame) : [0, 0, 0];
    const move = moved.map((x, k) => x + before[k]!) as [number, number, number];
    out = withKeyAt(out, { handle: 'hips' }, frame, { move }, wish.onset, now.frameCount);
  }
  // a body that moves leaves its feet where they are: those that nobody holds go along
  for (const foot of goes ? (['footL', 'footR'] as const).filter((f) => !wish.hold.includes(f)) : []) {
    const own = keys.find((t) => isOf(t, { handle: foot }));
    const before = own ? moveAt(own.keys, frame) : [0, 0, 0];
    const move = moved.map((x, k) => x + before[k]!) as [number, number, number];
    out = withKeyAt(out, { handle: foot }, frame, { move }, wish.onset, now.frameCount);
  }
  for (const handle of wish.hold) {
    const joint = jointOf(map, handle as Slot);
    if (joint < 0) continue;
    const before = new ChainReader(rig, there, [joint]).at(0).p.slice(3 * joint, 3 * joint + 3);
    const after = new ChainReader(rig, { ...there, turns: made }, [joint]).at(0).p;
    const move = [0, 1, 2].map((k) => before[k]! - after[3 * joint + k]!) as [number, number, number];
    if (Math.hypot(...move) < SAME) continue;
    out = withKeyAt(out, { handle }, frame, { move }, wish.onset, now.frameCount);
  }
  const regions = regionsOf(rig, map);
  const touched = new Set(written.map((w) => regions[w.joint]!));
  return {
    keys: out,
    written: written.map((w) => rig.names[w.joint]!),
    moved: goes ? moved : [0, 0, 0],
    leftAlone: REGIONS.filter((r) => regions.includes(r) && !touched.has(r)),
  };
}

/** How far a body has to go in the world to lie over its feet as the pose has it, along the ways that are wanted. */
function bodyMove(
  party: Party,
  there: Motion,
  pose: Motion,
  { moves = [], strength }: PoseWish,
  taken: readonly number[],
): [number, number, number] {
  const { rig, map } = party;
  const hips = jointOf(map, 'hips');
  if (moves.length === 0 || hips < 0 || !taken.includes(hips)) return [0, 0, 0];
  const feet = (['footL', 'footR'] as const).map((s) => jointOf(map, s)).filter((j) => j >= 0);
  /** The hips' height, and where they are on the ground against the middle of both feet. */
  const over = (m: Motion): [number, number, number] => {
    const { p } = new ChainReader(rig, m, [hips, ...feet]).at(0);
    const beside = (k: number): number =>
      feet.length === 0 ? 0 : p[3 * hips + k]! - feet.reduce((sum, j) => sum + p[3 * j + k]!, 0) / feet.length;
    return [beside(0), p[3 * hips + 1]!, beside(2)];
  };
  const [now, then] = [over(there), over(pose)];
  const [heading] = new Course(party, there).at(0);
  const [sin, cos] = [Math.sin(heading), Math.cos(heading)];
  const [x, y, z] = now.map((a, k) => strength * (then[k]! - a)) as [number, number, number];
  const left = moves.includes('x') ? x * cos - z * sin : 0;
  const ahead = moves.includes('z') ? x * sin + z * cos : 0;
  return [left * cos + ahead * sin, moves.includes('y') ? y : 0, ahead * cos - left * sin];
}

const isOf = (t: CorrectionTrack, of: { joint: string } | { handle: Handle }): boolean =>
  'joint' in of ? 'joint' in t && t.joint === of.joint : 'handle' in t && t.handle === of.handle;

/** Sets a key; one that would be the only one is fenced in by keys that change nothing. */
function withKeyAt(
  tracks: readonly CorrectionTrack[],
  of: { joint: string } | { handle: Handle },
  frame: number,
  key: Omit<OffsetKey, 'frame'>,
  onset: number,
  frames: number,
): CorrectionTrack[] {
  const own = tracks.find((t) => isOf(t, of));
  const others = (own?.keys ?? []).filter((k) => k.frame !== frame);
  const nothing: Omit<OffsetKey, 'frame'> = key.turn ? { turn: [0, 0, 0, 1] } : { move: [0, 0, 0] };
  const fence =
    others.length > 0 || onset < 1
      ? []
      : [frame - onset, frame + onset].filter((f) => f >= 0 && f < frames).map((f) => ({ ...nothing, frame: f }));
  const keys = [...others, ...fence, { ...key, frame }].sort((a, b) => a.frame - b.frame);
  const track = { ...of, keys } as CorrectionTrack;
  return own ? tracks.map((t) => (t === own ? track : t)) : [...tracks, track];
}
