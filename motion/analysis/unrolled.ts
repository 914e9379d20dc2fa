import type { Body } from '../body/body';
import type { Party } from '../body/party';
import { carrierOf } from '../bodymap/body-root';
import { type BodyMap, jointOf, SIDES } from '../bodymap/slots';
import { angleBetweenQuats } from '../math/quat';
import { comesRound } from '../motion/comes-round';
import { durationOf, type Motion, PoseReader } from '../motion/motion';
import { moveJoint } from '../motion/move-joint';
import { pickFrames } from '../motion/timing';
import type { SkeletonRig } from '../rig/rig';
import { carriedBy, findBelt } from './belt';

/** A cycle shorter than this is read as it goes round, seconds. */
const LONG_ENOUGH_S = 3;
const MOST_LAPS = 8;
/** A cycle runs on where its seam is no wider than this many of a leg's own steps, and a little, radians. */
const STEP = 1.5;
const SEAM = 0.03;
/** A lap of a gait goes at least so far, legs. */
const FAR = 0.5;
/** A lap that turns by more goes on elsewhere and is read once, radians. */
const STRAIGHT = 0.15;

/**
 * A motion as it is meant to be seen: a gait on the spot travels over ground that stands still, and a short cycle goes round
 * a few times. Anything else is what was given.
 * @returns the motion, and how fast its ground passed where it was on the spot, metres a second
 */
export function unrolled(party: Party, motion: Motion, body: Body): { motion: Motion; beltSpeed: number } {
  const { rig, map, skinned } = party;
  const joint = carrierOf(rig, map, skinned);
  const belt = findBelt(rig, motion, body, joint);
  if (!belt) return { motion: goneRound(party, motion, joint, FAR * body.leg), beltSpeed: 0 };
  const round = goneRound(party, motion, joint, 0);
  return { motion: carriedBy(rig, round, joint, belt, -1), beltSpeed: Math.hypot(belt.x, belt.z) };
}

/** A short cycle a few times over; what comes round without going at least so far, metres, and what turns, is left as it is. */
function goneRound({ rig, map }: Party, motion: Motion, joint: number, far: number): Motion {
  const seconds = durationOf(motion);
  if (seconds >= LONG_ENOUGH_S) return motion;
  const last = motion.frameCount - 1;
  const period = comesRound(rig, motion) ? last : runsOn(rig, map, motion) ? last + 1 : 0;
  if (period === 0) return motion;
  const reader = new PoseReader(rig, motion);
  const at = (f: number): { x: number; z: number; turn: Float64Array } => {
    const { p, r } = reader.at(f);
    return { x: p[3 * joint]!, z: p[3 * joint + 2]!, turn: r.slice(4 * joint, 4 * joint + 4) };
  };
  const [from, to] = [at(0), at(last)];
  if (angleBetweenQuats(from.turn, 0, to.turn, 0) > STRAIGHT) return motion;
  if (Math.hypot(to.x - from.x, to.z - from.z) < far) return motion;
  const laps = Math.min(MOST_LAPS, Math.ceil(LONG_ENOUGH_S / seconds));
  const times = Float64Array.from({ length: laps * period }, (_, f) => f % period);
  // a cycle that ends before it is round goes on at its own pace over what is missing
  const share = period / last;
  const [x, z] = [(to.x - from.x) * share, (to.z - from.z) * share];
  return moveJoint(rig, pickFrames(rig, motion, times), joint, (f) => {
    const lap = Math.floor(f / period);
    return [lap * x, 0, lap * z];
  });
}

/** From the last frame to the first the legs turn hardly further than they do between others. */
function runsOn({ names }: SkeletonRig, map: BodyMap, { turns, frameCount }: Motion): boolean {
  const n = names.length;
  const legs = SIDES.flatMap((side) => ['thigh', 'shin'].map((part) => jointOf(map, part + side))).filter(
    (j) => j >= 0,
  );
  if (frameCount < 8 || legs.length === 0) return false;
  let moves = false;
  for (const j of legs) {
    let most = 0;
    for (let f = 1; f < frameCount; f++)
      most = Math.max(most, angleBetweenQuats(turns, 4 * ((f - 1) * n + j), turns, 4 * (f * n + j)));
    if (angleBetweenQuats(turns, 4 * ((frameCount - 1) * n + j), turns, 4 * j) > STEP * most + SEAM) return false;
    moves ||= most > SEAM;
  }
  return moves;
}
