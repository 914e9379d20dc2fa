import { measureBody } from '../body/body';
import type { Party } from '../body/party';
import { yawBetween, yawQuat } from '../body/root-frame';
import { pelvisOf } from '../bodymap/body-root';
import { fadeOut } from '../math/fade-out';
import {
  alignSigns,
  alignTurns,
  copyQuat,
  invertQuat,
  mulInvQuat,
  mulQuat,
  normalizeQuat,
  rotate3,
} from '../math/quat';
import { expQuat, logQuat } from '../math/rotation-vector';
import { copy3, set3, sub3 } from '../math/vec';
import { ChainReader } from '../motion/chain-reader';
import { type Motion, PoseReader } from '../motion/motion';
import { pickFrames } from '../motion/timing';
import { mapTracks, pickTracks } from '../motion/tracks';
import { jointMoves, topMover, unhang } from '../motion/unhang';
import { travelJoint } from '../tune/common';
import { keepFeet, readFeet } from '../tune/feet';
import { seamOf } from './seam';

export interface CloseOptions {
  /** Time over which the difference is spread at either end, seconds. */
  readonly seconds?: number;
  /** A lap that changes the heading by less than this is made to keep it, degrees. */
  readonly straightenDeg?: number;
}

export const CLOSE_DEFAULTS = { seconds: 0.3, straightenDeg: 15 } as const satisfies Required<CloseOptions>;

/** Seams below these are none: degrees, % of leg, share of speed. */
const SEAMLESS = { angleDeg: 0.05, distancePercentLeg: 0.05, speedStep: 0.01 } as const;

/** What one lap does to the body as a whole: a turn about Y and a way over the ground. */
export interface Lap {
  readonly turn: number;
  /** Place of the pelvis at the start, and where a lap brings it: x, z. */
  readonly from: readonly [number, number];
  readonly to: readonly [number, number];
}

/**
 * Makes a motion's last frame its first one again, travel aside. The difference of pose and of velocity is halved and spread
 * over a window at either end by a quintic that leaves the rest alone; then the plants are held over three laps laid end to
 * end and the middle one is kept, so that feet stand across the seam. Already seamless motion is returned as it is.
 */
export function closeLoop(party: Party, motion: Motion, options: CloseOptions = {}): Motion {
  const { rig, motion: own, rehang } = unhang(party.rig, motion, travelJoint(party));
  const done = closeStanding({ ...party, rig }, own, options);
  return done === own ? motion : rehang(done);
}

/** closeLoop for a motion whose moving part hangs from nothing. */
function closeStanding(party: Party, motion: Motion, options: CloseOptions): Motion {
  const { rig } = party;
  const last = motion.frameCount - 1;
  if (last < 4) return motion;
  const seam = seamOf(party, motion);
  if (
    seam.angleDeg < SEAMLESS.angleDeg &&
    seam.distancePercentLeg < SEAMLESS.distancePercentLeg &&
    seam.speedStep < SEAMLESS.speedStep
  )
    return motion;
  const lap = lapOf(party, motion, options.straightenDeg ?? CLOSE_DEFAULTS.straightenDeg);
  const w = Math.max(
    2,
    Math.min(Math.round((options.seconds ?? CLOSE_DEFAULTS.seconds) * motion.fps), Math.floor(last / 2.5)),
  );
  const closed = shareSeam(party, motion, lap, w);
  const feet = readFeet(party, closed);
  if (!feet || feet.contacts.plants.length === 0) return closed;
  const laps = layLaps(party, closed, lapOf(party, closed, 0, lap.turn), 3);
  const held = keepFeet(party, laps, laps);
  const middle = pickFrames(
    rig,
    held,
    Float64Array.from({ length: last + 1 }, (_, i) => last + i),
  );
  const moved = moveBack(party, middle, closed);
  return sealEnd(party, moved, lapOf(party, moved, 0, lap.turn));
}

/** Lap of a motion: heading change read off the pelvis, unless given. */
export function lapOf(party: Party, motion: Motion, straightenDeg: number, turn?: number): Lap {
  const pelvis = pelvisOf(party.rig, party.map);
  const joint = pelvis >= 0 ? pelvis : travelJoint(party);
  const last = motion.frameCount - 1;
  const reader = new PoseReader(party.rig, motion);
  const place = (f: number): { at: [number, number]; r: number[] } => {
    const { r, p } = reader.at(f);
    return { at: [p[3 * joint]!, p[3 * joint + 2]!], r: [...r.subarray(4 * joint, 4 * joint + 4)] };
  };
  const a = place(0);
  const b = place(last);
  if (turn === undefined) {
    turn = yawBetween(b.r, 0, a.r, 0);
    if (Math.abs(turn) < (straightenDeg * Math.PI) / 180) turn = 0;
  }
  return { turn, from: a.at, to: b.at };
}

/** Displaces both ends towards each other. */
function shareSeam(party: Party, motion: Motion, lap: Lap, w: number): Motion {
  const { rig } = party;
  const n = rig.names.length;
  const last = motion.frameCount - 1;
  const turns = motion.turns.slice();
  const yaw = yawQuat(lap.turn);
  const back = yawQuat(-lap.turn);
  const over = Math.max(1, Math.min(Math.round(motion.fps / 30), last >> 1));
  const q = [0, 0, 0, 1];
  const p = [0, 0, 0, 1];
  const e = [0, 0, 0];
  const v0 = [0, 0, 0];
  const v1 = [0, 0, 0];
  const d = [0, 0, 0];
  for (let j = 0; j < n; j++) {
    const root = rig.parents[j]! < 0 && jointMoves(rig, motion, j);
    const at = (f: number): number => 4 * (f * n + j);
    // one-sided and of second order, a frame
    const velocity = (dst: number[], f: number, by: number, turn: number[] | undefined): void => {
      mulInvQuat(q, 0, motion.turns, at(f + by), motion.turns, at(f));
      logQuat(dst, 0, q, 0);
      mulInvQuat(q, 0, motion.turns, at(f + 2 * by), motion.turns, at(f));
      logQuat(d, 0, q, 0);
      for (let k = 0; k < 3; k++) dst[k] = (4 * dst[k]! - d[k]!) / (2 * by);
      if (turn) rotate3(dst, 0, turn, 0, dst, 0);
    };
    for (let k = 0; k < 4; k++) p[k] = motion.turns[at(0) + k]!;
    if (root) mulQuat(p, 0, yaw, 0, p, 0);
    mulInvQuat(q, 0, p, 0, motion.turns, at(last));
    logQuat(e, 0, q, 0);
    velocity(v0, 0, over, root ? yaw : undefined);
    velocity(v1, last, -over, undefined);
    if (Math.hypot(...e) < 1e-9 && Math.hypot(...v0.map((x, k) => x - v1[k]!)) < 1e-9) continue;
    for (let f = 0; f <= Math.min(w, last); f++) {
      // start: −e/2 and half the difference in velocity, seen from the start's heading
      const [h, g] = fadeOut(f / w);
      for (let k = 0; k < 3; k++) d[k] = -0.5 * e[k]! * h - 0.5 * (v0[k]! - v1[k]!) * w * g;
      if (root) rotate3(d, 0, back, 0, d, 0);
      expQuat(q, 0, d, 0);
      mulQuat(turns, at(f), q, 0, motion.turns, at(f));
      normalizeQuat(turns, at(f));
    }
    for (let i = 0; i <= Math.min(w, last); i++) {
      const [h, g] = fadeOut(i / w);
      for (let k = 0; k < 3; k++) d[k] = 0.5 * e[k]! * h - 0.5 * (v0[k]! - v1[k]!) * w * g;
      expQuat(q, 0, d, 0);
      mulQuat(turns, at(last - i), q, 0, motion.turns, at(last - i));
      normalizeQuat(turns, at(last - i));
    }
    alignSigns(turns, 4 * j, 4 * n, motion.frameCount);
  }
  const travel = travelJoint(party);
  const frameOf = parentTurns(party, motion, travel);
  const leg = measureBody(rig, party.map, party.pose, party.floor).leg || 0.8;
  const stays = Math.hypot(lap.to[0] - lap.from[0], lap.to[1] - lap.from[1]) < 0.15 * leg;
  // labels stay as they are: what shows at the seam is the performer's
  const rest = mapTracks(motion, {
    values: (values, width) => {
      const out = values.slice();
      const end = width * last;
      for (let k = 0; k < width; k++)
        spreadNumber(
          out,
          k,
          width,
          w,
          values[k]! - values[end + k]!,
          (values[width * over + k]! - values[k]! - values[end + k]! + values[end - width * over + k]!) / over,
        );
      return out;
    },
    labels: (values) => values,
  });
  return {
    ...motion,
    turns,
    places: motion.places.map(({ joint, values }) => ({
      joint,
      values:
        joint === travel
          ? spreadPlaces(values, w, over, yaw, back, frameOf, stays)
          : spreadPlaces(values, w, over, [0, 0, 0, 1], [0, 0, 0, 1], [0, 0, 0, 1], true),
    })),
    numbers: rest.numbers,
    scales: rest.scales,
  };
}

/** World turn of what carries the travel joint, in the first frame; it is taken to stand still. */
function parentTurns(party: Party, motion: Motion, joint: number): number[] {
  const above = party.rig.parents[joint]!;
  if (above < 0) return [0, 0, 0, 1];
  return [...new PoseReader(party.rig, motion).at(0).r.subarray(4 * above, 4 * above + 4)];
}

function spreadPlaces(
  values: Float32Array,
  w: number,
  over: number,
  yaw: number[],
  back: number[],
  carrier: number[],
  wholly: boolean,
): Float32Array {
  const frames = values.length / 3;
  const last = frames - 1;
  const inverse = [0, 0, 0, 1];
  invertQuat(inverse, 0, carrier, 0);
  const world = new Float64Array(values.length);
  for (let o = 0; o < values.length; o += 3) rotate3(world, o, carrier, 0, values, o);
  const at = (f: number, k: number): number => world[3 * f + k]!;
  // end, and start as a lap later: vertical difference always, over the ground only where the body stays in place
  const e = [0, 1, 2].map((k) => (k === 1 || wholly ? at(0, k) - at(last, k) : 0));
  const v0 = [0, 1, 2].map((k) => (4 * at(over, k) - 3 * at(0, k) - at(2 * over, k)) / (2 * over));
  rotate3(v0, 0, yaw, 0, v0, 0);
  const v1 = [0, 1, 2].map((k) => (3 * at(last, k) - 4 * at(last - over, k) + at(last - 2 * over, k)) / (2 * over));
  const d = [0, 0, 0];
  const moved = world.slice();
  for (let i = 0; i <= Math.min(w, last); i++) {
    const [h, g] = fadeOut(i / w);
    for (let k = 0; k < 3; k++) d[k] = -0.5 * e[k]! * h - 0.5 * (v0[k]! - v1[k]!) * w * g;
    rotate3(d, 0, back, 0, d, 0);
    for (let k = 0; k < 3; k++) moved[3 * i + k] = moved[3 * i + k]! + d[k]!;
    for (let k = 0; k < 3; k++) {
      const o = 3 * (last - i) + k;
      moved[o] = moved[o]! + 0.5 * e[k]! * h - 0.5 * (v0[k]! - v1[k]!) * w * g;
    }
  }
  const out = new Float32Array(values.length);
  for (let o = 0; o < out.length; o += 3) rotate3(out, o, inverse, 0, moved, o);
  return out;
}

function spreadNumber(values: Float32Array, offset: number, stride: number, w: number, e: number, v: number): void {
  const last = values.length / stride - 1;
  for (let i = 0; i <= Math.min(w, last); i++) {
    const [h, g] = fadeOut(i / w);
    const a = offset + stride * i;
    const b = offset + stride * (last - i);
    values[a] = values[a]! - 0.5 * e * h - 0.5 * v * w * g;
    values[b] = values[b]! + 0.5 * e * h - 0.5 * v * w * g;
  }
}

/** Lays laps end to end, each moved by what the laps before it did; seam frames stand once. */
export function layLaps(party: Party, motion: Motion, lap: Lap, times: number): Motion {
  const n = party.rig.names.length;
  const last = motion.frameCount - 1;
  const frames = last * times + 1;
  const turns = new Float32Array(4 * n * frames);
  const movers = lapMovers(party, motion);
  const ways = readWays(party, motion, movers, lap.from);
  const places = new Map(
    [...new Set([...motion.places.map((t) => t.joint), ...movers])].map((j) => [j, new Float32Array(3 * frames)]),
  );
  for (let i = 0; i < times; i++) {
    // the last frame of a lap is the first of the next
    const count = i === times - 1 ? last + 1 : last;
    turns.set(motion.turns.subarray(0, 4 * n * count), 4 * n * i * last);
    for (const { joint, values } of motion.places) places.get(joint)!.set(values.subarray(0, 3 * count), 3 * i * last);
    for (const way of ways)
      moveLap(
        way,
        yawQuat(lap.turn * i),
        lapOrigin(lap, i),
        count,
        turns.subarray(4 * n * i * last),
        n,
        places.get(way.joint)!.subarray(3 * i * last),
      );
  }
  alignTurns(turns, n, frames);
  const again = Float64Array.from({ length: frames }, (_, g) => (g === frames - 1 ? last : g % last));
  return {
    ...pickTracks(motion, again),
    fps: motion.fps,
    frameCount: frames,
    turns,
    places: [...places].map(([joint, values]) => ({ joint, values })),
  };
}

/** The joints that take a lap's way: the topmost one above the hips that moves, and the roots of whatever stands beside. */
function lapMovers({ rig, map }: Party, motion: Motion): number[] {
  const carrier = travelJoint({ rig, map });
  let root = carrier;
  while (rig.parents[root]! >= 0) root = rig.parents[root]!;
  const others = [...rig.parents.keys()].filter((j) => rig.parents[j]! < 0 && j !== root);
  return [topMover(rig, motion, carrier), ...others.filter((j) => jointMoves(rig, motion, j))];
}

/** How a joint goes through a lap: F turns and places in the world, from where the lap begins, and those of what carries it. */
interface Way {
  readonly joint: number;
  readonly turns: Float64Array;
  readonly places: Float64Array;
  readonly carrier: { readonly turns: Float64Array; readonly places: Float64Array } | undefined;
}

function readWays({ rig }: Party, motion: Motion, joints: readonly number[], from: readonly [number, number]): Way[] {
  const frames = motion.frameCount;
  const reader = new ChainReader(rig, motion, joints);
  const ways = joints.map((joint) => {
    const room = () => ({ turns: new Float64Array(4 * frames), places: new Float64Array(3 * frames) });
    return { joint, ...room(), carrier: rig.parents[joint]! < 0 ? undefined : room() };
  });
  for (let f = 0; f < frames; f++) {
    const { r, p } = reader.at(f);
    for (const { joint, turns, places, carrier } of ways) {
      copyQuat(turns, 4 * f, r, 4 * joint);
      set3(places, 3 * f, p[3 * joint]! - from[0], p[3 * joint + 1]!, p[3 * joint + 2]! - from[1]);
      if (!carrier) continue;
      const above = rig.parents[joint]!;
      copyQuat(carrier.turns, 4 * f, r, 4 * above);
      copy3(carrier.places, 3 * f, p, 3 * above);
    }
  }
  return ways;
}

/** Writes a lap's way turned about the upright and brought to `to` (x, z), rigidly, in the world; what carries it stays. */
function moveLap(
  { joint, turns, places, carrier }: Way,
  yaw: number[],
  to: readonly [number, number],
  count: number,
  out: Float32Array,
  n: number,
  values: Float32Array,
): void {
  const v = [0, 0, 0];
  const q = [0, 0, 0, 1];
  const back = [0, 0, 0, 1];
  for (let f = 0; f < count; f++) {
    mulQuat(q, 0, yaw, 0, turns, 4 * f);
    rotate3(v, 0, yaw, 0, places, 3 * f);
    v[0] = v[0]! + to[0];
    v[2] = v[2]! + to[1];
    if (carrier) {
      invertQuat(back, 0, carrier.turns, 4 * f);
      mulQuat(q, 0, back, 0, q, 0);
      sub3(v, 0, v, 0, carrier.places, 3 * f);
      rotate3(v, 0, back, 0, v, 0);
    }
    normalizeQuat(q, 0);
    out.set(q, 4 * (f * n + joint));
    values.set(v, 3 * f);
  }
}

/** Where the travel joint stands at the start of lap i. */
function lapOrigin(lap: Lap, i: number): [number, number] {
  let [x, z] = lap.from;
  const way = [lap.to[0] - lap.from[0], 0, lap.to[1] - lap.from[1]];
  for (let k = 0; k < i; k++) {
    const v = [0, 0, 0];
    rotate3(v, 0, yawQuat(lap.turn * k), 0, way, 0);
    x += v[0]!;
    z += v[2]!;
  }
  return [x, z];
}

/** Brings a later lap back to where the first one began. */
function moveBack(party: Party, motion: Motion, like: Motion): Motion {
  const joint = pelvisOf(party.rig, party.map) >= 0 ? pelvisOf(party.rig, party.map) : travelJoint(party);
  const a = new PoseReader(party.rig, like).at(0);
  const b = new PoseReader(party.rig, motion).at(0);
  const turn = yawBetween(a.r, 4 * joint, b.r, 4 * joint);
  const n = party.rig.names.length;
  const turns = motion.turns.slice();
  const places = new Map(motion.places.map((t) => [t.joint, t.values.slice()]));
  const to = [a.p[3 * joint]!, a.p[3 * joint + 2]!] as const;
  for (const way of readWays(party, motion, lapMovers(party, motion), [b.p[3 * joint]!, b.p[3 * joint + 2]!])) {
    const values = new Float32Array(3 * motion.frameCount);
    moveLap(way, yawQuat(turn), to, motion.frameCount, turns, n, values);
    places.set(way.joint, values);
  }
  alignTurns(turns, n, motion.frameCount);
  return { ...motion, turns, places: [...places].map(([joint, values]) => ({ joint, values })) };
}

/** The last frame becomes exactly the first one, a lap later. */
function sealEnd(party: Party, motion: Motion, lap: Lap): Motion {
  const n = party.rig.names.length;
  const last = motion.frameCount - 1;
  const next = layLaps(party, motion, lap, 2);
  const turns = motion.turns.slice();
  turns.set(next.turns.subarray(4 * n * (last + 1) - 4 * n, 4 * n * (last + 1)), 4 * n * last);
  // frame `last` of the laid laps is the second lap's first one
  alignTurns(turns, n, motion.frameCount);
  return {
    ...motion,
    turns,
    places: next.places.map(({ joint, values }) => ({ joint, values: values.slice(0, 3 * (last + 1)) })),
  };
}
