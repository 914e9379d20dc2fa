import type { Plant } from '../analysis/plants';
import { alignmentTurns } from '../body/alignment';
import type { Party } from '../body/party';
import { headingOf, yawQuat } from '../body/root-frame';
import { freeTravel } from '../join/free-travel';
import { lapOf, layLaps } from '../join/loop-close';
import { turnBetween } from '../join/meet';
import { BALL, HEEL, type Stands, standsOf } from '../join/steps';
import { mulQuat } from '../math/quat';
import { blendPoses, newLocalPose, PoseSampler, writePose } from '../motion/local-pose';
import { type Motion, PoseReader } from '../motion/motion';
import { pickFrames } from '../motion/timing';
import { type Between, betweenFrames, mixScale, restNumber, sampleValues, scalesIn } from '../motion/tracks';
import { ownPlan } from '../retarget/plan';
import { travelJoint } from '../tune/common';
import { keepFeet } from '../tune/feet';

/** A lap's even course over the ground: it faces +Z on average when it starts, turns evenly and goes at an even velocity. */
interface EvenCourse {
  /** Radians, by which the lap has to be turned to begin facing +Z. */
  readonly base: number;
  /** Radians a lap. */
  readonly turn: number;
  /** Metres a lap, in the frame that turns with it. */
  readonly velocity: readonly [x: number, z: number];
  readonly from: readonly [x: number, z: number];
}

/** Where an even course is after a share of its lap. */
function along(turn: number, [x, z]: readonly [number, number], share: number): [number, number] {
  // the integral of a turning velocity
  const a = turn * share;
  const s = Math.abs(a) < 1e-6 ? share : Math.sin(a) / turn;
  const c = Math.abs(a) < 1e-6 ? 0 : (1 - Math.cos(a)) / turn;
  return [s * x + c * z, s * z - c * x];
}

const turned = (angle: number, x: number, z: number): [number, number] => [
  Math.cos(angle) * x + Math.sin(angle) * z,
  Math.cos(angle) * z - Math.sin(angle) * x,
];

function courseOf(party: Party, motion: Motion): EvenCourse {
  const joint = travelJoint(party);
  const facing = alignmentTurns(party.rig, party.map, party.pose);
  const reader = new PoseReader(party.rig, motion);
  const last = motion.frameCount - 1;
  const headings = new Float64Array(motion.frameCount);
  const places: [number, number][] = [];
  for (let f = 0; f <= last; f++) {
    const { r, p } = reader.at(f);
    headings[f] = headingOf(r, 4 * joint, facing, 4 * joint, f > 0 ? headings[f - 1]! : 0);
    places.push([p[3 * joint]!, p[3 * joint + 2]!]);
  }
  const turn = turnBetween(0, headings[last]! - headings[0]!);
  let base = 0;
  for (let f = 0; f < last; f++) base += (headings[f]! - (turn * f) / last) / last;
  const way = turned(-base, places[last]![0] - places[0]![0], places[last]![1] - places[0]![1]);
  // the velocity whose integral over a lap is the lap's way
  const [sx, sz] = along(turn, [1, 0], 1);
  const scale = sx * sx + sz * sz;
  const velocity: [number, number] = [(sx * way[0] + sz * way[1]) / scale, (sx * way[1] - sz * way[0]) / scale];
  return { base, turn, velocity, from: places[0]! };
}

/** A lap as strides: shares of it at which the left foot comes down, and how far into each stride the right one does. */
interface Strides {
  readonly stands: Stands;
  readonly left: readonly number[];
  readonly right: readonly number[];
}

/** A touch of the ground shorter than this is none, seconds. */
const BRIEF_S = 0.04;

/** Strides of a closed lap; undefined where the feet do not come down in turn. */
function stridesOf(party: Party, motion: Motion): Strides | undefined {
  const stands = standsOf(ownPlan(party), motion);
  const { held } = stands;
  const last = motion.frameCount - 1;
  const brief = Math.max(1, Math.round(BRIEF_S * motion.fps));
  const strikes = (bits: Uint8Array): number[] => {
    const stands = (f: number): boolean => bits[((f % last) + last) % last]! > 0;
    const out: number[] = [];
    for (let f = 0; f < last; f++) {
      let down = true;
      for (let d = 0; d < brief; d++) if (!stands(f + d) || stands(f - 1 - d)) down = false;
      if (down) out.push(f / last);
    }
    return out;
  };
  const [left, r] = [strikes(held.L), strikes(held.R)];
  if (left.length === 0 || left.length !== r.length) return undefined;
  const right = left.map((l, i) => {
    const length = wrap((left[(i + 1) % left.length]! - l + 1) % 1) || 1;
    const inside = r.filter((x) => wrap(x - l) < length);
    return inside.length === 1 ? wrap(inside[0]! - l) / length : Number.NaN;
  });
  return right.every((x) => x > 0 && x < 1) ? { stands, left, right } : undefined;
}

const wrap = (x: number): number => x - Math.floor(x);

const mean = (of: readonly number[]): number => of.reduce((a, b) => a + b, 0) / of.length;

/** Where a lap is at a time told in strides, its left foot coming down at whole ones: the steps of both feet fall together. */
function reading({ left, right }: Strides, half: number): (strides: number) => number {
  const n = left.length;
  return (strides) => {
    const i = ((Math.floor(strides) % n) + n) % n;
    const p = wrap(strides);
    const length = wrap(left[(i + 1) % n]! - left[i]!) || 1;
    const own = right[i]!;
    const into = p < half ? (p / half) * own : own + ((p - half) / (1 - half)) * (1 - own);
    return wrap(left[i]! + into * length);
  };
}

/** Stands of one point of a foot in strides: from where to where in the time of strides, by the stride they begin in. */
function spansOf({ stands, left, right }: Strides, side: 'L' | 'R', bit: number, half: number): [number, number][] {
  const bits = stands.held[side];
  const last = bits.length - 1;
  const at = (f: number): number => {
    const share = wrap(f / last);
    const round = Math.floor(f / last);
    const n = left.length;
    const i = left.findIndex((l, k) => wrap(share - l) < (wrap(left[(k + 1) % n]! - l) || 1));
    const length = wrap(left[(i + 1) % n]! - left[i]!) || 1;
    const into = wrap(share - left[i]!) / length;
    const own = right[i]!;
    const p = into < own ? (into / own) * half : half + ((into - own) / (1 - own)) * (1 - half);
    // a share before the first strike belongs to the last stride of the round before
    return (share < left[0]! ? round - 1 : round) * n + (share < left[0]! ? n - 1 : i) + p;
  };
  const stood = (f: number): boolean => (bits[((f % last) + last) % last]! & bit) > 0;
  const out: [number, number][] = [];
  for (let f = 0; f < last; f++) {
    if (!stood(f) || stood(f - 1)) continue;
    let end = f;
    while (stood(end + 1) && end - f < last) end++;
    out.push([at(f), at(end)]);
  }
  return out.sort((a, b) => a[0] - b[0]);
}

/** What stands when in three laps of a mix: stands of both, stride by stride, begin and end between one and the other. */
function plantsBetween(
  both: readonly [Strides, Strides],
  half: number,
  weight: number,
  total: number,
  lap: number,
): Plant[] {
  const out: Plant[] = [];
  for (const side of ['L', 'R'] as const)
    for (const [bit, part] of [
      [HEEL, `heel${side}`],
      [BALL, `ball${side}`],
    ] as const) {
      const spans = both.map((s) => spansOf(s, side, bit, half));
      /** The stand of stride k that begins nearest to the foot's own strike. */
      const inStride = (i: number, k: number): [number, number] | undefined => {
        const n = both[i]!.left.length;
        const middle = k + (side === 'L' ? 0 : half);
        let best: [number, number] | undefined;
        for (const [a, b] of spans[i]!) {
          const by = n * Math.round((middle - a) / n);
          const moved: [number, number] = [a + by, b + by];
          if (Math.abs(moved[0] - middle) < 0.5 && (!best || Math.abs(moved[0] - middle) < Math.abs(best[0] - middle)))
            best = moved;
        }
        return best;
      };
      for (let k = -1; k <= 3 * total; k++) {
        const [a, b] = [inStride(0, k), inStride(1, k)];
        const span = a && b ? ([0, 1] as const).map((e) => (1 - weight) * a[e] + weight * b[e]) : weight < 0.5 ? a : b;
        if (!span) continue;
        const start = Math.max(0, Math.round((span[0]! / total) * lap));
        const end = Math.min(3 * lap, Math.round((span[1]! / total) * lap));
        if (end > start) out.push({ part, start, end });
      }
    }
  return out.sort((x, y) => x.start - y.start);
}

/** A mix goes through so many strides at most before it comes round; beyond that both laps are taken for one. */
const MOST_STRIDES = 12;
const common = (a: number, b: number): number => {
  let [x, y] = [a, b];
  while (y > 0) [x, y] = [y, x % y];
  return (a * b) / x;
};

/**
 * What is no turn and no place of either: numbers and sizes lie between, of drawings, views and orders the nearer one's show.
 * @param at frames of either motion that a frame is mixed of
 */
function tracksBetween(
  both: readonly [Motion, Motion],
  at: (i: number, frame: number) => number,
  frames: number,
  weight: number,
): Pick<Motion, 'numbers' | 'scales' | 'steps'> {
  const times = both.map((m, i) => Array.from({ length: frames }, (_, f) => betweenFrames(at(i, f), m.frameCount)));
  const near = weight < 0.5 ? 0 : 1;
  const one = new Float64Array(3);
  const sampled = (i: number, values: Float32Array, width: number, between: Between): Float64Array => {
    const out = new Float64Array(width * frames);
    times[i]!.forEach((t, f) => {
      sampleValues(one, 0, values, width, between, t);
      out.set(one.subarray(0, width), width * f);
    });
    return out;
  };
  const names = new Set(both.flatMap((m) => m.numbers.map((t) => t.name)));
  const joints = new Set(both.flatMap((m) => m.scales.map((t) => t.joint)));
  return {
    numbers: [...names].map((name) => {
      const [a, b] = both.map(({ numbers, frameCount }, i) => {
        const own = numbers.find((t) => t.name === name);
        return sampled(i, own?.values ?? new Float32Array(frameCount).fill(restNumber(name)), 1, 'line');
      });
      return { name, values: Float32Array.from(a!, (x, f) => (1 - weight) * x + weight * b![f]!) };
    }),
    scales: [...joints].map((joint) => {
      const [a, b] = both.map((m, i) => sampled(i, scalesIn(m, joint), 3, 'hold'));
      return { joint, between: 'hold', values: Float32Array.from(a!, (x, i) => mixScale(x, b![i]!, weight)) };
    }),
    steps: both[near]!.steps.map((track) => ({
      ...track,
      values: Uint16Array.from(times[near]!, ({ a }) => track.values[a]!),
    })),
  };
}

/**
 * A cycle between two cycles: their steps fall together, poses are mixed, velocity, turn and length of the lap lie between, and
 * feet that stand stay on their spots. Laps are laid on one another stride by stride, by the strikes of both feet; by their
 * beginnings where feet do not come down in turn. Time warping by footplants after Park, Shin, Kim, Shin 2004 (On-line motion
 * blending for real-time locomotion generation).
 * @param a a closed cycle of the party's rig @param b another one at the same rate @param weight 0 for a, 1 for b
 */
export function mixCycles(given: Party, a: Motion, b: Motion, weight: number): Motion {
  if (weight <= 0) return a;
  if (weight >= 1) return b;
  const { party, off, on } = freeTravel(given);
  const { rig } = party;
  const root = travelJoint(party);
  const both = [off(a), off(b)] as const;
  const courses = both.map((m) => courseOf(party, m));
  const [sa, sb] = both.map((m) => stridesOf(party, m));
  const count = sa && sb ? common(sa.left.length, sb.left.length) : 1;
  const strides = sa && sb && count <= MOST_STRIDES ? ([sa, sb] as const) : undefined;
  const half = strides ? (1 - weight) * mean(strides[0].right) + weight * mean(strides[1].right) : 0.5;
  const total = strides ? count : 1;
  /** How often each lap is gone through in the mix's own. */
  const rounds = strides ? strides.map((s) => total / s.left.length) : [1, 1];
  const read = strides ? strides.map((s) => reading(s, half)) : [wrap, wrap];
  const laps = both.map((m) => m.frameCount - 1);
  const between = (of: (i: number) => number): number => (1 - weight) * of(0) + weight * of(1);
  const frames = Math.max(4, Math.round(between((i) => laps[i]! * rounds[i]!))) + 1;
  const turn = between((i) => courses[i]!.turn * rounds[i]!);
  const velocity: [number, number] = [
    between((i) => courses[i]!.velocity[0] * rounds[i]!),
    between((i) => courses[i]!.velocity[1] * rounds[i]!),
  ];
  const samplers = both.map((m) => new PoseSampler(rig, m));
  const poses = both.map(() => newLocalPose(rig));
  const mixed: Motion = {
    fps: a.fps,
    frameCount: frames,
    turns: new Float32Array(4 * rig.names.length * frames),
    places: [...new Set(both.flatMap((m) => m.places.map((t) => t.joint)))].map((joint) => ({
      joint,
      values: new Float32Array(3 * frames),
    })),
    ...tracksBetween(both, (i, f) => read[i]!((f / (frames - 1)) * total) * laps[i]!, frames, weight),
  };
  const out = newLocalPose(rig);
  for (let f = 0; f < frames; f++) {
    const phase = f / (frames - 1);
    poses.forEach((pose, i) => {
      const share = read[i]!(phase * total);
      samplers[i]!.read(pose, (share * laps[i]!) / both[i]!.fps);
      // what is left of the body's place and facing when the even course is taken out
      const { base, turn: own, velocity: ownVelocity, from } = courses[i]!;
      const [cx, cz] = along(own, ownVelocity, share);
      const [x, z] = turned(-base, pose.places[3 * root]! - from[0], pose.places[3 * root + 2]! - from[1]);
      const [lx, lz] = turned(-own * share, x - cx, z - cz);
      pose.places[3 * root] = lx;
      pose.places[3 * root + 2] = lz;
      mulQuat(pose.turns, 4 * root, yawQuat(-base - own * share), 0, pose.turns, 4 * root);
    });
    blendPoses(out, poses[0]!, poses[1]!, weight);
    const [cx, cz] = along(turn, velocity, phase);
    const [x, z] = turned(turn * phase, out.places[3 * root]!, out.places[3 * root + 2]!);
    out.places[3 * root] = x + cx;
    out.places[3 * root + 2] = z + cz;
    mulQuat(out.turns, 4 * root, yawQuat(turn * phase), 0, out.turns, 4 * root);
    writePose(mixed, f, out);
  }
  // feet are led over three laps, and the middle one is kept: they stand across the seam, too
  const last = frames - 1;
  const three = layLaps(party, mixed, lapOf(party, mixed, 0, turn), 3);
  const told = strides && {
    plants: plantsBetween(strides, half, weight, total, last),
    floor: between((i) => strides[i]!.stands.floor),
  };
  const held = keepFeet(party, three, three, undefined, told);
  return on(
    pickFrames(
      rig,
      held,
      Float64Array.from({ length: frames }, (_, i) => last + i),
    ),
  );
}
