import { findContacts, type Plant, plantHeights, soleTracks } from '../analysis/plants';
import type { Party } from '../body/party';
import { type BodyMap, jointOf } from '../bodymap/slots';
import { MotionError } from '../errors';
import { assertMotion, type Motion } from '../motion/motion';
import {
  lengthTrack,
  type NumberTrack,
  ORDER_TRACK,
  type PlaceTrack,
  type ScaleTrack,
  type StepTrack,
  viewTrack,
} from '../motion/tracks';
import type { CutoutRig } from '../rig/rig';
import { type WorldAngles, worldAngles } from './drive-angles';
import { headViews } from './drive-head';
import { type DrivenLeg, type FlatPlant, placeLegs } from './drive-legs';
import { drawingOrder } from './drive-order';
import { type FlatBody, measureFlat } from './flat';
import { type DriveView, lookAtMotion, type Seen } from './seen';
import { swingAfter } from './swing';

export interface DriveOptions {
  /** From where the performer is seen; as the figure is drawn where left out. */
  readonly view?: DriveView;
  /** Shortest that a limb is drawn when it points at the eye, a share of its length; 1 leaves every part as it is. */
  readonly foreshorten?: number;
  /** Hold feet that stand. */
  readonly plants?: boolean;
  /** Plants to hold instead of those found in the source. */
  readonly contacts?: readonly Plant[];
  /** Draw limbs before and behind by their depth. */
  readonly order?: boolean;
  /** Show the view of the head that its turn asks for. */
  readonly headViews?: boolean;
  /** Hanging parts swing after, as much as their hinges say. */
  readonly swing?: boolean;
  /** Travel goes along, or the figure stays over its place. */
  readonly travel?: boolean;
}

export const DRIVE_DEFAULTS = {
  foreshorten: 0.5,
  plants: true,
  order: true,
  headViews: true,
  swing: true,
  travel: true,
} as const satisfies Required<Omit<DriveOptions, 'view' | 'contacts'>>;

/** A cut-out that is understood: its rig and body map. */
export interface FlatParty {
  readonly rig: CutoutRig;
  readonly map: BodyMap;
}

export interface Driven {
  readonly motion: Motion;
  readonly seen: Seen;
  readonly flat: FlatBody;
  readonly plants: readonly FlatPlant[];
  /** Metres of the figure for each metre of the performer. */
  readonly scale: number;
  /** How far a standing foot stays from its spot at most, metres. */
  readonly reach: { readonly max: number; readonly frame: number };
  readonly notes: readonly string[];
}

/**
 * Drives a cut-out by a motion of a body: directions of limbs as the eye sees them, travel by the length of the leg, standing
 * feet held in the plane, drawing order by depth, views of the head by where it looks. Pure.
 * Method: Hornung, Dekkers, Kobbelt, Character animation from 2D pictures and 3D motion data, 2007, for the projection; feet,
 * order and views are our own.
 * @throws MotionError 'unmappable' where neither trunk nor any limb is mapped on both sides; as assertMotion does
 */
export function driveCutout(source: Party, motion: Motion, target: FlatParty, options: DriveOptions = {}): Driven {
  assertMotion(source.rig, motion);
  const flat = measureFlat(target.rig, target.map);
  const view = options.view ?? (flat.faces === 0 ? 'front' : 'side');
  const seen = lookAtMotion(source, motion, { view, faces: flat.faces, mirrored: target.rig.mirrored ?? false });
  const notes: string[] = [];
  if (jointOf(target.map, 'hips') < 0 || (jointOf(source.map, 'hips') < 0 && seen.body.hipJoints.length === 0))
    throw new MotionError('unmappable', 'The figure has no trunk that a motion could be put on.');
  const frames = motion.frameCount;
  const scale = flat.leg > 0 && seen.body.leg > 0 ? flat.leg / seen.body.leg : 1;
  const least = Math.min(1, Math.max(0.05, options.foreshorten ?? DRIVE_DEFAULTS.foreshorten));
  const { flips } = seen;
  // (1) turns of every joint in the plane, and how long parts are drawn
  const world = worldAngles(flat, seen, flips, least, least / 2);
  // (2) travel and feet
  const contacts = contactsOf(source, motion, seen, options);
  const legs = placeLegs(flat, seen, world, flips, {
    scale,
    travel: options.travel ?? DRIVE_DEFAULTS.travel,
    floor: contacts.floor,
    plants: contacts.plants,
    heights: contacts.heights,
    least,
    hold: options.plants ?? DRIVE_DEFAULTS.plants,
  });
  for (const leg of legs.legs) putLeg(world, leg);
  // (3) hanging parts, order, views
  const local = localAngles(flat, world.angle, frames);
  const places = placeTracks(flat, world.length, legs.hips, frames);
  if (options.swing ?? DRIVE_DEFAULTS.swing) swingAfter(flat, local, places, motion.fps);
  const scales: ScaleTrack[] = [];
  if (flips.some((x) => x < 0)) scales.push(mirrorTrack(flat.hips, flips));
  const steps: StepTrack[] = [];
  if (options.order ?? DRIVE_DEFAULTS.order) {
    const order = drawingOrder(flat, seen);
    if (order) steps.push({ name: ORDER_TRACK, ...order });
  }
  const head = jointOf(target.map, 'head');
  if ((options.headViews ?? DRIVE_DEFAULTS.headViews) && head >= 0) {
    const shown = headViews(target.rig, head, seen, flips);
    if (shown) {
      steps.push({ name: viewTrack(target.rig.names[head]!), labels: shown.labels, values: shown.values });
      if (shown.mirrored.some((x) => x < 0)) scales.push(mirrorTrack(head, shown.mirrored));
    }
  }
  const numbers: NumberTrack[] = [...world.length].flatMap(([joint, values]) =>
    values.every((x) => x === 1) ? [] : [{ name: lengthTrack(target.rig.names[joint]!), values }],
  );
  // a figure that is turned over is mirrored about the upright, after its hips are turned
  for (let f = 0; f < frames; f++) if (flips[f]! < 0) local[flat.hips]![f] = -local[flat.hips]![f]!;
  const driven: Motion = {
    fps: motion.fps,
    frameCount: frames,
    turns: quaternions(local, frames),
    places,
    scales,
    numbers,
    steps,
  };
  return { motion: driven, seen, flat, plants: legs.plants, scale, reach: legs.reach, notes };
}

const mirrorTrack = (joint: number, signs: ArrayLike<number>): ScaleTrack => ({
  joint,
  between: 'hold',
  values: Float32Array.from({ length: 3 * signs.length }, (_, i) => (i % 3 === 0 ? signs[Math.floor(i / 3)]! : 1)),
});

function contactsOf(
  source: Party,
  motion: Motion,
  seen: Seen,
  options: DriveOptions,
): { plants: readonly Plant[]; heights: readonly number[]; floor: number } {
  const tracks = soleTracks(source.rig, motion, seen.body);
  const found = findContacts(tracks, motion.fps, seen.body.leg);
  if (!(options.plants ?? DRIVE_DEFAULTS.plants)) return { plants: [], heights: [], floor: found.floor };
  const plants = options.contacts ?? found.plants;
  return {
    plants,
    heights: plantHeights(tracks, { plants, floor: found.floor }, seen.body.leg, 1),
    floor: found.floor,
  };
}

function putLeg(world: WorldAngles, leg: DrivenLeg): void {
  world.angle[leg.thigh]!.set(leg.thighAngle);
  world.length.set(leg.thigh, leg.thighLength);
  if (leg.shin >= 0) {
    world.angle[leg.shin]!.set(leg.shinAngle);
    world.length.set(leg.shin, leg.shinLength);
  }
  if (leg.foot >= 0) world.angle[leg.foot]!.set(leg.footAngle);
}

/** Angles against the parent, J × F, joint-major. */
function localAngles(flat: FlatBody, angle: readonly Float64Array[], frames: number): Float64Array[] {
  return flat.rig.names.map((_, j) => {
    const p = flat.rig.parents[j]!;
    if (p < 0) return angle[j]!.slice();
    const out = new Float64Array(frames);
    for (let f = 0; f < frames; f++) out[f] = angle[j]![f]! - angle[p]![f]!;
    return out;
  });
}

/** Places of the hips, and of joints whose parent's bone is drawn shorter. */
function placeTracks(
  flat: FlatBody,
  length: ReadonlyMap<number, Float32Array>,
  hips: Float64Array,
  frames: number,
): PlaceTrack[] {
  const { rig } = flat;
  const out: PlaceTrack[] = [];
  for (let j = 0; j < rig.names.length; j++) {
    const p = rig.parents[j]!;
    if (j === flat.hips && p < 0) {
      const values = new Float32Array(3 * frames);
      for (let f = 0; f < frames; f++) {
        values[3 * f] = hips[2 * f]!;
        values[3 * f + 1] = hips[2 * f + 1]!;
      }
      out.push({ joint: j, values });
      continue;
    }
    const shares = p >= 0 ? length.get(p) : undefined;
    if (!shares || shares.every((x) => x === 1)) continue;
    const bone = flat.bones.get(p)!;
    const [x, y] = [rig.restT[3 * j]!, rig.restT[3 * j + 1]!];
    const along = x * bone.x + y * bone.y;
    const values = new Float32Array(3 * frames);
    for (let f = 0; f < frames; f++) {
      const by = (shares[f]! - 1) * along;
      values[3 * f] = x + by * bone.x;
      values[3 * f + 1] = y + by * bone.y;
    }
    out.push({ joint: j, values });
  }
  return out;
}

function quaternions(local: readonly Float64Array[], frames: number): Float32Array {
  const n = local.length;
  const out = new Float32Array(4 * n * frames);
  for (let j = 0; j < n; j++)
    for (let f = 0; f < frames; f++) {
      const o = 4 * (f * n + j);
      out[o + 2] = Math.sin(local[j]![f]! / 2);
      out[o + 3] = Math.cos(local[j]![f]! / 2);
    }
  return out;
}
