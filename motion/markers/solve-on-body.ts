import { MotionError } from '../errors';
import type { Motion } from '../motion/motion';
import { assemble } from './assemble';
import type { Limb } from './body-tree';
import { cleanMarkers } from './clean';
import { fitBody } from './fit-body';
import { type MarkerBody, usualTurn } from './known-body';
import { type Course, whole } from './limb-course';
import { type Markers, seenShare } from './markers';
import { courseOf, framesOfShape, outOfSegment } from './segments';
import { halfOff, reportOf, type Solved, solveMarkers } from './solve';

/** So many of a body's markers have to be in a take, by their labels. */
const LEAST_SHARE = 0.6;
/** Where half of all markers lie further than this from where the body has them, it is another one. */
const STRANGE_MM = 25;
/** One that nobody named has to fit about as well as in the take that it was learnt from: so many times, and millimetres more. */
const AS_WELL = 1.5;
const AND_MM = 4;
/** Whether it does is tried on so many frames first. */
const TRIED = 90;

/**
 * Solves a take on the first of some bodies that its markers fit as well as they fitted in the take that the body was learnt from;
 * by itself where they fit none.
 * @param bodies of earlier takes, perhaps of other people
 * @returns with the number of the body, −1 for one of its own
 * @throws MotionError as solveMarkers does
 */
export function solveTake(given: Markers, bodies: readonly MarkerBody[]): { solved: Solved; on: number } {
  const short: Markers =
    given.frameCount <= TRIED
      ? given
      : { ...given, frameCount: TRIED, places: given.places.subarray(0, 3 * TRIED * given.labels.length) };
  for (const [on, body] of bodies.entries()) {
    const fits = (markers: Markers): Solved | undefined => {
      const solved = triedOn(markers, body);
      return solved && halfOff(solved.report) <= AS_WELL * body.offMm + AND_MM ? solved : undefined;
    };
    const first = fits(short);
    const solved = first && short !== given ? fits(given) : first;
    if (solved) return { solved, on };
  }
  return { solved: solveMarkers(given), on: -1 };
}

function triedOn(markers: Markers, body: MarkerBody): Solved | undefined {
  try {
    return solveOnBody(markers, body);
  } catch (error) {
    if (error instanceof MotionError) return undefined;
    throw error;
  }
}

/**
 * Another take of a body that is known: markers are told by their labels, the body stays as it is, and poses alone are solved. The
 * skeleton is the same in every take, a short one or one in which hardly anything moves as well.
 * @throws MotionError 'wrong-count' where too few labels are the body's, 'unmappable' where its markers sit elsewhere
 */
export function solveOnBody(given: Markers, body: MarkerBody): Solved {
  const known = body.limbs.flatMap((l) => l.markers.map((m) => m.label));
  const here = known.filter((label) => given.labels.includes(label));
  if (given.frameCount < 1 || here.length < LEAST_SHARE * known.length)
    throw new MotionError(
      'wrong-count',
      `Of the body's ${known.length} markers the file names ${here.length}; at least ${Math.ceil(LEAST_SHARE * known.length)} are needed. Markers are told by their labels.`,
    );
  mustShowFirst(given, body);
  const { markers, done } = cleanMarkers(given);
  const frames = markers.frameCount;
  const limbs: Limb[] = [];
  const courses: Course[] = [];
  for (let i = 0; i < body.limbs.length; i++) {
    const limb = limbOn(body, i, markers, courses);
    limbs.push(limb);
    courses.push(whole(limb, courses[limb.parent], markers));
  }
  const arms = body.limbs.flatMap((l, i) => (l.loose ? [i] : []));
  const { courses: poses } = fitBody(limbs, courses, markers, arms, true);
  // the rest is how the body stood: a frame before the first
  const stood = poses.map((pose, i): Course => {
    const { turn, place } = body.limbs[i]!.stood;
    return {
      turns: Float64Array.from([...turn, ...pose.turns]),
      places: Float64Array.from([...place, ...pose.places]),
    };
  });
  // bones end where all of the body's markers say, in whichever take some of them are missing
  const complete = limbs.map((l, i) => ({ ...l, shape: shapeOf(body, i) }));
  const { rig, turns, places, nameOf } = assemble(complete, stood, 0, frames + 1);
  const report = reportOf(markers, given, limbs, poses, nameOf, done);
  const off = halfOff(report);
  if (off > STRANGE_MM)
    throw new MotionError(
      'unmappable',
      `Half of the markers are ${(off / 10).toFixed(0)} cm or more from where this body wears them: it is another person, or they sit elsewhere.`,
    );
  const motion: Motion = {
    fps: markers.fps,
    frameCount: frames,
    turns: turns.slice(4 * rig.names.length),
    places: [{ joint: 0, values: places.slice(3) }],
    numbers: [],
    scales: [],
    steps: [],
  };
  return { rig, motion, report, body };
}

/** How many markers of the limb that all others hang on have to be seen in some frame. */
const FEWEST_OF_FIRST = 3;

function mustShowFirst(take: Markers, body: MarkerBody): void {
  const labels = body.limbs.find((l) => l.parent < 0)!.markers.map((m) => m.label);
  const seen = labels.filter((label) => {
    const marker = take.labels.indexOf(label);
    return marker >= 0 && seenShare(take, marker) > 0;
  });
  if (seen.length < FEWEST_OF_FIRST)
    throw new MotionError(
      'unmappable',
      `All of the body hangs on ${labels.join(', ')}, and the take shows ${seen.length > 0 ? `${seen.join(', ')} alone` : 'none'} of these markers: three are needed.`,
    );
}

const shapeOf = (body: MarkerBody, i: number): Float64Array =>
  Float64Array.from(body.limbs[i]!.markers.flatMap((m) => m.at));

/** A limb of the body, with how it stands in every frame of a take that shows enough of it. */
function limbOn(body: MarkerBody, i: number, take: Markers, courses: readonly Course[]): Limb {
  const { parent, joint, off, markers } = body.limbs[i]!;
  const worn = markers.flatMap(({ label, at }) => {
    const marker = take.labels.indexOf(label);
    return marker < 0 ? [] : [{ marker, at }];
  });
  const shape = Float64Array.from(worn.flatMap(({ at }) => at));
  const seen = worn.map(({ marker }) => courseOf(take, marker));
  const frames = take.frameCount;
  const above = courses[parent];
  // of two markers and the joint a frame can be made, too
  const stands =
    worn.length < 3 && above
      ? framesOfShape(Float64Array.of(0, 0, 0, ...shape), [jointCourse(above, joint, frames), ...seen], frames)
      : framesOfShape(shape, seen, frames);
  return {
    markers: worn.map((w) => w.marker),
    shape,
    ...stands,
    parent,
    joint: Float64Array.from(joint),
    own: new Float64Array(3),
    off,
    usual: usualTurn(body, i),
  };
}

function jointCourse(parent: Course, joint: ArrayLike<number>, frames: number): Float64Array {
  const out = new Float64Array(3 * frames);
  const p = new Float64Array(3);
  for (let f = 0; f < frames; f++) {
    outOfSegment(parent, f, joint, p);
    out.set(p, 3 * f);
  }
  return out;
}
