import { alignmentTurns } from '../body/alignment';
import { type Body, measureBody } from '../body/body';
import type { Party } from '../body/party';
import { headingOf } from '../body/root-frame';
import { pelvisOf } from '../bodymap/body-root';
import { chainOf, jointOf, SIDES } from '../bodymap/slots';
import { mulInvQuat, rotate3 } from '../math/quat';
import { type Motion, PoseReader } from '../motion/motion';
import { runningMean } from '../retarget/envelope';

/** From where a performer is seen. 'follow' keeps a view while the performer turns. */
export type DriveView = 'front' | 'quarter' | 'side' | 'follow';
export const DRIVE_VIEWS = ['front', 'quarter', 'side', 'follow'] as const satisfies readonly DriveView[];

/** A joint as the eye sees it: across and up in the picture, and towards the eye; metres of the source, 3 F numbers. */
export type SeenTrack = Float64Array;

/** A performer as an eye at a distance sees it. */
export interface Seen {
  readonly frameCount: number;
  readonly fps: number;
  readonly body: Body;
  /** Tracks of what a body is made of; missing where the source has no such joint. */
  readonly at: Readonly<Partial<Record<string, SeenTrack>>>;
  /** How far parts are turned in the plane beyond how they are drawn at rest, radians, F numbers; in a turned figure's own left and right. */
  readonly turned: Readonly<Partial<Record<string, Float64Array>>>;
  /** 1 as the figure is drawn, −1 where it is turned over because the performer faces the other way; F numbers. */
  readonly flips: Int8Array;
  /** Where the eye stands, radians about Y: 0 on +Z; F numbers. */
  readonly eye: Float64Array;
  /** Where the trunk and the head face: 0 at the eye, π/2 to the right of the picture; F numbers. */
  readonly yaw: Float64Array;
  readonly headYaw: Float64Array;
  /** Way of the hips across the picture with the eye's own turning taken out, F numbers. */
  readonly way: Float64Array;
}

export interface SeenOptions {
  readonly view: DriveView;
  /** The way the figure is drawn: 1 faces right, −1 left, 0 the eye. */
  readonly faces: number;
  /** The picture shows a mirror image. */
  readonly mirrored: boolean;
}

const FOLLOW_S = 0.8;

/**
 * Looks at a motion from the side that a figure is drawn from: places across, up and towards the eye, and what is turned in
 * the plane. After Hornung, Dekkers, Kobbelt, Character animation from 2D pictures and 3D motion data, 2007 (projection) with
 * views told by the performer's facing.
 */
export function lookAtMotion(source: Party, motion: Motion, { view, faces, mirrored }: SeenOptions): Seen {
  const { rig, map } = source;
  const body = measureBody(rig, map, source.pose, source.floor);
  const aligned = alignmentTurns(rig, map, source.pose);
  const frames = motion.frameCount;
  const pelvis = pelvisOf(rig, map);
  const reader = new PoseReader(rig, motion);
  // (1) headings
  const heading = new Float64Array(frames);
  let last = 0;
  for (let f = 0; f < frames; f++) {
    const { r } = reader.at(f);
    last = headingOf(r, 4 * Math.max(0, pelvis), aligned, 4 * Math.max(0, pelvis), last);
    heading[f] = last;
  }
  const shown = (view === 'front' ? 0 : view === 'quarter' ? Math.PI / 4 : Math.PI / 2) * (faces < 0 ? -1 : 1);
  const psi = view === 'follow' ? (faces === 0 ? 0 : (faces * Math.PI) / 2) : shown;
  const eye = eyeYaw(heading, view, psi, motion.fps);
  const sign = mirrored ? -1 : 1;
  const yaw = heading.map((h, f) => sign * wrapped(h - eye[f]!));
  const flips = facingOver(yaw, faces);
  // (2) joints
  const joints: Record<string, number> = {};
  const wanted = [
    'head',
    'neck1',
    ...SIDES.flatMap((s) => ['upperArm', 'forearm', 'hand', 'thigh', 'shin', 'foot', 'toes'].map((p) => p + s)),
  ];
  for (const slot of wanted) if (jointOf(map, slot) >= 0) joints[slot] = jointOf(map, slot);
  const at: Record<string, Float64Array> = { hips: new Float64Array(3 * frames), chest: new Float64Array(3 * frames) };
  for (const slot of Object.keys(joints)) at[slot] = new Float64Array(3 * frames);
  const shoulders = ['upperArmL', 'upperArmR'].map((s) => jointOf(map, s)).filter((j) => j >= 0);
  const top =
    shoulders.length > 0
      ? shoulders
      : [jointOf(map, 'neck1'), jointOf(map, 'head'), chainOf(map, 'spine').at(-1) ?? -1]
          .filter((j) => j >= 0)
          .slice(0, 1);
  const hipJoints = body.hipJoints;
  // (3) turned in the plane
  const turners: [string, number][] = [
    ['hips', pelvis],
    ['head', jointOf(map, 'head')],
    ...SIDES.map((s): [string, number] => [`foot${s}`, jointOf(map, `foot${s}`)]),
  ];
  const chestJoint = chainOf(map, 'spine').at(-1) ?? -1;
  turners.push(['chestTurn', chestJoint >= 0 ? chestJoint : pelvis]);
  const hands = SIDES.flatMap((side) => {
    const joint = jointOf(map, `hand${side}`);
    if (joint < 0) return [];
    const end = new Float64Array(3 * frames);
    at[`handEnd${side}`] = end;
    return [{ joint, end, out: side === 'L' ? 1 : -1 }];
  });
  const turned: Record<string, Float64Array> = {};
  for (const [name, joint] of turners) if (joint >= 0) turned[name] = new Float64Array(frames);
  const headYaw = new Float64Array(frames);
  const way = new Float64Array(frames);
  const head = jointOf(map, 'head');
  const point = new Float64Array(3);
  const put = (track: Float64Array, f: number, x: number, y: number, z: number, c: number, s: number): void => {
    // across = up × eye, with the eye at (s, 0, c)
    track[3 * f] = sign * (x * c - z * s);
    track[3 * f + 1] = y;
    track[3 * f + 2] = x * s + z * c;
  };
  const mean = (p: Float64Array, list: readonly number[]): void => {
    point.fill(0);
    for (const j of list) for (let k = 0; k < 3; k++) point[k] = point[k]! + p[3 * j + k]! / list.length;
  };
  const drawn = (faces * Math.PI) / 2;
  const turn = new Float64Array(4);
  const vector = new Float64Array(3);
  let before: [number, number] = [0, 0];
  for (let f = 0; f < frames; f++) {
    const { r, p } = reader.at(f);
    const [c, s] = [Math.cos(eye[f]!), Math.sin(eye[f]!)];
    for (const slot of Object.keys(joints)) {
      const j = joints[slot]!;
      put(at[slot]!, f, p[3 * j]!, p[3 * j + 1]!, p[3 * j + 2]!, c, s);
    }
    mean(p, hipJoints);
    put(at.hips!, f, point[0]!, point[1]!, point[2]!, c, s);
    if (f === 0) way[0] = at.hips![0]!;
    else {
      // what the hips go across the picture while the eye is turned by the middle of both frames
      const [dx, dz] = [point[0]! - before[0], point[2]! - before[1]];
      const m = 0.5 * (eye[f]! + eye[f - 1]!);
      way[f] = way[f - 1]! + sign * (dx * Math.cos(m) - dz * Math.sin(m));
    }
    before = [point[0]!, point[2]!];
    if (top.length > 0) {
      mean(p, top);
      put(at.chest!, f, point[0]!, point[1]!, point[2]!, c, s);
    } else at.chest!.set([at.hips![3 * f]!, at.hips![3 * f + 1]! + 1, at.hips![3 * f + 2]!], 3 * f);
    for (const { joint: j, end, out } of hands) {
      // level arms point outwards in the common pose
      mulInvQuat(turn, 0, r, 4 * j, aligned, 4 * j);
      vector.set([0.08 * out, 0, 0]);
      rotate3(vector, 0, turn, 0, vector, 0);
      put(end, f, p[3 * j]! + vector[0]!, p[3 * j + 1]! + vector[1]!, p[3 * j + 2]! + vector[2]!, c, s);
    }
    if (head >= 0) {
      mulInvQuat(turn, 0, r, 4 * head, aligned, 4 * head);
      vector.set([0, 0, 1]);
      rotate3(vector, 0, turn, 0, vector, 0);
      headYaw[f] =
        Math.hypot(vector[0]!, vector[2]!) > 0.3
          ? sign * wrapped(Math.atan2(vector[0]!, vector[2]!) - eye[f]!)
          : (headYaw[f - 1] ?? yaw[f]!);
    } else headYaw[f] = yaw[f]!;
    for (const [name, joint] of turners) {
      if (joint < 0) continue;
      mulInvQuat(turn, 0, r, 4 * joint, aligned, 4 * joint);
      turned[name]![f] = planeTurn(turn, vector, c, s, sign * flips[f]!, drawn, name);
    }
  }
  for (const [name, track] of Object.entries(turned)) if (!name.startsWith('foot')) turned[name] = unwrapped(track);
  return { frameCount: frames, fps: motion.fps, body, at, turned, flips, eye, yaw, headYaw, way };
}

/** Profile figures turn over when the performer turns round; 1 as drawn, −1 mirrored. */
function facingOver(yaw: Float64Array, faces: number): Int8Array {
  const out = new Int8Array(yaw.length).fill(1);
  if (faces === 0) return out;
  let now = Math.sin(yaw[0]!) * faces < 0 ? -1 : 1;
  for (let f = 0; f < yaw.length; f++) {
    const ahead = Math.sin(yaw[f]!) * faces;
    if (ahead * now < -0.25) now = -now;
    out[f] = now;
  }
  return out;
}

const wrapped = (a: number): number => a - 2 * Math.PI * Math.round(a / (2 * Math.PI));

function unwrapped(track: Float64Array): Float64Array {
  for (let f = 1; f < track.length; f++) track[f] = track[f - 1]! + wrapped(track[f]! - track[f - 1]!);
  return track;
}

/** Where the eye stands, radians about Y: fixed by the heading that lasts longest, or going with a calmed heading. */
function eyeYaw(heading: Float64Array, view: DriveView, psi: number, fps: number): Float64Array {
  const n = heading.length;
  if (view === 'follow') {
    const w = Math.round((FOLLOW_S * fps) / 2);
    return runningMean(runningMean(heading, w), w).map((h) => h - psi);
  }
  let [x, z] = [0, 0];
  for (const h of heading) {
    x += Math.sin(h);
    z += Math.cos(h);
  }
  // somebody who turns about is seen from where they began
  const mean = Math.hypot(x, z) > 0.6 * n ? Math.atan2(x, z) : heading[0]!;
  return new Float64Array(n).fill(mean - psi);
}

/**
 * How far a part is turned in the plane beyond how it is drawn. Its upright and, where it can be seen, its forward direction
 * tell it together, each by how far it lies in the plane.
 * @param turn world turn beyond the common pose, in which the body faces +Z
 */
function planeTurn(
  turn: Float64Array,
  v: Float64Array,
  c: number,
  s: number,
  sign: number,
  drawn: number,
  name: string,
): number {
  v.set([0, 1, 0]);
  rotate3(v, 0, turn, 0, v, 0);
  const [ux, uy] = [sign * (v[0]! * c - v[2]! * s), v[1]!];
  // upright is (0, 1) at rest
  let [re, im] = [uy, -ux];
  if (name.startsWith('foot')) {
    v.set([0, 0, 1]);
    rotate3(v, 0, turn, 0, v, 0);
    const [fx, fy] = [sign * (v[0]! * c - v[2]! * s), v[1]!];
    const x0 = Math.sin(drawn);
    // forward is (x0, 0) at rest
    re += 2 * fx * x0;
    im += 2 * fy * x0;
  }
  return Math.atan2(im, re);
}
