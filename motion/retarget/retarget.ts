import { type Belt, carriedBy } from '../analysis/belt';
import { type Contacts, findContacts, isSole, type Plant, plantHeights, soleTracks } from '../analysis/plants';
import type { Party } from '../body/party';
import { carrierOf } from '../bodymap/body-root';
import { MotionError } from '../errors';
import { assertMotion, type Motion } from '../motion/motion';
import { retime } from '../motion/timing';
import { restPose } from '../rig/rig';
import { type Reached, reachHands } from './arms';
import { clearArms } from './arms-clear';
import { followLeaders } from './followers';
import { type HandGoal, handGoals, type ImportanceKey } from './hand-goals';
import { bodyUp, handsUp } from './hands-up';
import { holdPlants, lowerHips } from './hold';
import { holdSeat } from './hold-seat';
import { kneeHeights, settleKnees } from './knees';
import { type LeaveOut, leaveTravel } from './leave';
import { defaultLimits, keepLimits, type Limits } from './limits';
import { type LookGoal, lookAt } from './look';
import { groundGoals, type PalmSpots, palmsAside } from './palm-goals';
import { planRetarget, type RetargetPlan } from './plan';
import { measure, type Report } from './report';
import { beltUnder, factsOf, heelsOf } from './source-facts';
import { sourceHolds } from './source-holds';
import { standOnEnds } from './stand-on-ends';
import { type Travel as TransferTravel, transfer } from './transfer';
import { pitchTrunk } from './trunk';
import { shareTwists } from './twists';

/**
 * leg: travel scaled by leg length; path: the source's own path on the ground; none: over its starting place; speed: scaled
 * by leg length and played so that the ground passes as fast as under the source (its length in frames changes).
 */
export type Travel = TransferTravel | 'speed';
export const TRAVELS = ['leg', 'path', 'speed', 'none'] as const satisfies readonly Travel[];

export interface RetargetOptions {
  /** Hold plants on the target; without it turns and travel are carried over and nothing else. */
  readonly plants?: boolean;
  readonly travel?: Travel;
  /** Hold hands and knees that rest on the ground, too. */
  readonly holds?: boolean;
  /** What hands keep to beyond their turns. */
  readonly hands?: readonly HandGoal[];
  /** Spots that the head looks at. */
  readonly look?: readonly LookGoal[];
  /** Keep arms and head within joint limits: the common body's, or others. */
  readonly limits?: false | 'common' | Limits;
  /** Keep forearms out of the body and both legs out of each other, as thick as the skin tells or as is guessed; where left out, as plants are held. */
  readonly clear?: boolean;
  /** Plants to hold instead of those found in the source; hands, knees and seat among them only where holds are on. */
  readonly contacts?: Contacts;
  /** How much lower than carried over the hips shall be, as a share of the target's leg; feet stay where they are. */
  readonly lower?: number;
  /** What of the source is not taken. */
  readonly leave?: LeaveOut;
}

export const RETARGET_DEFAULTS = {
  plants: true,
  travel: 'leg',
  holds: true,
  hands: [],
  look: [],
  limits: false,
  lower: 0,
} as const satisfies Required<Omit<RetargetOptions, 'contacts' | 'leave' | 'clear'>>;

export interface Retargeted {
  readonly motion: Motion;
  /** The source as it was carried over: the motion given, or with travel 'speed' played faster or slower. */
  readonly source: Motion;
  readonly plan: RetargetPlan;
  readonly plants: readonly Plant[];
  /** Height of every plant above the target's ground, metres; 0 for parts other than soles. */
  readonly heights: readonly number[];
  readonly reach: { readonly max: number; readonly frame: number };
  /** How far the body came down at most so that held feet stay in reach, metres. */
  readonly gaveWay: number;
  /** How far a hand stayed from its goal, metres. */
  readonly handReach: { readonly max: number; readonly frame: number };
  /** How far a held foot or a hand with a goal stays away from it, per frame, metres. */
  readonly short: Float32Array;
  /** Where the source goes on the spot: the belts under source and target, on which feet are held. */
  readonly belts?: { readonly source: Belt; readonly target: Belt };
}

const palmsOf = (plants: readonly Plant[]): boolean => plants.some((p) => p.part.startsWith('hand'));

const NO_REACH = { max: 0, frame: 0 } as const;

/**
 * Carries a motion from one rig to another: same poses in the world after both rests are brought together, travel scaled
 * by leg length, feet held where the source holds them. Frames, rate and face shapes are kept.
 * Methods: rest-relative transfer in a common frame; Kovar, Schreiner, Gleicher 2002 for plants; see the parts.
 * @throws MotionError 'unmappable' where neither hips nor any limb are mapped on both sides
 */
export function retarget(source: Party, motion: Motion, target: Party, options: RetargetOptions = {}): Retargeted {
  assertMotion(source.rig, motion);
  const plan = planRetarget(source, target, options.leave?.slots);
  if (plan.a.every((j) => j < 0) && !plan.same.some((j) => j >= 0)) {
    throw new MotionError(
      'unmappable',
      'No joint of the source plays the part of any joint of the target: set at least hips and limbs in the body maps.',
    );
  }
  return solve(plan, motion, options);
}

/** The solve alone, for a plan made before; what benchmarks time. */
export function solve(given: RetargetPlan, motion: Motion, told: RetargetOptions = {}): Retargeted {
  const travelled = told.travel ?? RETARGET_DEFAULTS.travel;
  const played =
    travelled === 'speed' ? retime(given.source.rig, motion, Math.max(0.05, Math.min(20, 1 / given.scale))) : motion;
  const options = played === motion ? told : stretched(told, motion.frameCount, played.frameCount);
  const found = canTravel(options) ? beltUnder(given, played) : undefined;
  if (!found) return solvePlayed(given, played, options);
  // a gait on the spot is solved as if it travelled, and put back on the spot with its feet as steady on their belt
  const done = solvePlayed(given, found.travelling, options, Math.hypot(found.belt.x, found.belt.z));
  const scale = travelled === 'path' ? 1 : done.plan.scale;
  const belt = { x: found.belt.x * scale, z: found.belt.z * scale };
  const motionInPlace = carriedBy(given.target.rig, done.motion, given.carrier, belt, 1);
  return { ...done, motion: motionInPlace, source: played, belts: { source: found.belt, target: belt } };
}

/** Whether nothing is told that lies in the world or keeps the body from travelling. */
const canTravel = ({ plants, travel, look, hands, contacts, leave }: RetargetOptions): boolean =>
  (plants ?? RETARGET_DEFAULTS.plants) &&
  travel !== 'none' &&
  !look?.length &&
  !hands?.length &&
  !contacts?.plants.some((p) => p.pin) &&
  !leave;

/** What is told in frames of one motion, told in those of the same motion played faster or slower. */
function stretched(options: RetargetOptions, from: number, to: number): RetargetOptions {
  const at = (frame: number): number =>
    Math.max(0, Math.min(to - 1, Math.round((frame * (to - 1)) / Math.max(1, from - 1))));
  const keyed = <G extends { readonly weight?: number | 'near' | readonly ImportanceKey[] }>(goal: G): G => {
    if (!Array.isArray(goal.weight)) return goal;
    const keys = new Map((goal.weight as ImportanceKey[]).map((k) => [at(k.frame), { ...k, frame: at(k.frame) }]));
    return { ...goal, weight: [...keys.values()] };
  };
  return {
    ...options,
    ...(options.hands ? { hands: options.hands.map(keyed) } : {}),
    ...(options.look ? { look: options.look.map(keyed) } : {}),
    ...(options.contacts
      ? {
          contacts: {
            ...options.contacts,
            plants: options.contacts.plants.map((p) => ({ ...p, start: at(p.start), end: at(p.end) })),
          },
        }
      : {}),
  };
}

function solvePlayed(given: RetargetPlan, played: Motion, options: RetargetOptions, beltSpeed = 0): Retargeted {
  const hold = options.plants ?? RETARGET_DEFAULTS.plants;
  const travel = options.travel ?? RETARGET_DEFAULTS.travel;
  const clear = options.clear ?? hold;
  // (1) what the source does on the ground
  const facts = hold ? factsOf(given, played, beltSpeed) : undefined;
  const plan = facts?.plan ?? given;
  const { source, target, scale } = plan;
  const tracks = facts?.tracks ?? {};
  const contacts: Contacts = (facts && (options.contacts ?? facts.contacts)) ?? {
    plants: [],
    floor: plan.equalRigs ? 0 : source.body.floor,
  };
  const resting =
    facts && (options.holds ?? RETARGET_DEFAULTS.holds)
      ? options.contacts
        ? sourceHolds(plan, played, heelsOf(tracks), contacts.floor, options.contacts.plants)
        : facts.holds()
      : undefined;
  const plants = [...contacts.plants.filter((p) => isSole(p.part)), ...(resting?.plants ?? [])];
  // (2) poses and travel
  let moved = transfer(plan, played, { travel: travel === 'speed' ? 'leg' : travel, sourceFloor: contacts.floor });
  if (options.leave) moved = leaveTravel(plan, moved, options.leave.travel);
  const short = new Float32Array(moved.frameCount);
  const lower = (options.lower ?? RETARGET_DEFAULTS.lower) * target.body.leg;
  let reach: Retargeted['reach'] = NO_REACH;
  let gaveWay = 0;
  const heights = plantHeights(tracks, { plants, floor: contacts.floor }, source.body.leg, scale);
  if (hold && travel !== 'none' && !options.leave) moved = standOnEnds(plan, moved, plants);
  if (hold) moved = bodyUp(plan, played, moved, plants, contacts.floor);
  if (resting) moved = holdSeat(plan, moved, plants);
  // (3) knees, then feet, then trunk and hands: each on what the one before left
  const knees = resting && kneeHeights(plan, plants, resting.tracks, contacts.floor);
  if (knees) moved = settleKnees(plan, moved, plants, knees);
  if (hold && target.body.leg > 0 && plants.some((p) => isSole(p.part) || p.part.startsWith('knee'))) {
    const held = holdPlants(plan, moved, plants, heights, {
      lower,
      allowed: facts?.sharpestKnee(),
      knees,
      source: clear ? played : undefined,
      hands: resting && ((at) => groundGoals(plan, at, plants, resting.tracks, contacts.floor)),
    });
    moved = held.motion;
    reach = held.reach;
    short.set(held.short);
    for (const x of held.drop) gaveWay = Math.max(gaveWay, x);
  } else if (lower !== 0) moved = lowerHips(plan, moved, lower);
  if (resting) moved = pitchTrunk(plan, moved, plants, resting.tracks, contacts.floor);
  if (clear) moved = clearArms(plan, played, moved);
  const told = handGoals(plan, played, moved, options.hands ?? RETARGET_DEFAULTS.hands);
  const elbows = resting && palmsOf(plants) ? facts?.sharpestElbow() : undefined;
  const reachFor = (aside?: PalmSpots): Reached =>
    reachHands(
      plan,
      moved,
      [...(resting ? groundGoals(plan, moved, plants, resting.tracks, contacts.floor, aside) : []), ...told],
      elbows,
    );
  let arms = reachFor();
  // a palm that rests beside a broad trunk may bring its arm into it
  for (let round = 0, spots: PalmSpots | undefined = new Map(); clear && elbows !== undefined && round < 3; round++) {
    spots = palmsAside(plan, played, arms.motion, plants, spots);
    if (!spots) break;
    arms = reachFor(spots);
  }
  arms.short?.forEach((x, f) => {
    short[f] = Math.max(short[f]!, x);
  });
  moved = arms.motion;
  if (hold) moved = reachHands(plan, moved, handsUp(plan, played, moved, plants, contacts.floor)).motion;
  moved = shareTwists(plan, moved);
  moved = lookAt(plan, moved, options.look ?? RETARGET_DEFAULTS.look);
  const limits = options.limits ?? RETARGET_DEFAULTS.limits;
  if (limits) moved = keepLimits(target, moved, limits === 'common' ? defaultLimits() : limits);
  moved = followLeaders(target.rig, target.pose ?? restPose(target.rig), moved, plan.followers);
  return { motion: moved, source: played, plan, plants, heights, reach, gaveWay, handReach: arms.reach, short };
}

/** Measures a finished retarget against its source; see Report. */
export function reportOf(told: Retargeted): Report {
  const { plan, belts } = told;
  const { rig, map, skinned, body } = plan.source;
  // on belts feet are measured against what passes beneath them
  const done = belts
    ? {
        ...told,
        source: carriedBy(rig, told.source, carrierOf(rig, map, skinned), belts.source, -1),
        motion: carriedBy(plan.target.rig, told.motion, plan.carrier, belts.target, -1),
      }
    : told;
  const beltSpeed = belts ? Math.hypot(belts.source.x, belts.source.z) : 0;
  // a result without held plants is measured on the plants that should have been
  const plants =
    done.plants.length > 0
      ? done.plants
      : findContacts(soleTracks(rig, done.source, body), done.source.fps, body.leg, beltSpeed).plants;
  return measure(plan, done.source, done.motion, plants, done);
}
