import { type Body, measureBody } from '../body/body';
import type { Party } from '../body/party';
import type { Motion } from '../motion/motion';
import { type Contacts, findContacts, soleTracks } from './plants';
import { unrolled } from './unrolled';
import { longest, type Point, type Reading, ramp, read, share } from './words-reading';
import {
  apart,
  climbing,
  crawling,
  fingersAlone,
  HAND,
  handsBusy,
  highest,
  jumping,
  kneeling,
  longestWay,
  mouthMoves,
  movesFace,
  onGround,
  scaling,
  seatChange,
  straightOut,
  throwing,
  together,
  travelled,
  turning,
  waving,
} from './words-signs';

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

type Rule = (r: Reading) => { confidence: number; why: string };

const RULES: Readonly<Record<string, Rule>> = {
  walk: (r) => {
    const air = share(r, (f) => r.support[f] === 0 && r.speed[f]! > 0.3);
    const moving = share(r, (f) => r.speed[f]! > 0.3 && r.speed[f]! < 3.2 && Math.abs(r.ahead[f]!) > 0.8 * r.speed[f]!);
    const level = 1 - climbing(r).share;
    const seconds = moving * (r.frames / r.fps);
    // a fighter's shuffle goes nowhere for long
    const goes = longestWay(r, (f) => Math.abs(r.ahead[f]!) > 0.25);
    return {
      confidence:
        r.steps >= A_FEW && !kneeling(r)
          ? ramp(goes, 0.45, 0.75) * ramp(seconds, 0.6, 1.4) * (1 - ramp(air, 0.12, 0.3)) * ramp(level, 0.1, 0.35)
          : 0,
      why: `${r.steps} steps with a foot always down`,
    };
  },
  run: (r) => {
    const moving = share(r, (f) => r.speed[f]! > 1.5);
    const air = share(r, (f) => r.support[f] === 0 && r.speed[f]! > 1.2);
    return {
      confidence: r.steps >= A_FEW ? ramp(moving, 0.25, 0.5) * ramp(air, 0.1, 0.25) : 0,
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
    const { seconds, confidence } = jumping(r);
    return {
      confidence: kneeling(r) ? 0 : confidence,
      why: `both feet are off the ground for ${seconds.toFixed(2)} s`,
    };
  },
  squat: (r) => {
    const low = longest(
      r,
      (f) =>
        r.at('hips', f, 1) < 0.74 * r.standing &&
        r.at('hips', f, 1) > 0.3 * r.standing &&
        r.support[f] !== 0 &&
        !r.holds.some((p) => p.start <= f && p.end >= f && p.part !== 'handL' && p.part !== 'handR'),
    );
    const sits = r.holds.some((p) => p.part === 'seat') || onGround(r) > 0.5;
    const upright = share(r, (f) => r.at('hips', f, 1) > 0.85 * r.standing) > 0.15;
    return {
      confidence: sits || kneeling(r) || !upright ? 0 : ramp(low.seconds, 0.25, 0.6),
      why: 'the hips come down over bent knees',
    };
  },
  sit: (r) => {
    const seat = r.holds.find((p) => p.part === 'seat');
    const ground = onGround(r);
    const rests = seat ? ramp((seat.end - seat.start) / r.fps, 0.5, 0.9) : 0;
    return ground > rests
      ? { confidence: ground, why: 'the hips rest on the ground below an upright trunk' }
      : { confidence: rests, why: 'the hips rest at a seat’s height behind the feet' };
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
    const stairs = ramp(up, 1.5, 3) * ramp(total, 0.12, 0.3);
    const scaled = scaling(r);
    return scaled > stairs
      ? { confidence: scaled, why: 'the whole body goes up and stays there, hands above it' }
      : { confidence: stairs, why: 'each foot stands higher than the one before' };
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
      confidence: best && throwing(r) < 0.5 && scaling(r) < 0.5 ? ramp(best.seconds, 0.2, 0.45) : 0,
      why: 'a hand is held above the head',
    };
  },
  wave: (r) => ({
    // arms of a run pump
    confidence:
      scaling(r) > 0.5 || share(r, (f) => r.speed[f]! > 2.5) > 0.5 ? 0 : Math.max(waving(r, 'L'), waving(r, 'R')),
    why: 'a raised hand swings to and fro',
  }),
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

/** A foot that skids on a passing ground counts as standing for a word where it could not be held, by this factor. */
const ROUGHLY = 2.5;

/** Steps of a gait. */
const A_FEW = 3;
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
  // nothing is said of a body that nobody knows
  if (motion.frameCount < 3 || !(body.leg > 0)) return { words: [], props: [] };
  const { motion: seen, beltSpeed } = unrolled(party, motion, body);
  const contacts =
    (seen === motion && known) ||
    findContacts(soleTracks(party.rig, seen, body), seen.fps, body.leg, ROUGHLY * beltSpeed);
  const own = read(party, seen, contacts, body);
  // either end of a cycle may cut a step in two, and both feet were found to stand in turn
  const reading = beltSpeed > 0 ? { ...own, steps: Math.max(own.steps, A_FEW) } : own;
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
