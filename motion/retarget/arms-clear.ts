import { type Capsule, type CapsulesByName, capsulesByName } from '../body/capsules';
import { jointOf, SIDES, type Side } from '../bodymap/slots';
import { invMul64, mul64, mulInv64, norm, normalize64, rotate64, storeNear } from '../math/fast';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import { restPose } from '../rig/rig';
import { depthOf, nearest, sameBody, UNSEEN } from './crossing';
import { addEased } from './envelope';
import type { RetargetPlan } from './plan';

/** An arm is on its way aside for so long before it would run into anything, and after, seconds. */
const EASE_S = 0.1;
/** An arm is never turned farther aside, radians. */
const MOST_SWING = 0.6;
/** A turned arm meets what it is kept off in another place: looked at again so often. */
const ROUNDS = 6;
/** Share of the shoulder's turn that the forearm follows: the rest is taken back at the elbow, for its direction's sake. */
const FORE = 0.7;

/**
 * Keeps forearms out of the body they hang on: an arm that runs deeper into trunk, thigh or head than the source's does, and
 * than it does as the body stands, is turned aside at the shoulder, by the smallest turn that brings the deepest place out. The forearm
 * follows by a share of it, the hand keeps its turn in the world; it eases in and out. What hands have to reach comes after it
 * and goes before it. Method: capsules of the skin's thickness, as measureCrossings has them; our own. Pure.
 * @param source the motion that was carried over, frame by frame the one that `moved` came from
 */
export function clearArms(plan: RetargetPlan, source: Motion, moved: Motion): Motion {
  if (sameBody(plan)) return moved;
  const [own, model] = [capsulesByName(plan.target), capsulesByName(plan.source)];
  const arms = SIDES.flatMap((side) => armOf(plan, side, own, model));
  if (arms.length === 0) return moved;
  const watched = watch(plan, source, moved, arms);
  const ease = Math.max(2, Math.round(EASE_S * moved.fps));
  let frames = Int32Array.from({ length: moved.frameCount }, (_, f) => f);
  let any = false;
  for (let round = 0; round < ROUNDS; round++) {
    const wanted = watched.map((w) => aside(w, frames));
    if (wanted.every((w) => w === undefined)) break;
    any = true;
    watched.forEach((w, i) => {
      const more = wanted[i];
      if (more) addEased(w.turns, more, ease);
    });
    frames = frames.filter((f) => watched.some((w) => turnedAt(w.turns, f)));
  }
  return any ? turned(plan, moved, watched, frames) : moved;
}

const turnedAt = (t: Float64Array, f: number): boolean => t[3 * f] !== 0 || t[3 * f + 1] !== 0 || t[3 * f + 2] !== 0;

interface Pair {
  readonly fore: Capsule;
  readonly other: Capsule;
}

interface Arm {
  readonly upper: number;
  readonly fore: number;
  readonly hand: number;
  /** What the forearm is kept out of, with the same parts of the source where it has them. */
  readonly pairs: readonly {
    readonly own: Pair;
    readonly model: Pair | undefined;
    /** How deep both lie in each other as the body stands, metres. */
    readonly stands: number;
  }[];
}

function armOf(plan: RetargetPlan, side: Side, own: CapsulesByName, model: CapsulesByName): Arm[] {
  const upper = jointOf(plan.target.map, `upperArm${side}`);
  const capsule = own.get(`forearm${side}`);
  if (upper < 0 || !capsule) return [];
  const theirs = model.get(`forearm${side}`);
  const rest = (plan.target.pose ?? restPose(plan.target.rig)).p;
  const pairs = ['trunk', `thigh${side}`, 'head'].flatMap((name) => {
    const other = own.get(name);
    const like = model.get(name);
    if (!other) return [];
    const pair = { fore: capsule, other };
    return [
      { own: pair, model: theirs && like && { fore: theirs, other: like }, stands: depthOf(capsule, other, rest) },
    ];
  });
  return pairs.length > 0 ? [{ upper, fore: capsule.from, hand: capsule.to, pairs }] : [];
}

/** An arm in every frame, so that turns can be tried without posing the whole body anew. */
interface Watched {
  readonly arm: Arm;
  /** Per frame: shoulder, elbow, wrist, then both ends of what it is kept out of, one after another; world, metres. */
  readonly places: Float64Array;
  readonly stride: number;
  /** Per frame: the turn of what carries the arm. */
  readonly carrier: Float64Array;
  /** How deep each pair may run into each other in a frame, as the source does. */
  readonly allowed: (frame: number, pair: number) => number;
  /** Turns so far: 3 F rotation vectors in the frame of what carries the arm. */
  readonly turns: Float64Array;
}

function watch(plan: RetargetPlan, source: Motion, moved: Motion, arms: readonly Arm[]): Watched[] {
  const ends = (which: 'own' | 'model'): number[] =>
    arms.flatMap((a) =>
      a.pairs.flatMap((p) => {
        const pair = p[which];
        return pair ? [pair.fore, pair.other].flatMap((capsule) => [capsule.from, capsule.to]) : [];
      }),
    );
  const before = new ChainReader(plan.source.rig, source, ends('model'));
  let read = -1;
  const list = arms.map((arm): Watched => {
    const stride = 9 + 6 * arm.pairs.length;
    const known = new Float64Array(arm.pairs.length * moved.frameCount).fill(-1);
    return {
      arm,
      stride,
      places: new Float64Array(stride * moved.frameCount),
      carrier: new Float64Array(4 * moved.frameCount),
      turns: new Float64Array(3 * moved.frameCount),
      allowed: (f, pair) => {
        const { model, stands } = arm.pairs[pair]!;
        if (!model) return stands;
        const o = arm.pairs.length * f + pair;
        if (known[o]! >= 0) return known[o]!;
        if (read !== f) before.at(f);
        read = f;
        known[o] = Math.max(stands, depthOf(model.fore, model.other, before.pose.p));
        return known[o]!;
      },
    };
  });
  const reader = new ChainReader(plan.target.rig, moved, ends('own'));
  for (let f = 0; f < moved.frameCount; f++) {
    const { r, p } = reader.at(f);
    for (let i = 0; i < list.length; i++) {
      const { arm, places, stride, carrier } = list[i]!;
      const above = plan.target.rig.parents[arm.upper]!;
      for (let k = 0; k < 4; k++) carrier[4 * f + k] = above >= 0 ? r[4 * above + k]! : NO_TURN[k]!;
      let o = stride * f;
      o = put(places, o, p, arm.upper);
      o = put(places, o, p, arm.fore);
      o = put(places, o, p, arm.hand);
      for (let k = 0; k < arm.pairs.length; k++) {
        const { other } = arm.pairs[k]!.own;
        o = put(places, o, p, other.from);
        o = put(places, o, p, other.to);
      }
    }
  }
  return list;
}

function put(places: Float64Array, o: number, p: Float64Array, joint: number): number {
  places[o] = p[3 * joint]!;
  places[o + 1] = p[3 * joint + 1]!;
  places[o + 2] = p[3 * joint + 2]!;
  return o + 3;
}

/** Turns that an arm lacks, per frame, like those it has; none where it is clear. */
function aside(w: Watched, frames: Int32Array): Float64Array | undefined {
  const { arm, stride, carrier, turns } = w;
  const out = new Float64Array(turns.length);
  const p = new Float64Array(stride);
  const gap = new Float64Array(4);
  const turn = new Float64Array(3);
  const back = new Float64Array(4);
  let any = false;
  for (let n = 0; n < frames.length; n++) {
    const f = frames[n]!;
    for (let i = 0; i < stride; i++) p[i] = w.places[stride * f + i]!;
    if (turnedAt(turns, f)) turnArm(p, carrier, turns, f);
    let worst = 0;
    for (let i = 0; i < arm.pairs.length; i++) {
      const { fore, other } = arm.pairs[i]!.own;
      const d = nearest(gap, p, 3, 6, 9 + 6 * i, 12 + 6 * i);
      const depth = fore.radius + other.radius - UNSEEN - d;
      if (depth <= worst || d < 1e-6) continue;
      const need = depth - w.allowed(f, i);
      if (need <= worst) continue;
      worst = need;
      // from the shoulder to the place on the forearm that has to come out, and which way it does
      const along = FORE * gap[3]!;
      const x = p[3]! - p[0]! + along * (p[6]! - p[3]!);
      const y = p[4]! - p[1]! + along * (p[7]! - p[4]!);
      const z = p[5]! - p[2]! + along * (p[8]! - p[5]!);
      const share = need / d / Math.max(1e-6, x * x + y * y + z * z);
      turn[0] = share * (y * gap[2]! - z * gap[1]!);
      turn[1] = share * (z * gap[0]! - x * gap[2]!);
      turn[2] = share * (x * gap[1]! - y * gap[0]!);
      for (let k = 0; k < 4; k++) back[k] = carrier[4 * f + k]! * (k < 3 ? -1 : 1);
      rotate64(out, 3 * f, back, 0, turn, 0);
      any = true;
    }
  }
  return any ? out : undefined;
}

const whole = new Float64Array(4);
const part = new Float64Array(4);
const bone = new Float64Array(6);

/** Elbow and wrist where an arm's turn in a frame brings them. */
function turnArm(p: Float64Array, carrier: Float64Array, turns: Float64Array, f: number): void {
  turnsOf(carrier, turns, f);
  for (let k = 0; k < 6; k++) bone[k] = p[3 + k]! - p[k]!;
  rotate64(bone, 0, whole, 0, bone, 0);
  rotate64(bone, 3, part, 0, bone, 3);
  for (let k = 0; k < 3; k++) p[3 + k] = p[k]! + bone[k]!;
  for (let k = 0; k < 3; k++) p[6 + k] = p[3 + k]! + bone[3 + k]!;
}

/** An arm's turn in a frame, in the world, and the forearm's share of it; into `whole` and `part`. */
function turnsOf(carrier: Float64Array, turns: Float64Array, f: number): void {
  const x = turns[3 * f]!;
  const y = turns[3 * f + 1]!;
  const z = turns[3 * f + 2]!;
  const size = Math.max(1e-12, norm(x, y, z));
  const angle = Math.min(MOST_SWING, size);
  turnOf(whole, carrier, 4 * f, x / size, y / size, z / size, angle);
  turnOf(part, carrier, 4 * f, x / size, y / size, z / size, FORE * angle);
}

/** A turn about an axis told in a frame that is turned itself, as a turn in the world. */
function turnOf(
  out: Float64Array,
  frame: Float64Array,
  o: number,
  x: number,
  y: number,
  z: number,
  angle: number,
): void {
  const s = Math.sin(angle / 2);
  out[0] = s * x;
  out[1] = s * y;
  out[2] = s * z;
  out[3] = Math.cos(angle / 2);
  mul64(out, 0, frame, o, out, 0);
  mulInv64(out, 0, out, 0, frame, o);
}

/** The motion with arms turned at the shoulder; forearms follow by a share of it, hands keep their turn in the world. */
function turned(plan: RetargetPlan, motion: Motion, watched: readonly Watched[], frames: Int32Array): Motion {
  const { parents, names } = plan.target.rig;
  const rotations = motion.turns.slice();
  const reader = new ChainReader(
    plan.target.rig,
    motion,
    watched.map((w) => w.arm.hand),
  );
  const own = new Float64Array(4);
  for (let n = 0; n < frames.length; n++) {
    const f = frames[n]!;
    const { r } = reader.at(f);
    const store = (joint: number): void => {
      normalize64(own, 0);
      // keeps the sign of what stood there, which goes on from frame to frame
      const o = 4 * (f * names.length + joint);
      storeNear(rotations, o, own, 0, o);
    };
    for (let i = 0; i < watched.length; i++) {
      const { arm, carrier, turns } = watched[i]!;
      if (!turnedAt(turns, f)) continue;
      const { upper, fore, hand } = arm;
      turnsOf(carrier, turns, f);
      turnMore(own, r, upper, whole, parents[upper]!, NO_TURN);
      store(upper);
      turnMore(own, r, fore, part, parents[fore]!, whole);
      store(fore);
      turnMore(own, r, hand, NO_TURN, parents[hand]!, part);
      store(hand);
    }
  }
  return { ...motion, turns: rotations };
}
const NO_TURN = Float64Array.of(0, 0, 0, 1);

/** A joint's own turn where it is turned by so much more in the world, and what carries it by so much. */
function turnMore(
  out: Float64Array,
  r: Float64Array,
  joint: number,
  more: Float64Array,
  parent: number,
  parentMore: Float64Array,
): void {
  mul64(out, 0, more, 0, r, 4 * joint);
  if (parent < 0) return;
  mul64(above, 0, parentMore, 0, r, 4 * parent);
  invMul64(out, 0, above, 0, out, 0);
}
const above = new Float64Array(4);
