import { MotionError } from '../errors';
import type { Motion } from '../motion/motion';
import type { SkeletonRig } from '../rig/rig';
import { type Assembled, assemble, namesAt, standingFrame } from './assemble';
import { growTree, type Limb } from './body-tree';
import { cleanMarkers } from './clean';
import { fitBody } from './fit-body';
import { placeHinges } from './hinges';
import { bodyOf, type MarkerBody } from './known-body';
import { type Course, whole } from './limb-course';
import { type Cleaning, type Markers, seen, seenShare } from './markers';
import { groupMarkers, outOfSegment, USUAL_LOOSENESS } from './segments';
import { seatArms } from './shoulders';

/** A skeleton and its motion, solved from markers, in the space of the markers. */
export interface Solved {
  readonly rig: SkeletonRig;
  readonly motion: Motion;
  readonly report: SolveReport;
  /** What it takes to solve other takes of the same person with the same markers; see solveOnBody. */
  readonly body: MarkerBody;
}

export interface SolveReport {
  readonly frames: number;
  readonly markers: readonly {
    readonly label: string;
    /** The joint that carries it; undefined for one that no bone could be found for. */
    readonly joint: string | undefined;
    readonly seenPercent: number;
    /** How far it is from where its bone says, root mean square and most, millimetres. */
    readonly offMm: number;
    readonly mostOffMm: number;
    /** The same over time, in a hundred stretches of the take; NaN where it was not seen. */
    readonly overTimeMm: readonly number[];
  }[];
  readonly joints: readonly { readonly joint: string; readonly offMm: number }[];
  readonly cleaned: readonly Cleaning[];
}

const FEWEST_MARKERS = 8;
const FEWEST_FRAMES = 30;
const STRETCHES = 100;
/**
 * A skeleton with its motion from the places of markers, in one go: tracks are cleaned, markers grouped into bones by the
 * distances that they keep, joints found where bones turn about one another. Labels are not needed.
 * @throws MotionError 'wrong-count' for too few markers or frames, 'no-joints' where nothing moves as a body does
 */
export function solveMarkers(given: Markers): Solved {
  if (given.labels.length < FEWEST_MARKERS || given.frameCount < FEWEST_FRAMES)
    throw new MotionError(
      'wrong-count',
      `The file has ${given.labels.length} markers over ${given.frameCount} frames; a body needs at least ${FEWEST_MARKERS} over ${FEWEST_FRAMES}.`,
    );
  const { markers, done } = cleanMarkers(given);
  const groups = groupMarkers(markers, USUAL_LOOSENESS);
  // of two ways to hang limbs on one another the one that makes a body; the second is seldom needed
  let best: Rough | undefined;
  for (const forks of ['large', 'all'] as const) {
    const found = roughOf(growTree(markers, groups, forks), markers);
    if (found && (!best || found.known > best.known)) best = found;
    if (best && best.known === best.limbs.length) break;
  }
  if (!best)
    throw new MotionError(
      'no-joints',
      'No body could be made out: the markers do not move as bones do that hang together.',
    );
  const { limbs, poses, arms, rig, turns, places, nameOf } = build(best, markers);
  const frames = markers.frameCount;
  const motion: Motion = {
    fps: markers.fps,
    frameCount: frames,
    turns,
    places: [{ joint: 0, values: places }],
    numbers: [],
    scales: [],
    steps: [],
  };
  const report = reportOf(markers, given, limbs, poses, nameOf, done);
  return { rig, motion, report, body: bodyOf(markers.labels, limbs, poses, best.start, arms, halfOff(report)) };
}

/** A tree of limbs as each of them moves by itself, and what they are. */
interface Rough {
  readonly limbs: readonly Limb[];
  readonly courses: readonly Course[];
  /** The frame in which the body stands. */
  readonly start: number;
  readonly names: readonly (string | undefined)[];
  /** How many limbs are known for what they are. */
  readonly known: number;
}

function roughOf(limbs: readonly Limb[], markers: Markers): Rough | undefined {
  if (limbs.length < 3) return undefined;
  const courses: Course[] = [];
  for (const l of limbs) courses.push(whole(l, courses[l.parent], markers));
  const start = standingFrame(limbs, courses, markers.frameCount);
  const names = namesAt(limbs, courses, start);
  return { limbs, courses, start, names, known: names.filter((n) => n !== undefined).length };
}

/** A body whose limbs hang together. */
interface Built extends Assembled {
  readonly limbs: readonly Limb[];
  readonly poses: readonly Course[];
  /** Limbs whose joint gives way. */
  readonly arms: readonly number[];
}

function build({ limbs, courses, start, names }: Rough, markers: Markers): Built {
  const frames = markers.frameCount;
  // how an arm turns is known without its shoulder only by three markers
  const arms = names.flatMap((name, i) => (/^upperArm/.test(name ?? '') && limbs[i]!.markers.length >= 3 ? [i] : []));
  const fitted = fitBody(placeHinges(limbs, courses, frames), courses, markers, arms);
  seatArms(fitted, arms, names, frames);
  return {
    ...assemble(fitted.limbs, fitted.courses, start, frames),
    limbs: fitted.limbs,
    poses: fitted.courses,
    arms,
  };
}

/** How far half of the markers that are on the body, and were seen, are from it at most, millimetres. */
export function halfOff({ markers }: Pick<SolveReport, 'markers'>): number {
  const off = markers
    .flatMap((m) => (m.joint === undefined || m.seenPercent === 0 ? [] : [m.offMm]))
    .sort((a, b) => a - b);
  return off[off.length >> 1] ?? 0;
}

/**
 * What a solved take tells of its markers and joints.
 * @param markers cleaned @param given as they were in the file @param limbs @param poses by limb, whole
 * @param nameOf by limb: the joint that it became @param cleaned what was done to the tracks
 */
export function reportOf(
  markers: Markers,
  given: Markers,
  limbs: readonly Limb[],
  poses: readonly Course[],
  nameOf: readonly string[],
  cleaned: readonly Cleaning[],
): SolveReport {
  const m = markers.labels.length;
  const carrier = new Map(limbs.flatMap((l, i) => l.markers.map((marker, k) => [marker, { i, k }] as const)));
  const p = new Float64Array(3);
  const round = (x: number): number => Math.round(1e4 * x) / 10;
  return {
    frames: markers.frameCount,
    cleaned,
    joints: limbs.flatMap((l, i) => (l.parent < 0 ? [] : [{ joint: nameOf[i]!, offMm: round(l.off) }])),
    markers: markers.labels.map((label, marker) => {
      const on = carrier.get(marker);
      const sums = new Float64Array(STRETCHES);
      const counts = new Float64Array(STRETCHES);
      let [sum, count, most] = [0, 0, 0];
      if (on)
        for (let f = 0; f < markers.frameCount; f++) {
          if (!seen(markers, f, marker)) continue;
          outOfSegment(poses[on.i]!, f, limbs[on.i]!.shape.subarray(3 * on.k, 3 * on.k + 3), p);
          const d = Math.hypot(...[0, 1, 2].map((k) => p[k]! - markers.places[3 * (f * m + marker) + k]!));
          const s = Math.floor((STRETCHES * f) / markers.frameCount);
          sums[s]! += d;
          counts[s]!++;
          sum += d * d;
          count++;
          most = Math.max(most, d);
        }
      return {
        label,
        joint: on && nameOf[on.i]!,
        seenPercent: Math.round(1000 * seenShare(given, marker)) / 10,
        offMm: count > 0 ? round(Math.sqrt(sum / count)) : 0,
        mostOffMm: round(most),
        overTimeMm: Array.from(sums, (s, i) => (counts[i]! > 0 ? round(s / counts[i]!) : Number.NaN)),
      };
    }),
  };
}

/** A joint that stays in place less well than this, millimetres, is told. */
const LOOSE_MM = 20;

/** What was done to the tracks, and what they leave open, in sentences. */
export function solveWords({ cleaned, markers, joints }: SolveReport): string[] {
  const count = (what: Cleaning['what']): number => cleaned.filter((c) => c.what === what).length;
  const [swaps, spikes] = [count('swap'), count('spike')];
  const lost = markers.filter((m) => m.joint === undefined).map((m) => m.label);
  const unknown = joints.filter((j) => j.joint.startsWith('bone '));
  const loose = joints.filter((j) => j.offMm > LOOSE_MM && !unknown.includes(j));
  const gaps = markers.reduce((s, m) => s + (100 - m.seenPercent), 0) / Math.max(1, markers.length);
  return [
    ...(swaps > 0
      ? [`Markers that exchanged their tracks were put right ${swaps === 1 ? 'once' : `${swaps} times`}.`]
      : []),
    ...(spikes > 0
      ? [
          `${spikes === 1 ? 'One place' : `${spikes} places`} that no movement explains ${spikes === 1 ? 'was' : 'were'} left out.`,
        ]
      : []),
    ...(gaps >= 0.05
      ? [`${gaps.toFixed(1)} % of all places were not seen; there the body follows its other markers.`]
      : []),
    ...(unknown.length > 0
      ? [
          `${unknown.length === 1 ? 'One bone fits' : `${unknown.length} bones fit`} no part of a body, so the skeleton is not whole: give the take more markers there, or a longer stretch of movement.`,
        ]
      : []),
    ...(loose.length > 0
      ? [
          `Known only roughly, since nothing turns cleanly about them: ${loose.map((j) => `${j.joint} (to ${(j.offMm / 10).toFixed(0)} cm)`).join(', ')}.`,
        ]
      : []),
    ...(lost.length > 0 ? [`On no bone: ${lost.slice(0, 12).join(', ')}.`] : []),
  ];
}
