import { FINGERS, jointOf, SIDES } from '../bodymap/slots';
import { angleBetweenQuats } from '../math/quat';
import { tellsLength } from '../motion/tracks';
import { longest, type Point, type Reading, ramp, share } from './words-reading';

export const HAND = { L: 'handL', R: 'handR' } as const;
/** Whether a knee rests on the ground for a quarter of a second or more. */
export const kneeling = (r: Reading): boolean =>
  r.holds.some((p) => p.part.startsWith('knee') && (p.end - p.start) / r.fps > 0.25);

/** Distance of both hands in a frame, legs. */
export const apart = (r: Reading, f: number): number =>
  Math.hypot(
    r.at('handL', f, 0) - r.at('handR', f, 0),
    r.at('handL', f, 1) - r.at('handR', f, 1),
    r.at('handL', f, 2) - r.at('handR', f, 2),
  );
/** Whether both hands hold one thing in a frame. */
export const together = (r: Reading, f: number): boolean => r.together[f] === 1;

/**
 * The best jump there is: both feet leave the ground and come back to it at about one time, out of bent legs, and the hips rise
 * above where they were. A run's flights go from one foot to the other.
 */
export function jumping(r: Reading): { seconds: number; confidence: number } {
  let best = { seconds: 0, confidence: 0 };
  const near = Math.round(r.fps * 0.2);
  const flights: { start: number; end: number }[] = [];
  for (let f = 0; f < r.frames; f++) {
    if (r.support[f] !== 0) continue;
    const start = f;
    while (f + 1 < r.frames && r.support[f + 1] === 0) f++;
    flights.push({ start, end: f });
  }
  const long = flights.filter((x) => (x.end - x.start + 1) / r.fps >= 0.12).length;
  const both = (from: number, to: number): boolean => {
    let feet = 0;
    for (let g = Math.max(0, from); g <= Math.min(r.frames - 1, to); g++) feet |= r.support[g]!;
    return feet === 3;
  };
  for (const { start, end } of flights) {
    const seconds = (end - start + 1) / r.fps;
    if (seconds <= 0.2 || (long > 2 && !(both(start - near, start - 1) && both(end + 1, end + near)))) continue;
    const before = Math.max(0, start - 1);
    let rise = 0;
    for (let f = start; f <= end; f++) rise = Math.max(rise, r.at('hips', f, 1) - r.at('hips', before, 1));
    let low = r.at('hips', before, 1);
    for (let i = 0; i < Math.min(before, Math.round(r.fps * 0.6)); i++)
      low = Math.min(low, r.at('hips', before - i, 1));
    // out of bent legs, or higher than any run goes
    const sprung = Math.max(ramp(r.standing - low, 0.04, 0.14), ramp(rise, 0.15, 0.3));
    const confidence = ramp(seconds, 0.2, 0.3) * ramp(rise, 0.05, 0.12) * sprung;
    if (confidence > best.confidence || best.seconds === 0) best = { seconds, confidence };
  }
  return best;
}

/** Longest way over the ground in one stretch that passes, pauses of a quarter of a second aside, legs. */
export function longestWay(r: Reading, test: (f: number) => boolean): number {
  const pause = Math.round(r.fps * 0.25);
  const g = r.features.ground;
  let most = 0;
  for (let f = 0; f < r.frames; f++) {
    if (!test(f)) continue;
    const start = f;
    let end = f;
    for (let k = f; k < r.frames && k - end <= pause; k++) if (test(k)) end = k;
    most = Math.max(
      most,
      Math.hypot(g[2 * end]! - g[2 * start]!, g[2 * end + 1]! - g[2 * start + 1]!) / r.features.leg,
    );
    f = end;
  }
  return most;
}

/** Whether the hips rest on the ground for a while, below a trunk that is upright. */
export function onGround(r: Reading): number {
  const low = longest(
    r,
    (f) => r.at('hips', f, 1) < 0.28 * r.standing && r.at('chest', f, 1) > r.at('hips', f, 1) + 0.2,
  );
  return ramp(low.seconds, 0.5, 1);
}

/** Whether the whole body goes up and stays there: rungs, a wall, whatever carries it is not in the file. */
export function scaling(r: Reading): number {
  const up = longest(r, (f) => r.at('hips', f, 1) > 1.35 * r.standing);
  const hands = longest(r, (f) => Math.max(r.at('handL', f, 1), r.at('handR', f, 1)) > 1.6 * r.standing);
  // from below: who comes down a stair began up there
  let from = false;
  for (let f = 0; f < up.start; f++) if (r.at('hips', f, 1) < 1.15 * r.standing) from = true;
  return (from ? 1 : 0) * ramp(up.seconds, 0.8, 1.6) * ramp(hands.seconds, 0.3, 0.8);
}

/** How surely the body turns to a side while it goes. @param sign 1 to the left, −1 to the right */
export function turning(r: Reading, sign: 1 | -1): { confidence: number; why: string } {
  const h = r.features.heading;
  // the largest turn to that side that is not taken back at once: over two seconds
  const span = Math.min(r.frames - 1, Math.round(r.fps * 2));
  let most = 0;
  for (let f = 0; f + span < r.frames; f++) most = Math.max(most, sign * (h[f + span]! - h[f]!));
  const total = sign * (h[r.frames - 1]! - h[0]!);
  // in a long take a turn about counts, too, though another one follows
  const whole = r.frames / r.fps > LONG_S ? keptTurn(r, sign) : 0;
  const degrees = (Math.max(0, Math.min(most * 1.5, total), whole > ABOUT ? whole : 0) * 180) / Math.PI;
  return {
    confidence: r.steps >= 2 && !r.holds.some((p) => p.part === 'seat') ? ramp(degrees, 35, 60) : 0,
    why: `it comes round by ${degrees.toFixed(0)}°`,
  };
}

const LONG_S = 8;
const ABOUT = (110 * Math.PI) / 180;

/** The largest turn to a side within three seconds that is kept for the two that follow, radians. */
function keptTurn(r: Reading, sign: 1 | -1): number {
  const h = r.features.heading;
  const [span, keep] = [Math.round(r.fps * 3), Math.round(r.fps * 2)];
  let most = 0;
  for (let f = 0; f + span + keep < r.frames; f++) {
    let kept = Number.POSITIVE_INFINITY;
    for (let g = f + span; g <= f + span + keep; g++) kept = Math.min(kept, sign * (h[g]! - h[f]!));
    most = Math.max(most, kept);
  }
  return most;
}

/** How surely somebody sits down or stands up. @param way −1 down, 1 up */
export function seatChange(r: Reading, way: 1 | -1): { confidence: number; why: string } {
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

/** Greatest height of the hips between two frames, both included, legs. */
export function range(r: Reading, from: number, to: number): number {
  let high = 0;
  for (let f = from; f <= to; f++) high = Math.max(high, r.at('hips', f, 1));
  return high;
}

/** How surely it goes on hands and knees, 0 to 1. */
export function crawling(r: Reading): number {
  const knees = share(r, (f) => r.holds.some((p) => p.part.startsWith('knee') && p.start <= f && p.end >= f));
  const hands = share(r, (f) => r.holds.some((p) => p.part.startsWith('hand') && p.start <= f && p.end >= f));
  const moves = share(r, (f) => r.speed[f]! > 0.12);
  return ramp(knees, 0.3, 0.6) * ramp(hands, 0.3, 0.6) * ramp(moves, 0.3, 0.6);
}

/** How many steps go up and down, the height gained in all (legs), and how surely that is a climb on a stair, 0 to 1. */
export function climbing(r: Reading): { up: number; down: number; total: number; share: number } {
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
  const steep = Math.abs(total) / Math.max(0.05, pathLength(r));
  return { up, down, total, share: up + down >= 3 ? (1 - level) * ramp(steep, 0.38, 0.55) : 0 };
}

/** Way over the ground, legs. */
export function pathLength(r: Reading): number {
  const g = r.features.ground;
  return Math.hypot(g[2 * r.frames - 2]! - g[0]!, g[2 * r.frames - 1]! - g[1]!) / r.features.leg;
}

/** How surely a raised hand swings to and fro, 0 to 1. */
export function waving(r: Reading, side: 'L' | 'R'): number {
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

/** Whether an arm is held straight out, about level, in a frame. */
export function straightOut(r: Reading, side: 'L' | 'R', f: number): boolean {
  const shoulder: Point = side === 'L' ? 'upperArmL' : 'upperArmR';
  const elbow: Point = side === 'L' ? 'forearmL' : 'forearmR';
  const d = ([0, 1, 2] as const).map((k) => r.at(HAND[side], f, k) - r.at(shoulder, f, k));
  const a = ([0, 1, 2] as const).map((k) => r.at(elbow, f, k) - r.at(shoulder, f, k));
  const b = ([0, 1, 2] as const).map((k) => r.at(HAND[side], f, k) - r.at(elbow, f, k));
  const out = Math.hypot(...d);
  const full = Math.hypot(...a) + Math.hypot(...b);
  return full > 0.1 && out > 0.9 * full && Math.abs(d[1]!) < 0.35 * out;
}

/** How surely a hand flings something, 0 to 1: one swift stroke of an arm out of a stand. */
export function throwing(r: Reading): number {
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

/** Diagonal of the box that a point fills over the motion, legs, in the frame of the hips. */
export function travelled(r: Reading, point: Point): number {
  let low = [9, 9, 9];
  let high = [-9, -9, -9];
  for (let f = 0; f < r.frames; f++) {
    low = low.map((x, k) => Math.min(x, r.at(point, f, k as 0)));
    high = high.map((x, k) => Math.max(x, r.at(point, f, k as 0)));
  }
  return Math.hypot(...high.map((x, k) => x - low[k]!));
}

/** Greatest height of a point over the ground, legs. */
export const highest = (r: Reading, point: Point): number => {
  let y = 0;
  for (let f = 0; f < r.frames; f++) y = Math.max(y, r.at(point, f, 1));
  return y;
};

/** Both hands move to and fro, 0 to 1. */
export const handsBusy = (r: Reading): number =>
  Math.min(ramp(travelled(r, 'handL'), 0.06, 0.13), ramp(travelled(r, 'handR'), 0.06, 0.13));

export const MOUTH = /mouth|jaw|lip|viseme|speak|talk/i;
/** How surely the mouth speaks, 0 to 1: a face shape of the mouth opens and closes again and again. */
export function mouthMoves(r: Reading): number {
  for (const s of r.motion.numbers) {
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
/** Whether any face shape changes by more than a tenth. */
export const movesFace = (r: Reading): boolean =>
  r.motion.numbers.some(
    (s) =>
      !tellsLength(s.name) &&
      s.values.reduce((m, x) => Math.max(m, x), -9) - s.values.reduce((m, x) => Math.min(m, x), 9) > 0.1,
  );

/** Fingers of one hand that bend at different times, 0 to 1. */
export function fingersAlone(r: Reading): number {
  const n = r.party.rig.names.length;
  const m = r.motion;
  let best = 0;
  for (const side of SIDES) {
    const joints = FINGERS.map((f) => jointOf(r.party.map, `${f}1${side}`)).filter((j) => j >= 0);
    if (joints.length < 3) continue;
    const bends = joints.map((j) =>
      Float64Array.from({ length: r.frames }, (_, f) => {
        const g = Math.min(m.frameCount - 1, Math.round((f * m.frameCount) / r.frames));
        return angleBetweenQuats(m.turns, 4 * j, m.turns, 4 * (g * n + j));
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
