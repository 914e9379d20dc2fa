import type { Party } from '../body/party';
import { type BodyMap, jointOf, type Slot } from '../bodymap/slots';
import type { CorrectionTrack } from '../layer/correct';
import { type OffsetKey, turnOffsetAt } from '../layer/offsets';
import { angleBetweenQuats, axisAngleQuat, mulQuat, slerp } from '../math/quat';
import { restPose, type SkeletonRig, type WorldPose } from '../rig/rig';
import type { ReelMember } from './document';
import { type LabelKey, type LevelKey, labelInLane, levelInLane } from './levels';

// A pass: part of a member played by hand while everything else that is there plays along.

/** Parts of the body that a pointer turns, with the joints that share the turn. */
export const PASS_PARTS = ['head', 'trunk', 'armL', 'armR'] as const;
export type PassPart = (typeof PASS_PARTS)[number];

const SHARED: Readonly<Record<PassPart, readonly Slot[]>> = {
  head: ['neck1', 'neck2', 'head'],
  trunk: ['spine1', 'spine2', 'spine3', 'spine4', 'spine5'],
  armL: ['upperArmL'],
  armR: ['upperArmR'],
};
/** How far a pointer at the edge of its pad turns a part: to the side and up or down, degrees. */
const REACH: Readonly<Record<PassPart, readonly [aside: number, up: number]>> = {
  head: [75, 50],
  trunk: [50, 40],
  armL: [80, 100],
  armR: [80, 100],
};
const RAD = Math.PI / 180;

/** What a pass writes, and nothing else: each in frames of the reel, rising. */
export interface Pass {
  /** Turns of joints in their own frames, put behind what they do. */
  readonly turns: readonly { readonly joint: string; readonly samples: readonly TurnSample[] }[];
  readonly numbers: readonly { readonly name: string; readonly samples: readonly NumberSample[] }[];
  readonly labels: readonly { readonly name: string; readonly samples: readonly LabelSample[] }[];
}
export interface TurnSample {
  readonly frame: number;
  readonly turn: readonly [number, number, number, number];
}
export interface NumberSample {
  readonly frame: number;
  readonly value: number;
}
export interface LabelSample {
  readonly frame: number;
  readonly label: string;
}

/** Joints that turn a part of a rig, those nearest the hips first; empty where it has none. */
export const jointsOfPart = (map: BodyMap, part: PassPart): number[] =>
  SHARED[part].map((s) => jointOf(map, s)).filter((j) => j >= 0);

/**
 * How the joints of a part turn for a place on a pad: to the side about the body's upright axis, up and down about the axis
 * through its sides, shared evenly. An arm is raised from the side of the body, and swung ahead and back. On a cut-out both
 * turn it in its plane.
 * @param at from −1 to 1, to the right and upwards
 * @returns a turn for each joint, in its own frame
 */
export function partTurns(
  { rig, map, cutout }: Party & { readonly cutout?: unknown },
  part: PassPart,
  at: readonly [number, number],
): { joint: number; turn: [number, number, number, number] }[] {
  const joints = jointsOfPart(map, part);
  const rest = restPose(rig as SkeletonRig);
  const [aside, up] = REACH[part];
  const share = 1 / Math.max(1, joints.length);
  return joints.map((joint) => {
    const own = (x: number, y: number, z: number, degrees: number): number[] => {
      const q = [0, 0, 0, 1];
      axisAngleQuat(q, 0, x, y, z, degrees * RAD * share);
      // an axis of the world as the joint at rest sees it
      const back = [0, 1, 2, 3].map((k) => (k < 3 ? -1 : 1) * rest.r[4 * joint + k]!);
      const out = [0, 0, 0, 1];
      mulQuat(out, 0, back, 0, q, 0);
      mulQuat(out, 0, out, 0, rest.r, 4 * joint);
      return out;
    };
    const turn = [0, 0, 0, 1];
    const side = part === 'armL' ? 1 : part === 'armR' ? -1 : 0;
    if (side !== 0) {
      mulQuat(turn, 0, turn, 0, own(0, 0, 1, side * at[1] * up), 0);
      if (!cutout)
        mulQuat(turn, 0, turn, 0, own(...swingAxis(rig as SkeletonRig, rest, joint, side), at[0] * aside), 0);
    } else if (cutout) mulQuat(turn, 0, turn, 0, own(0, 0, 1, -at[0] * aside * 0.6), 0);
    else {
      mulQuat(turn, 0, own(0, 1, 0, at[0] * aside), 0, own(1, 0, 0, -at[1] * up), 0);
    }
    return { joint, turn: turn as [number, number, number, number] };
  });
}

/** The axis about which an arm swings ahead, wherever it points at rest; to its side where that cannot be told. */
function swingAxis(rig: SkeletonRig, rest: WorldPose, joint: number, side: number): [number, number, number] {
  const child = rig.parents.indexOf(joint);
  const [x, y] = child < 0 ? [side, 0] : [0, 1].map((k) => rest.p[3 * child + k]! - rest.p[3 * joint + k]!);
  const far = Math.hypot(x!, y!);
  // from where it points, about which way it comes to point to +Z
  return far < 1e-6 ? [0, -side, 0] : [y! / far, -x! / far, 0];
}

/** Keys within these are left out: degrees, and share of a number's range of 1. */
const TURN_DEG = 0.4;
const LEVEL = 0.01;
/** Over so many frames a pass comes in and goes again at its ends. */
const FADE = 4;

/**
 * Writes a pass over some frames of a member. Only what the pass holds is written: keys of its joints, numbers and labels within
 * the frames are replaced, everything else is left alone, and what was set before and behind goes on as it did.
 * @param from first frame that the pass writes @param to last one, included
 */
export function writePass<M extends Pick<ReelMember, 'keys' | 'numbers' | 'labels'>>(
  member: M,
  pass: Pass,
  from: number,
  to: number,
): M {
  let keys = member.keys;
  for (const { joint, samples } of pass.turns) {
    const inside = samples.filter((s) => s.frame >= from && s.frame <= to);
    if (inside.length === 0) continue;
    const before = keys.find((t) => 'joint' in t && t.joint === joint);
    const track: CorrectionTrack = { joint, keys: turnKeys(before?.keys ?? [], inside, from, to) };
    keys = before ? keys.map((t) => (t === before ? track : t)) : [...keys, track];
  }
  const numbers = new Map((member.numbers ?? []).map((n) => [n.name, n]));
  for (const { name, samples } of pass.numbers) {
    const inside = samples.filter((s) => s.frame >= from && s.frame <= to);
    if (inside.length === 0) continue;
    const old = numbers.get(name) ?? { name, keys: [] };
    const fresh: LevelKey[] = thinned(
      inside,
      (a, b, x) => Math.abs(a.value + ((b.value - a.value) * (x.frame - a.frame)) / (b.frame - a.frame) - x.value),
      LEVEL,
    ).map(({ frame, value }) => ({ frame, value }));
    numbers.set(name, {
      name,
      keys: spliced(old.keys, fresh, from, to, { frame: to + 1, value: levelInLane(old, to + 1) }),
    });
  }
  const labels = new Map((member.labels ?? []).map((l) => [l.name, l]));
  for (const { name, samples } of pass.labels) {
    const inside = samples.filter((s) => s.frame >= from && s.frame <= to);
    if (inside.length === 0) continue;
    const old = labels.get(name) ?? { name, keys: [] };
    const fresh: LabelKey[] = inside.filter((s, i) => i === 0 || s.label !== inside[i - 1]!.label);
    labels.set(name, {
      name,
      keys: spliced(old.keys, fresh, from, to, { frame: to + 1, label: labelInLane(old, to + 1) }),
    });
  }
  return { ...member, keys, numbers: [...numbers.values()], labels: [...labels.values()] };
}

/** Keys with those of some frames replaced; behind them what was set there goes on. */
function spliced<K extends { readonly frame: number }>(
  old: readonly K[],
  fresh: readonly K[],
  from: number,
  to: number,
  behind: K,
): K[] {
  const after = old.filter((k) => k.frame > to);
  return [
    ...old.filter((k) => k.frame < from),
    ...fresh,
    ...(after[0]?.frame === behind.frame ? [] : [behind]),
    ...after,
  ];
}

/** Turns of a pass as keys among those that are there: it comes in over some frames, and goes to what was set before. */
function turnKeys(old: readonly OffsetKey[], samples: readonly TurnSample[], from: number, to: number): OffsetKey[] {
  const [start, end] = [Math.max(0, from - FADE), to + FADE];
  const guard = (frame: number): OffsetKey => ({ frame, turn: turnOffsetAt(old, frame) });
  const kept = thinned(samples, turnError, TURN_DEG).map(
    ({ frame, turn }): OffsetKey => ({ frame, turn, ease: 'linear' }),
  );
  const first = kept[0]!;
  return [
    ...old.filter((k) => k.frame < start),
    ...(first.frame > start ? [guard(start)] : []),
    ...kept,
    guard(end),
    ...old.filter((k) => k.frame > end),
  ];
}

const between = [0, 0, 0, 1];
/** How far a sample is from the straight way between two others, degrees. */
function turnError(a: TurnSample, b: TurnSample, x: TurnSample): number {
  slerp(between, 0, a.turn, 0, b.turn, 0, (x.frame - a.frame) / (b.frame - a.frame));
  return (angleBetweenQuats(between, 0, x.turn, 0) * 180) / Math.PI;
}

/** Samples without those that lie on the way between their neighbours (Douglas and Peucker 1973). */
function thinned<S extends { readonly frame: number }>(
  samples: readonly S[],
  error: (a: S, b: S, x: S) => number,
  most: number,
): S[] {
  const keep = new Set([0, samples.length - 1]);
  const open: [number, number][] = [[0, samples.length - 1]];
  for (let next = open.pop(); next; next = open.pop()) {
    const [a, b] = next;
    let worst = most;
    let at = -1;
    for (let i = a + 1; i < b; i++) {
      const off = error(samples[a]!, samples[b]!, samples[i]!);
      if (off > worst) [worst, at] = [off, i];
    }
    if (at < 0) continue;
    keep.add(at);
    open.push([a, at], [at, b]);
  }
  return [...keep].sort((x, y) => x - y).map((i) => samples[i]!);
}
