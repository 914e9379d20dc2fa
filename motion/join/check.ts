import { SOLE_PARTS, type SoleTracks, soleTracks } from '../analysis/plants';
import { measureBody } from '../body/body';
import type { Party } from '../body/party';
import { headingOf } from '../body/root-frame';
import { SIDES } from '../bodymap/slots';
import { PoseReader } from '../motion/motion';
import { turnedRound } from '../motion/turned-round';
import type { JoinFact } from './laid';
import type { Lane } from './lane';
import { bearingOf, turnBetween } from './meet';
import { BALL, HEEL, stretchOf } from './steps';

/** What a passage came to; see QUALITY. */
export interface JoinCheck {
  /** Largest step of the hips' place beyond the largest on either side, cm and % of the leg. */
  readonly placeCm: number;
  readonly placePercentLeg: number;
  /** The same of their heading, degrees. */
  readonly facingDeg: number;
  /** Largest step of any joint against the largest on either side, and that joint. */
  readonly stepRatio: number;
  readonly joint: string;
  /** How fast that joint goes then, metres per second. */
  readonly stepSpeed: number;
  /** Path of the feet's held points over the ground, % of the leg per second of plant, and the largest way of one stand, cm. */
  readonly slipPercentLeg: number;
  readonly slipCm: number;
  /** How far a point of a sole is under the ground on which feet stand around the passage, cm. */
  readonly floorCm: number;
}

/** The second before and the one after a passage tell what is usual. */
const USUAL_S = 1;

/** Measures one passage of a lane. */
export function checkJoin(party: Party, whole: Lane, passage: Pick<JoinFact, 'start' | 'end'>): JoinCheck {
  // only what lies around it: a reel has hundreds
  const around = Math.round(USUAL_S * whole.motion.fps) + 1;
  const first = Math.max(0, passage.start - around);
  const lane = window(party, whole, first, Math.min(whole.motion.frameCount - 1, passage.end + around));
  return checkWithin(party, lane, { start: passage.start - first, end: passage.end - first });
}

function window({ cutout }: Party, { motion, held, joins }: Lane, first: number, last: number): Lane {
  const around = stretchOf(motion, first, last);
  return {
    // a figure that is turned over stands where it is seen to
    motion: turnedRound(cutout, around),
    held: { L: held.L.subarray(first, last + 1), R: held.R.subarray(first, last + 1) },
    joins,
  };
}

function checkWithin(party: Party, lane: Lane, { start, end }: Pick<JoinFact, 'start' | 'end'>): JoinCheck {
  const { rig } = party;
  const { motion, held } = lane;
  const body = measureBody(rig, party.map, party.pose, party.floor);
  const leg = body.leg || body.hipHeight || 1;
  const usual = Math.round(USUAL_S * motion.fps);
  const from = Math.max(0, start - usual);
  const to = Math.min(motion.frameCount - 1, end + usual);
  const { aligned, root } = bearingOf(party);
  const reader = new PoseReader(rig, motion);
  const n = rig.names.length;
  const last = new Float64Array(3 * n);
  let heading = 0;
  const zone = { place: 0, facing: 0, step: 0, joint: root };
  const sides = { place: 0, facing: 0, step: 0 };
  for (let f = from; f <= to; f++) {
    const { r, p } = reader.at(f);
    // paper faces as it is drawn
    const now = party.cutout ? 0 : headingOf(r, 4 * root, aligned, 4 * root, heading);
    if (f > from) {
      const within = f >= start && f <= end;
      const facing = Math.abs(turnBetween(heading, now)) * (180 / Math.PI);
      const place = Math.hypot(p[3 * root]! - last[3 * root]!, p[3 * root + 2]! - last[3 * root + 2]!);
      const of = within ? zone : sides;
      of.place = Math.max(of.place, place);
      of.facing = Math.max(of.facing, facing);
      for (let j = 0; j < n; j++) {
        const step = Math.hypot(
          p[3 * j]! - last[3 * j]!,
          p[3 * j + 1]! - last[3 * j + 1]!,
          p[3 * j + 2]! - last[3 * j + 2]!,
        );
        if (step > of.step) {
          of.step = step;
          if (within) zone.joint = j;
        }
      }
    }
    heading = now;
    last.set(p);
  }
  const beyond = (a: number, b: number): number => Math.max(0, a - b);
  const first = Math.max(1, start);
  const until = Math.min(motion.frameCount - 1, end);
  return {
    placeCm: 100 * beyond(zone.place, sides.place),
    placePercentLeg: (100 * beyond(zone.place, sides.place)) / leg,
    facingDeg: beyond(zone.facing, sides.facing),
    stepRatio: zone.step < 1e-5 ? 0 : zone.step / Math.max(sides.step, 1e-5),
    joint: rig.names[zone.joint]!,
    stepSpeed: zone.step * motion.fps,
    ...slipOf(party, lane, first, until, usual, leg, body, held),
  };
}

/** Height of the lowest point that stands; nothing is below where nothing stands. */
function groundAround(soles: SoleTracks, held: Lane['held'], from: number, to: number): number {
  let low = Number.POSITIVE_INFINITY;
  for (const part of SOLE_PARTS) {
    const track = soles[part];
    const bits = held[part.endsWith('L') ? 'L' : 'R'];
    const bit = part.startsWith('heel') ? HEEL : BALL;
    if (track) for (let f = from; f <= to; f++) if (bits[f]! & bit) low = Math.min(low, track[3 * f + 1]!);
  }
  return Number.isFinite(low) ? low : Number.NEGATIVE_INFINITY;
}

function slipOf(
  party: Party,
  { motion }: Lane,
  first: number,
  last: number,
  around: number,
  leg: number,
  body: ReturnType<typeof measureBody>,
  held: Lane['held'],
): Pick<JoinCheck, 'slipPercentLeg' | 'slipCm' | 'floorCm'> {
  const soles = soleTracks(party.rig, motion, body);
  const ground = groundAround(soles, held, Math.max(0, first - around), Math.min(motion.frameCount - 1, last + around));
  let path = 0;
  let time = 0;
  let most = 0;
  let deep = 0;
  for (const side of SIDES)
    for (const [bit, part] of [
      [HEEL, `heel${side}`],
      [BALL, `ball${side}`],
    ] as const) {
      const track = soles[part as keyof typeof soles];
      if (!track) continue;
      let way = 0;
      for (let f = first; f <= last; f++) {
        deep = Math.max(deep, ground - track[3 * f + 1]!);
        const holds = (held[side][f]! & bit) !== 0 && (held[side][f - 1]! & bit) !== 0;
        if (!holds) {
          way = 0;
          continue;
        }
        const step = Math.hypot(track[3 * f]! - track[3 * f - 3]!, track[3 * f + 2]! - track[3 * f - 1]!);
        path += step;
        way += step;
        time += 1 / motion.fps;
        most = Math.max(most, way);
      }
    }
  return {
    slipPercentLeg: time > 0 ? (100 * path) / leg / time : 0,
    slipCm: 100 * most,
    floorCm: 100 * deep,
  };
}
