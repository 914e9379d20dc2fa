import { alignmentTurns } from '../body/alignment';
import { type Body, measureBody } from '../body/body';
import type { Party } from '../body/party';
import { chainOf, FINGERS, jointOf, SIDES } from '../bodymap/slots';
import { angleBetweenQuats, mulInvQuat, rotate3 } from '../math/quat';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import { tellsLength } from '../motion/tracks';
import { handsTogether } from './hands-together';
import { type Contacts, findContacts, isSole, type PlantPart, plantHeights, soleTracks } from './plants';

/** Most plants that a sketch keeps, and at which shares of each the legs are looked at; uneven, so that no rhythm hides between. */
const PLANTS = 12;
export const MOMENTS = [0, 0.21, 0.46, 0.73, 1] as const;
/** Numbers a moment: hip centre (3, above the ground), directions of hips across, thigh, shin, foot ahead, foot up (3 each). */
export const MOMENT_WIDTH = 18;

/**
 * What a motion asks of whoever performs it, small enough to keep with every item and free of its skeleton: the legs at a
 * few moments of its plants, what its hands keep to, which parts it moves. A fit score comes from this and a character's
 * lengths alone.
 */
export interface FitSketch {
  readonly leg: number;
  readonly arm: number;
  /** [plant][moment][MOMENT_WIDTH]; lengths in metres, directions unit, in the world. */
  readonly moments: Float32Array;
  /** Part and height above the ground (metres) of each plant in `moments`. */
  readonly plants: readonly { readonly part: PlantPart; readonly height: number }[];
  /** Mean distance of both hands where they hold one thing, metres; 0 where they never do. */
  readonly handsApart: number;
  /** Nearest that a hand comes to head and hips, in arms. */
  readonly handToHead: number;
  readonly handToHips: number;
  /** Parts that move, by name: fingers, toes, neck, collars, spine, arms, legs, face. */
  readonly moves: readonly string[];
}

/** Draws the sketch of a motion. */
export function sketchFit(party: Party, motion: Motion, known?: Contacts, body: Body = bodyOf(party)): FitSketch {
  const { rig, map } = party;
  const tracks = soleTracks(rig, motion, body);
  const contacts = known ?? findContacts(tracks, motion.fps, body.leg);
  const soles = contacts.plants.filter((p) => isSole(p.part));
  // evenly over the motion, the long ones first within each stretch
  const chosen = soles.length <= PLANTS ? soles : pickEvenly(soles, PLANTS);
  const aligned = alignmentTurns(rig, map, party.pose);
  const sides = SIDES.map((side) => ({
    side,
    thigh: jointOf(map, `thigh${side}`),
    shin: jointOf(map, `shin${side}`),
    foot: jointOf(map, `foot${side}`),
  }));
  const hips = Math.max(0, jointOf(map, 'hips'));
  const reader = new ChainReader(rig, motion, [
    hips,
    ...body.hipJoints,
    ...sides.map((s) => s.foot).filter((j) => j >= 0),
  ]);
  const moments = new Float32Array(chosen.length * MOMENTS.length * MOMENT_WIDTH);
  const direction = (dst: number, r: Float64Array, joint: number, axis: readonly number[]): void => {
    const q = [0, 0, 0, 1];
    mulInvQuat(q, 0, r, 4 * joint, aligned, 4 * joint);
    rotate3(moments, dst, q, 0, axis, 0);
  };
  chosen.forEach((plant, i) => {
    const leg = sides.find((s) => plant.part.endsWith(s.side))!;
    for (let m = 0; m < MOMENTS.length; m++) {
      const f = Math.round(plant.start + (plant.end - plant.start) * MOMENTS[m]!);
      const { r, p } = reader.at(f);
      const o = (i * MOMENTS.length + m) * MOMENT_WIDTH;
      for (let k = 0; k < 3; k++)
        moments[o + k] =
          body.hipJoints.reduce((s, j) => s + p[3 * j + k]!, 0) / body.hipJoints.length -
          (k === 1 ? contacts.floor : 0);
      direction(o + 3, r, hips, [1, 0, 0]);
      direction(o + 6, r, leg.thigh, [0, -1, 0]);
      direction(o + 9, r, leg.shin, [0, -1, 0]);
      direction(o + 12, r, leg.foot, [0, 0, 1]);
      direction(o + 15, r, leg.foot, [0, 1, 0]);
    }
  });
  return {
    leg: body.leg,
    arm: body.arm,
    moments,
    plants: chosen.map((p) => ({
      part: p.part,
      height: plantHeights(tracks, { plants: [p], floor: contacts.floor }, body.leg, 1)[0]!,
    })),
    ...handsOf(party, motion, body),
    moves: movingParts(party, motion),
  };
}

const bodyOf = (party: Party): Body => measureBody(party.rig, party.map, party.pose, party.floor);

function pickEvenly<T extends { start: number; end: number }>(list: readonly T[], count: number): T[] {
  return Array.from({ length: count }, (_, i) => {
    const part = list.slice(Math.floor((i * list.length) / count), Math.floor(((i + 1) * list.length) / count));
    return part.reduce((best, p) => (p.end - p.start > best.end - best.start ? p : best), part[0]!);
  });
}

function handsOf(
  party: Party,
  motion: Motion,
  body: Body,
): Pick<FitSketch, 'handsApart' | 'handToHead' | 'handToHips'> {
  const { map } = party;
  const [l, r, head, hips] = ['handL', 'handR', 'head', 'hips'].map((s) => jointOf(map, s)) as [
    number,
    number,
    number,
    number,
  ];
  const hands = [l, r].filter((j) => j >= 0);
  const arm = body.arm || 1;
  if (hands.length === 0) return { handsApart: 0, handToHead: 9, handToHips: 9 };
  const reader = new ChainReader(party.rig, motion, [...hands, ...[head, hips].filter((j) => j >= 0)]);
  const step = Math.max(1, Math.round(motion.fps / 15));
  let toHead = 9;
  let toHips = 9;
  const distance = (p: Float64Array, a: number, b: number): number =>
    Math.hypot(p[3 * a]! - p[3 * b]!, p[3 * a + 1]! - p[3 * b + 1]!, p[3 * a + 2]! - p[3 * b + 2]!);
  for (let f = 0; f < motion.frameCount; f += step) {
    const { p } = reader.at(f);
    for (const h of hands) {
      if (head >= 0) toHead = Math.min(toHead, distance(p, h, head) / arm);
      if (hips >= 0) toHips = Math.min(toHips, distance(p, h, hips) / arm);
    }
  }
  const together = handsTogether(party, motion, arm);
  let sum = 0;
  together.marks.forEach((x, f) => {
    if (x) sum += together.distance[f]!;
  });
  return { handsApart: together.count > 0 ? sum / together.count : 0, handToHead: toHead, handToHips: toHips };
}

/** Names of parts whose joints turn by more than about two degrees against their parents. */
export function movingParts(party: Party, motion: Motion): string[] {
  const { rig, map } = party;
  const n = rig.names.length;
  const step = Math.max(1, Math.floor(motion.frameCount / 60));
  const moves = (joints: readonly number[]): boolean =>
    joints.some((j) => {
      for (let f = step; j >= 0 && f < motion.frameCount; f += step)
        if (angleBetweenQuats(motion.turns, 4 * j, motion.turns, 4 * (f * n + j)) > 0.035) return true;
      return false;
    });
  const slots = (...stems: string[]): number[] => stems.flatMap((s) => SIDES.map((side) => jointOf(map, s + side)));
  const parts: [string, number[]][] = [
    ['spine', chainOf(map, 'spine')],
    ['neck', chainOf(map, 'neck')],
    ['head', [jointOf(map, 'head')]],
    ['collars', slots('collar')],
    ['arms', slots('upperArm', 'forearm')],
    ['hands', slots('hand')],
    ['fingers', FINGERS.flatMap((f) => [1, 2, 3].flatMap((k) => slots(`${f}${k}`)))],
    ['legs', slots('thigh', 'shin')],
    ['feet', slots('foot')],
    ['toes', slots('toes')],
  ];
  const out = parts.filter(([, joints]) => moves(joints)).map(([name]) => name);
  const face = motion.numbers.some((s) => {
    if (tellsLength(s.name)) return false;
    let low = Number.POSITIVE_INFINITY;
    let high = Number.NEGATIVE_INFINITY;
    for (const x of s.values) {
      low = Math.min(low, x);
      high = Math.max(high, x);
    }
    return high - low > 0.02;
  });
  return face ? [...out, 'face'] : out;
}

/** Lengths of a character that a fit score needs; worked out once for thousands of items. */
export interface FitProfile {
  readonly leg: number;
  readonly arm: number;
  readonly thigh: number;
  readonly shin: number;
  /** Half the distance of both hip joints. */
  readonly halfHips: number;
  /** From the ankle: heel and ball, as ahead and up parts. */
  readonly heel: readonly [number, number];
  readonly ball: readonly [number, number];
  readonly shoulders: number;
  readonly parts: ReadonlySet<string>;
}

/** Reads a character's profile. */
export function fitProfile(party: Party, body: Body = bodyOf(party)): FitProfile {
  const { rig, map } = party;
  const pose = party.pose;
  const length = (joint: number): number =>
    joint < 0 ? 0 : Math.hypot(rig.restT[3 * joint]!, rig.restT[3 * joint + 1]!, rig.restT[3 * joint + 2]!);
  const mean = (slot: string): number => {
    const all = SIDES.map((s) => length(jointOf(map, slot + s))).filter((x) => x > 0);
    return all.length > 0 ? all.reduce((a, b) => a + b, 0) / all.length : 0;
  };
  const has = (...stems: string[]): boolean => stems.some((s) => SIDES.some((side) => jointOf(map, s + side) >= 0));
  const parts = new Set<string>();
  const add = (name: string, there: boolean): void => {
    if (there) parts.add(name);
  };
  add('spine', chainOf(map, 'spine').length > 0);
  add('neck', chainOf(map, 'neck').length > 0);
  add('head', jointOf(map, 'head') >= 0);
  add('collars', has('collar'));
  add(
    'arms',
    SIDES.every((s) => jointOf(map, `forearm${s}`) >= 0),
  );
  add('hands', has('hand'));
  add('fingers', has('index1', 'middle1', 'thumb1'));
  add('legs', body.leg > 0);
  add('feet', has('foot'));
  add('toes', has('toes'));
  const aligned = alignmentTurns(rig, map, pose);
  const sole = body.soles.L ?? body.soles.R;
  const point = (v: Float64Array | undefined): [number, number] => {
    if (!sole || !v) return [0, 0];
    const w = [0, 0, 0];
    rotate3(w, 0, aligned, 4 * sole.foot, v, 0);
    return [w[2]!, w[1]!];
  };
  const between = (a: number, b: number): number => {
    if (a < 0 || b < 0) return 0;
    const p = new ChainReader(rig, restOf(rig), [a, b]).at(0).p;
    return Math.hypot(...[0, 1, 2].map((k) => p[3 * a + k]! - p[3 * b + k]!));
  };
  return {
    leg: body.leg,
    arm: body.arm,
    thigh: mean('shin'),
    shin: mean('foot'),
    halfHips: between(jointOf(map, 'thighL'), jointOf(map, 'thighR')) / 2,
    heel: point(sole?.heel),
    ball: point(sole?.ball),
    shoulders: between(jointOf(map, 'upperArmL'), jointOf(map, 'upperArmR')),
    parts,
  };
}

const restOf = (rig: Party['rig']): Motion => ({
  fps: 30,
  frameCount: 1,
  turns: rig.restR,
  places: [],
  numbers: [],
  scales: [],
  steps: [],
});
