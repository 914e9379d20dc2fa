import { FINGERS, jointOf, SIDES } from '../bodymap/slots';
import { angleBetweenQuats } from '../math/quat';
import type { Motion } from '../motion/motion';
import type { Party } from '../retarget/plan';
import { handsTogether } from '../retarget/report-hands';
import { type Body, measureBody } from '../rig/body';
import { restPose } from '../rig/rig';
import { findHolds, holdTracks } from './holds';
import { type Contacts, findContacts, isSole, type Plant, soleTracks } from './plants';
import { FEATURE_WIDTH, type PoseFeatures, poseFeatures } from './pose-features';

/** A word that describes a motion, how sure that is (0 to 1), and what in the motion says so. */
export interface Word {
  readonly word: string;
  readonly confidence: number;
  readonly why: string;
}

/** Something the body leans on or holds that is not in the file. Heights and sizes in metres of the source. */
export interface Prop {
  readonly kind: 'seat' | 'steps' | 'held thing';
  readonly height: number;
  /** Rise of a step, or distance of the hands on a held thing; 0 for a seat. */
  readonly size: number;
  readonly frame: number;
  readonly text: string;
}

const POINT = {
  hips: 0,
  chest: 1,
  head: 2,
  upperArmL: 3,
  forearmL: 4,
  handL: 5,
  shinL: 6,
  footL: 7,
  toesL: 8,
  upperArmR: 9,
  forearmR: 10,
  handR: 11,
  shinR: 12,
  footR: 13,
} as const;
type Point = keyof typeof POINT;

/** What words are read from: the motion as relations between body parts over time, at most 30 a second. */
interface Reading {
  readonly party: Party;
  readonly motion: Motion;
  readonly features: PoseFeatures;
  readonly frames: number;
  readonly fps: number;
  /** Height, side and lead of a point in legs: x left, y up, z ahead. */
  at(point: Point, frame: number, axis: 0 | 1 | 2): number;
  /** Speed over the ground, legs a second, and its parts along and across the heading. */
  readonly speed: Float32Array;
  readonly ahead: Float32Array;
  readonly across: Float32Array;
  /** Which feet stand: 1 left, 2 right. */
  readonly support: Uint8Array;
  readonly steps: number;
  readonly standing: number;
  readonly holds: readonly Plant[];
  readonly floors: readonly number[];
  readonly together: Uint8Array;
}

function read(party: Party, motion: Motion, contacts: Contacts, body: Body): Reading {
  const step = Math.max(1, Math.round(motion.fps / 30));
  const features = poseFeatures(party, motion, contacts.floor, step, body);
  const frames = features.frameCount;
  const w = Math.max(1, Math.round(features.fps * 0.2));
  const speed = new Float32Array(frames);
  const ahead = new Float32Array(frames);
  const across = new Float32Array(frames);
  for (let f = 0; f < frames; f++) {
    const a = Math.max(0, f - w);
    const b = Math.min(frames - 1, f + w);
    if (b === a) continue;
    const k = features.fps / (b - a) / features.leg;
    const x = (features.ground[2 * b]! - features.ground[2 * a]!) * k;
    const z = (features.ground[2 * b + 1]! - features.ground[2 * a + 1]!) * k;
    const h = features.heading[f]!;
    speed[f] = Math.hypot(x, z);
    ahead[f] = Math.sin(h) * x + Math.cos(h) * z;
    across[f] = Math.cos(h) * x - Math.sin(h) * z;
  }
  const support = new Uint8Array(frames);
  const whole = new Uint8Array(motion.frameCount);
  for (const p of contacts.plants)
    if (isSole(p.part)) for (let f = p.start; f <= p.end; f++) whole[f] = whole[f]! | (p.part.endsWith('L') ? 1 : 2);
  let steps = 0;
  for (let f = 1; f < motion.frameCount; f++)
    for (const bit of [1, 2]) if (whole[f]! & bit && !(whole[f - 1]! & bit)) steps++;
  for (let f = 0; f < frames; f++) support[f] = whole[f * step]!;
  const rest = party.pose ?? restPose(party.rig);
  const soles = soleTracks(party.rig, motion, body);
  const feet = [soles.heelL, soles.heelR].filter((t) => t !== undefined);
  const holds = findHolds(holdTracks(party, motion, body, rest), feet, motion.fps, body.leg, contacts.floor);
  const together = handsTogether(party, motion, body.arm || 1);
  return {
    party,
    motion,
    features,
    frames,
    fps: features.fps,
    at: (point, f, axis) => features.values[FEATURE_WIDTH * f + 3 * POINT[point] + axis]!,
    speed,
    ahead,
    across,
    support,
    steps,
    standing: body.leg > 0 ? body.anchorHeight / body.leg : 1,
    holds: holds.map((p) => ({ ...p, start: Math.floor(p.start / step), end: Math.floor(p.end / step) })),
    floors: stepFloors(contacts, soles, body.leg, motion.fps),
    together: Uint8Array.from({ length: frames }, (_, f) => together.marks[f * step]!),
  };
}

/** Heights on which the feet stand one after the other, legs above the lowest. */
function stepFloors(contacts: Contacts, soles: ReturnType<typeof soleTracks>, leg: number, fps: number): number[] {
  const out: { at: number; height: number }[] = [];
  for (const p of contacts.plants) {
    const track = isSole(p.part) ? soles[p.part] : undefined;
    if (!track || (p.end - p.start) / fps < 0.12) continue;
    let sum = 0;
    for (let f = p.start; f <= p.end; f++) sum += track[3 * f + 1]!;
    out.push({ at: p.start, height: (sum / (p.end - p.start + 1) - contacts.floor) / leg });
  }
  return out.sort((a, b) => a.at - b.at).map((x) => x.height);
}

const clamp01 = (x: number): number => Math.min(1, Math.max(0, x));
/** 0 at `from`, 1 at `to`. */
const ramp = (x: number, from: number, to: number): number => clamp01((x - from) / (to - from));

function share(r: Reading, test: (f: number) => boolean): number {
  let n = 0;
  for (let f = 0; f < r.frames; f++) if (test(f)) n++;
  return n / r.frames;
}

/** Longest run of frames that pass, in seconds, and where it begins. */
function longest(r: Reading, test: (f: number) => boolean): { seconds: number; start: number; end: number } {
  let best = { seconds: 0, start: 0, end: 0 };
  for (let f = 0; f < r.frames; f++) {
    if (!test(f)) continue;
    const start = f;
    while (f + 1 < r.frames && test(f + 1)) f++;
    if ((f - start + 1) / r.fps > best.seconds) best = { seconds: (f - start + 1) / r.fps, start, end: f };
  }
  return best;
}

const HAND = { L: 'handL', R: 'handR' } as const;
const kneeling = (r: Reading): boolean =>
  r.holds.some((p) => p.part.startsWith('knee') && (p.end - p.start) / r.fps > 0.25);

type Rule = (r: Reading) => { confidence: number; why: string };

const RULES: Readonly<Record<string, Rule>> = {
  walk: (r) => {
    const air = share(r, (f) => r.support[f] === 0 && r.speed[f]! > 0.3);
    const moving = share(r, (f) => r.speed[f]! > 0.3 && r.speed[f]! < 2.1 && Math.abs(r.ahead[f]!) > 0.8 * r.speed[f]!);
    const level = 1 - climbing(r).share;
    const seconds = moving * (r.frames / r.fps);
    return {
      confidence:
        r.steps >= 3 && !kneeling(r)
          ? ramp(seconds, 0.6, 1.4) * (1 - ramp(air, 0.12, 0.3)) * ramp(level, 0.1, 0.35)
          : 0,
      why: `${r.steps} steps with a foot always down`,
    };
  },
  run: (r) => {
    const moving = share(r, (f) => r.speed[f]! > 1.5);
    const air = share(r, (f) => r.support[f] === 0 && r.speed[f]! > 1.2);
    return {
      confidence: r.steps >= 3 ? ramp(moving, 0.25, 0.5) * ramp(air, 0.1, 0.25) : 0,
      why: 'fast, with both feet off the ground between steps',
    };
  },
  'walk backwards': (r) => {
    const back = share(r, (f) => r.ahead[f]! < -0.25);
    return { confidence: r.steps >= 2 ? ramp(back, 0.2, 0.4) : 0, why: 'it goes against where it faces' };
  },
  sidestep: (r) => {
    const aside = share(
      r,
      (f) => Math.abs(r.across[f]!) > 0.16 && Math.abs(r.across[f]!) > 1.5 * Math.abs(r.ahead[f]!),
    );
    return { confidence: r.steps >= 4 ? ramp(aside, 0.35, 0.6) : 0, why: 'it goes across where it faces' };
  },
  'turn left': (r) => turning(r, 1),
  'turn right': (r) => turning(r, -1),
  jump: (r) => {
    // both feet up at once, hips rising above where they stand, not in the middle of a run
    const air = longest(r, (f) => r.support[f] === 0);
    const before = Math.max(0, air.start - 1);
    let rise = 0;
    for (let f = air.start; f <= air.end; f++) rise = Math.max(rise, r.at('hips', f, 1) - r.at('hips', before, 1));
    const crouch = Array.from({ length: Math.min(before, Math.round(r.fps * 0.6)) }, (_, i) =>
      r.at('hips', before - i, 1),
    );
    const low = Math.min(...crouch, r.at('hips', before, 1));
    const flights = countRuns(r, (f) => r.support[f] === 0, 0.12);
    return {
      confidence:
        air.seconds > 0.2 && flights <= 2 && !kneeling(r)
          ? ramp(air.seconds, 0.2, 0.3) * ramp(rise, 0.05, 0.12) * ramp(r.standing - low, 0.04, 0.14)
          : 0,
      why: `both feet are off the ground for ${air.seconds.toFixed(2)} s`,
    };
  },
  squat: (r) => {
    const low = longest(
      r,
      (f) =>
        r.at('hips', f, 1) < 0.74 * r.standing &&
        r.support[f] !== 0 &&
        !r.holds.some((p) => p.start <= f && p.end >= f && p.part !== 'handL' && p.part !== 'handR'),
    );
    const sits = r.holds.some((p) => p.part === 'seat');
    const upright = share(r, (f) => r.at('hips', f, 1) > 0.85 * r.standing) > 0.15;
    return {
      confidence: sits || kneeling(r) || !upright ? 0 : ramp(low.seconds, 0.25, 0.6),
      why: 'the hips come down over bent knees',
    };
  },
  sit: (r) => {
    const seat = r.holds.find((p) => p.part === 'seat');
    return {
      confidence: seat ? ramp((seat.end - seat.start) / r.fps, 0.5, 0.9) : 0,
      why: 'the hips rest at a seat’s height behind the feet',
    };
  },
  'sit down': (r) => seatChange(r, -1),
  'stand up': (r) => seatChange(r, 1),
  kneel: (r) => {
    const knees = share(r, (f) => r.holds.some((p) => p.part.startsWith('knee') && p.start <= f && p.end >= f));
    return { confidence: crawling(r) > 0.5 ? 0 : ramp(knees, 0.15, 0.35), why: 'a knee rests on the ground' };
  },
  crawl: (r) => ({ confidence: crawling(r), why: 'hands and knees take turns on the ground' }),
  climb: (r) => {
    const { up, total } = climbing(r);
    return {
      confidence: ramp(up, 1.5, 3) * ramp(total, 0.12, 0.3),
      why: 'each foot stands higher than the one before',
    };
  },
  descend: (r) => {
    const { down, total } = climbing(r);
    return {
      confidence: ramp(down, 1.5, 3) * ramp(-total, 0.12, 0.3),
      why: 'each foot stands lower than the one before',
    };
  },
  'reach up': (r) => {
    const high = (side: 'L' | 'R') => longest(r, (f) => r.at(HAND[side], f, 1) > r.at('head', f, 1) + 0.08);
    const runs = (['L', 'R'] as const).map((s) => ({ ...high(s), waves: waving(r, s) }));
    const best = runs.filter((x) => x.waves < 0.5).sort((a, b) => b.seconds - a.seconds)[0];
    return {
      confidence: best && throwing(r) < 0.5 ? ramp(best.seconds, 0.2, 0.45) : 0,
      why: 'a hand is held above the head',
    };
  },
  wave: (r) => ({ confidence: Math.max(waving(r, 'L'), waving(r, 'R')), why: 'a raised hand swings to and fro' }),
  point: (r) => {
    const pointing = (side: 'L' | 'R'): number => {
      const run = longest(r, (f) => straightOut(r, side, f));
      return run.seconds > 0 && !together(r, run.start) ? ramp(run.seconds, 0.4, 0.8) * (1 - waving(r, side)) : 0;
    };
    return { confidence: r.steps > 2 ? 0 : Math.max(pointing('L'), pointing('R')), why: 'an arm is held out straight' };
  },
  'two hands': (r) => {
    const held = share(r, (f) => r.together[f] === 1);
    const near = share(
      r,
      (f) =>
        ['handL', 'handR'].every(
          (h) => r.at(h as Point, f, 2) > r.at('chest', f, 2) + 0.1 && r.at(h as Point, f, 1) > 0.75,
        ) && apart(r, f) < 0.5,
    );
    return {
      confidence: kneeling(r)
        ? 0
        : Math.max(ramp(held, 0.14, 0.3) * ramp(near, 0.1, 0.25), ramp(near, 0.45, 0.7) * handsBusy(r)),
      why: 'both hands work together before the body',
    };
  },
  lift: (r) => {
    // both hands low and together, then higher together
    let low = -1;
    let best = 0;
    for (let f = 0; f < r.frames; f++) {
      const y = Math.max(r.at('handL', f, 1), r.at('handR', f, 1));
      if (y < 0.55 && apart(r, f) < 0.75) low = f;
      if (low >= 0 && f > low && y > 0.85 && apart(r, f) < 0.75 && (f - low) / r.fps < 2.2)
        best = Math.max(
          best,
          share(r, (g) => g > f && apart(r, g) < 0.75 && r.at('handL', g, 2) > 0.15 && r.at('handR', g, 2) > 0.15),
        );
    }
    return { confidence: ramp(best, 0.12, 0.3), why: 'both hands come up together from below the knees' };
  },
  carry: (r) => {
    const held = share(
      r,
      (f) =>
        r.ahead[f]! > 0.25 &&
        r.support[f] !== 0 &&
        apart(r, f) < 0.75 &&
        ['handL', 'handR'].every((h) => r.at(h as Point, f, 2) > 0.2 && r.at(h as Point, f, 1) > 0.8),
    );
    return {
      confidence: r.steps >= 2 ? ramp(held, 0.15, 0.3) : 0,
      why: 'it walks with both hands held before the body',
    };
  },
  throw: (r) => ({
    confidence: throwing(r),
    why: 'a hand comes from behind the body far forward in a third of a second',
  }),
  idle: (r) => {
    const hands = Math.max(travelled(r, 'handL'), travelled(r, 'handR'));
    const low = Math.max(...(['handL', 'handR'] as const).map((h) => highest(r, h)));
    return {
      confidence: r.steps <= 1 && !r.holds.length && low < 1.05 && !movesFace(r) ? 1 - ramp(hands, 0.1, 0.2) : 0,
      why: 'it stands where it is and hardly moves',
    };
  },
  talk: (r) => ({ confidence: mouthMoves(r), why: 'the mouth opens and closes' }),
  fingers: (r) => ({ confidence: fingersAlone(r), why: 'fingers bend one by one' }),
};

const apart = (r: Reading, f: number): number =>
  Math.hypot(
    r.at('handL', f, 0) - r.at('handR', f, 0),
    r.at('handL', f, 1) - r.at('handR', f, 1),
    r.at('handL', f, 2) - r.at('handR', f, 2),
  );
const together = (r: Reading, f: number): boolean => r.together[f] === 1;

function countRuns(r: Reading, test: (f: number) => boolean, seconds: number): number {
  let n = 0;
  for (let f = 0; f < r.frames; f++) {
    if (!test(f)) continue;
    const start = f;
    while (f + 1 < r.frames && test(f + 1)) f++;
    if ((f - start + 1) / r.fps >= seconds) n++;
  }
  return n;
}

function turning(r: Reading, sign: 1 | -1): { confidence: number; why: string } {
  const h = r.features.heading;
  // the largest turn to that side that is not taken back at once: over two seconds
  const span = Math.min(r.frames - 1, Math.round(r.fps * 2));
  let most = 0;
  for (let f = 0; f + span < r.frames; f++) most = Math.max(most, sign * (h[f + span]! - h[f]!));
  const total = sign * (h[r.frames - 1]! - h[0]!);
  const degrees = (Math.max(0, Math.min(most * 1.5, total)) * 180) / Math.PI;
  return {
    confidence: r.steps >= 2 && !r.holds.some((p) => p.part === 'seat') ? ramp(degrees, 35, 60) : 0,
    why: `it comes round by ${degrees.toFixed(0)}°`,
  };
}

function seatChange(r: Reading, way: 1 | -1): { confidence: number; why: string } {
  const seat = r.holds.find((p) => p.part === 'seat');
  if (!seat) return { confidence: 0, why: '' };
  const other =
    way < 0
      ? Math.max(0, seat.start - Math.round(r.fps * 3))
      : Math.min(r.frames - 1, seat.end + Math.round(r.fps * 3));
  const stood = way < 0 ? range(r, other, seat.start) : range(r, seat.end, other);
  return {
    confidence: ramp(stood / r.standing, 0.8, 0.95),
    why: way < 0 ? 'it stands, then rests on a seat' : 'it rests on a seat, then stands',
  };
}

function range(r: Reading, from: number, to: number): number {
  let high = 0;
  for (let f = from; f <= to; f++) high = Math.max(high, r.at('hips', f, 1));
  return high;
}

function crawling(r: Reading): number {
  const knees = share(r, (f) => r.holds.some((p) => p.part.startsWith('knee') && p.start <= f && p.end >= f));
  const hands = share(r, (f) => r.holds.some((p) => p.part.startsWith('hand') && p.start <= f && p.end >= f));
  const moves = share(r, (f) => r.speed[f]! > 0.12);
  return ramp(knees, 0.3, 0.6) * ramp(hands, 0.3, 0.6) * ramp(moves, 0.3, 0.6);
}

function climbing(r: Reading): { up: number; down: number; total: number; share: number } {
  let up = 0;
  let down = 0;
  let last = r.floors[0] ?? 0;
  for (const y of r.floors) {
    if (y - last > 0.08) up++;
    if (y - last < -0.08) down++;
    if (Math.abs(y - last) > 0.08) last = y;
  }
  const total = (r.floors.at(-1) ?? 0) - (r.floors[0] ?? 0);
  // a gangway is walked up; a stair is climbed without a level stretch worth the name
  const level =
    r.floors.length > 0 ? r.floors.filter((y) => Math.abs(y - (r.floors[0] ?? 0)) < 0.08).length / r.floors.length : 1;
  const steep = Math.abs(total) / Math.max(0.05, way(r));
  return { up, down, total, share: up + down >= 3 ? (1 - level) * ramp(steep, 0.38, 0.55) : 0 };
}

/** Way over the ground, legs. */
function way(r: Reading): number {
  const g = r.features.ground;
  return Math.hypot(g[2 * r.frames - 2]! - g[0]!, g[2 * r.frames - 1]! - g[1]!) / r.features.leg;
}

function waving(r: Reading, side: 'L' | 'R'): number {
  const hand = HAND[side];
  const raised = longest(r, (f) => r.at(hand, f, 1) > r.at('chest', f, 1) + 0.25);
  if (raised.seconds < 0.6) return 0;
  // turns of direction across the body that go far enough
  let turns = 0;
  let last = r.at(hand, raised.start, 0);
  let sign = 0;
  for (let f = raised.start; f <= raised.end; f++) {
    const x = r.at(hand, f, 0);
    if (sign >= 0 && x < last - 0.06) {
      if (sign > 0) turns++;
      sign = -1;
      last = x;
    } else if (sign <= 0 && x > last + 0.06) {
      if (sign < 0) turns++;
      sign = 1;
      last = x;
    } else if (sign > 0) last = Math.max(last, x);
    else if (sign < 0) last = Math.min(last, x);
  }
  return ramp(turns, 2, 4) * ramp(turns / raised.seconds, 0.6, 1.3);
}

function straightOut(r: Reading, side: 'L' | 'R', f: number): boolean {
  const shoulder: Point = side === 'L' ? 'upperArmL' : 'upperArmR';
  const elbow: Point = side === 'L' ? 'forearmL' : 'forearmR';
  const d = ([0, 1, 2] as const).map((k) => r.at(HAND[side], f, k) - r.at(shoulder, f, k));
  const a = ([0, 1, 2] as const).map((k) => r.at(elbow, f, k) - r.at(shoulder, f, k));
  const b = ([0, 1, 2] as const).map((k) => r.at(HAND[side], f, k) - r.at(elbow, f, k));
  const out = Math.hypot(...d);
  const full = Math.hypot(...a) + Math.hypot(...b);
  return full > 0.1 && out > 0.9 * full && Math.abs(d[1]!) < 0.35 * out;
}

function throwing(r: Reading): number {
  const span = Math.round(r.fps * 0.36);
  let best = 0;
  for (const side of SIDES) {
    for (let f = span; f < r.frames; f++) {
      const g = f - span;
      const up = r.at(HAND[side], f, 1) - r.at(HAND[side], g, 1);
      if (r.at(HAND[side], g, 2) < -0.05 && up > 0.15)
        best = Math.max(best, Math.hypot(up, Math.max(0, r.at(HAND[side], f, 2) - r.at(HAND[side], g, 2))));
    }
  }
  return r.steps <= 4 && share(r, (f) => r.support[f] === 0) < 0.08 ? ramp(best, 0.55, 0.8) : 0;
}

function travelled(r: Reading, point: Point): number {
  let low = [9, 9, 9];
  let high = [-9, -9, -9];
  for (let f = 0; f < r.frames; f++) {
    low = low.map((x, k) => Math.min(x, r.at(point, f, k as 0)));
    high = high.map((x, k) => Math.max(x, r.at(point, f, k as 0)));
  }
  return Math.hypot(...high.map((x, k) => x - low[k]!));
}

const highest = (r: Reading, point: Point): number => {
  let y = 0;
  for (let f = 0; f < r.frames; f++) y = Math.max(y, r.at(point, f, 1));
  return y;
};

/** Both hands move to and fro, 0 to 1. */
const handsBusy = (r: Reading): number =>
  Math.min(ramp(travelled(r, 'handL'), 0.06, 0.13), ramp(travelled(r, 'handR'), 0.06, 0.13));

const MOUTH = /mouth|jaw|lip|viseme|speak|talk/i;
function mouthMoves(r: Reading): number {
  for (const s of r.motion.scalars) {
    if (!MOUTH.test(s.name)) continue;
    let turns = 0;
    let last = s.values[0]!;
    let sign = 0;
    for (const x of s.values) {
      if (sign >= 0 && x < last - 0.12) {
        if (sign > 0) turns++;
        sign = -1;
        last = x;
      } else if (sign <= 0 && x > last + 0.12) {
        if (sign < 0) turns++;
        sign = 1;
        last = x;
      } else if (sign > 0) last = Math.max(last, x);
      else if (sign < 0) last = Math.min(last, x);
    }
    if (turns > 4) return ramp(turns / (r.motion.frameCount / r.motion.fps), 0.6, 1.5);
  }
  return 0;
}
const movesFace = (r: Reading): boolean =>
  r.motion.scalars.some(
    (s) => s.values.reduce((m, x) => Math.max(m, x), -9) - s.values.reduce((m, x) => Math.min(m, x), 9) > 0.1,
  );

/** Fingers of one hand that bend at different times, 0 to 1. */
function fingersAlone(r: Reading): number {
  const n = r.party.rig.names.length;
  const m = r.motion;
  let best = 0;
  for (const side of SIDES) {
    const joints = FINGERS.map((f) => jointOf(r.party.map, `${f}1${side}`)).filter((j) => j >= 0);
    if (joints.length < 3) continue;
    const bends = joints.map((j) =>
      Float64Array.from({ length: r.frames }, (_, f) => {
        const g = Math.min(m.frameCount - 1, Math.round((f * m.frameCount) / r.frames));
        return angleBetweenQuats(m.rotations, 4 * j, m.rotations, 4 * (g * n + j));
      }),
    );
    let different = 0;
    for (let i = 0; i < bends.length; i++) {
      for (let k = i + 1; k < bends.length; k++) {
        let off = 0;
        for (let f = 0; f < r.frames; f++) off = Math.max(off, Math.abs(bends[i]![f]! - bends[k]![f]!));
        if (off > 0.6) different++;
      }
    }
    best = Math.max(best, ramp(different, bends.length * 0.75, bends.length * 1.25));
  }
  return best;
}

/** Words from which confidence on a word is suggested. */
export const SUGGEST_FROM = 0.5;

/**
 * Suggests words for a motion from relations between body parts over time, whatever the performer's size.
 * After Müller, Röder, Clausen, Efficient content-based retrieval of motion capture data, 2005.
 * @returns words above SUGGEST_FROM, surest first, and props the motion seems to use
 */
export function suggestWords(
  party: Party,
  motion: Motion,
  known?: Contacts,
  body: Body = measureBody(party.rig, party.map, party.pose, party.floor),
): { words: Word[]; props: Prop[] } {
  if (motion.frameCount < 3) return { words: [], props: [] };
  const contacts = known ?? findContacts(soleTracks(party.rig, motion, body), motion.fps, body.leg);
  const reading = read(party, motion, contacts, body);
  const words = Object.entries(RULES)
    .map(([word, rule]) => ({ word, ...rule(reading) }))
    .filter((w) => w.confidence >= SUGGEST_FROM)
    .sort((a, b) => b.confidence - a.confidence || (a.word < b.word ? -1 : 1));
  return { words, props: findProps(reading, body, words) };
}

function findProps(r: Reading, body: Body, words: readonly Word[]): Prop[] {
  const out: Prop[] = [];
  const step = Math.max(1, Math.round(r.motion.fps / 30));
  const seat = r.holds.find((p) => p.part === 'seat');
  if (seat) {
    let sum = 0;
    for (let f = seat.start; f <= seat.end; f++) sum += (r.at('hips', f, 1) * body.leg) / (seat.end - seat.start + 1);
    const height = Math.max(0.05, sum - 0.1 * body.leg);
    out.push({
      kind: 'seat',
      height,
      size: 0,
      frame: seat.start * step,
      text: `sits on something ${height.toFixed(2)} m high that the file does not hold`,
    });
  }
  const { up, down, total } = climbing(r);
  if (up + down >= 2 && Math.abs(total) > 0.15) {
    const rises = r.floors
      .slice(1)
      .flatMap((y, i) => (Math.abs(y - r.floors[i]!) > 0.08 ? [Math.abs(y - r.floors[i]!)] : []));
    const rise = (rises.sort((a, b) => a - b)[rises.length >> 1] ?? 0) * body.leg;
    out.push({
      kind: 'steps',
      height: Math.abs(total) * body.leg,
      size: rise,
      frame: 0,
      text: `stands on steps or a slope that the file does not hold, ${(Math.abs(total) * body.leg).toFixed(2)} m in all`,
    });
  }
  if (words.some((w) => w.word === 'carry' || w.word === 'lift')) {
    const f = r.together.indexOf(1);
    const at = f >= 0 ? f : Math.floor(r.frames / 2);
    out.push({
      kind: 'held thing',
      height: ((r.at('handL', at, 1) + r.at('handR', at, 1)) / 2) * body.leg,
      size: apart(r, at) * body.leg,
      frame: at * step,
      text: `both hands hold something ${(apart(r, at) * body.leg).toFixed(2)} m wide that the file does not hold`,
    });
  }
  return out;
}
