import { backward, factor, forward } from '../math/cholesky';
import { invMulQuat, mulQuat, normalizeQuat, rotate3, slerp } from '../math/quat';
import { expQuat } from '../math/rotation-vector';
import type { Limb } from './body-tree';
import type { Course } from './limb-course';
import type { Markers } from './markers';
import { Moves } from './moves';
import { stands } from './segments';

/** Limbs of a body, each of which keeps its joint on its parent in every frame. */
export interface FittedBody {
  readonly limbs: readonly Limb[];
  readonly courses: readonly Course[];
}

/** Frames of which the lengths of the body are learnt. */
const LEARNT_FROM = 80;
const ROUNDS = 4;
/** Steps of a frame's pose: rough ones while lengths are learnt, and those of the result. */
const STEPS = 4;
/** A step that turns nothing further than this, radians, was the last one. */
const STILL = 0.002;
/** A marker so far from its place counts for a quarter, metres: skin shifts, and some tracks are another marker's. */
const STRAY = 0.02;
/**
 * What a limb's turn holds to where it was expected, as the square of a lever, square metres: hardly anything, and somewhat more
 * where too little is seen of it. As much as a marker, and what is seen would be drawn away from where it is.
 */
const HOLD = 1e-6;
const HOLD_UNSEEN = 1e-5;
/** How little a loose joint gives way, in the measure below. */
const FIRM = (0.001 / 0.03) ** 2;
/** How sure a joint's and a marker's places are beforehand, against 1 mm of noise in every frame. */
const JOINT_SURE = (0.001 / 0.0015) ** 2;
const MARKER_SURE = (0.001 / 0.002) ** 2;
/**
 * One body for a whole take: places of joints and markers within their limbs, and the pose of every frame, so that all markers
 * lie nearest to where they were seen. Gauss-Newton over both together; poses are eliminated frame by frame (Schur complement),
 * strays count less (Geman and McClure).
 * Source: Triggs, McLauchlan, Hartley and Fitzgibbon 1999 (Bundle adjustment, a modern synthesis), applied to limbs.
 * @param courses by limb, whole
 * @param loose limbs whose joint gives way: a shoulder goes along with a collar bone that carries no markers
 * @param known whether the body is right already, so that poses alone are looked for
 */
export function fitBody(
  limbs: readonly Limb[],
  courses: readonly Course[],
  markers: Markers,
  loose: readonly number[],
  known = false,
): FittedBody {
  const fit = new Fit(limbs, markers, loose);
  const frames = markers.frameCount;
  if (!known) learnBody(fit, courses, frames);
  const out = limbs.map((): Course => ({ turns: new Float64Array(4 * frames), places: new Float64Array(3 * frames) }));
  for (let f = 0; f < frames; f++) {
    const pose = fit.poseAt(courses, f);
    for (let s = 0; s < STEPS; s++) if (fit.settle(pose) < STILL) break;
    fit.write(pose, f, out);
  }
  bridgeGaps(fit, limbs, out, frames);
  return { limbs: fit.limbs(), courses: out };
}

function learnBody(fit: Fit, courses: readonly Course[], frames: number): void {
  const step = Math.max(1, Math.floor(frames / LEARNT_FROM));
  const learnt: Pose[] = [];
  for (let f = step >> 1; f < frames; f += step) learnt.push(fit.poseAt(courses, f));
  for (let round = 0; round < ROUNDS; round++) {
    for (const pose of learnt) for (let s = 0; s < (round === 0 ? STEPS : 1); s++) fit.settle(pose);
    fit.learn(learnt);
  }
}

/**
 * Frames in which too little of a limb was seen, once more: there it is expected to turn from where it was before, within the limb
 * that it hangs on, to where it is after, and holds to that where no marker tells. By itself each frame would choose anew.
 */
function bridgeGaps(fit: Fit, limbs: readonly Limb[], out: readonly Course[], frames: number): void {
  const expected = out.map(({ turns }) => turns.slice());
  const unseen = limbs.map(() => new Uint8Array(frames));
  const [before, after, between] = [new Float64Array(4), new Float64Array(4), new Float64Array(4)];
  limbs.forEach((limb, i) => {
    if (limb.parent < 0) return;
    const [own, above] = [out[i]!.turns, out[limb.parent]!.turns];
    for (let f = 0; f < frames; f++) {
      if (stands(limb, f)) continue;
      const first = f;
      while (f + 1 < frames && !stands(limb, f + 1)) f++;
      const [a, b] = [first - 1, f + 1];
      if (a < 0 || b >= frames) continue;
      invMulQuat(before, 0, above, 4 * a, own, 4 * a);
      invMulQuat(after, 0, above, 4 * b, own, 4 * b);
      for (let g = first; g <= f; g++) {
        slerp(between, 0, before, 0, after, 0, (g - a) / (b - a));
        mulQuat(expected[i]!, 4 * g, above, 4 * g, between, 0);
        unseen[i]![g] = 1;
      }
    }
  });
  const courses = out.map(({ places }, i) => ({ places, turns: expected[i]! }));
  for (let f = 0; f < frames; f++) {
    if (!unseen.some((u) => u[f])) continue;
    const pose = fit.poseAt(
      courses,
      f,
      unseen.map((u) => u[f] === 1),
    );
    for (let s = 0; s < STEPS; s++) if (fit.settle(pose) < STILL) break;
    fit.write(pose, f, out);
  }
}

/** The body in one frame: where limb 0 is, and how each limb is turned in the world. */
interface Pose {
  readonly frame: number;
  readonly place: Float64Array;
  readonly turns: Float64Array;
  readonly start: Float64Array;
  /** By limb: how firmly it holds to where it starts. */
  readonly holds: Float64Array;
  /** By loose limb: how far its joint has given way. */
  readonly slips: Float64Array;
}

class Fit {
  private readonly n: number;
  /** By limb: itself and what it hangs on, from the first one on. */
  private readonly chains: readonly (readonly number[])[];
  /** By limb: its joint from its parent's joint, in the parent's frame. */
  private readonly joints: Float64Array;
  private readonly jointsBefore: Float64Array;
  private readonly worn: readonly { readonly limb: number; readonly marker: number }[];
  /** By marker that is worn: its place from the limb's joint, in the limb's frame. */
  private readonly spots: Float64Array;
  private readonly spotsBefore: Float64Array;
  private readonly origins: Float64Array;
  private readonly at = new Float64Array(3);
  private readonly off = new Float64Array(3);
  private readonly by = new Float64Array(3);
  /** What a step solves: the normal matrix of a pose, and its right side. */
  private readonly normal: Float64Array;
  private readonly right: Float64Array;
  private readonly moves: Moves;
  private readonly bodily: Moves;
  /**
   * Numbers of a pose, and of the body. Of a pose first the turns, limbs before what carries them, then slips, then the place:
   * so a limb has nothing to do with any number before its own, and half of every sum is left out.
   */
  private readonly poseSize: number;
  private readonly bodySize: number;

  constructor(
    private readonly given: readonly Limb[],
    private readonly markers: Markers,
    private readonly loose: readonly number[],
  ) {
    this.n = given.length;
    const chains: number[][] = [];
    for (const [i, l] of given.entries()) chains.push([...(l.parent < 0 ? [] : chains[l.parent]!), i]);
    this.chains = chains;
    const joints = new Float64Array(3 * this.n);
    given.forEach(({ parent, joint }, i) => {
      if (parent >= 0) for (let k = 0; k < 3; k++) joints[3 * i + k] = joint[k]! - given[parent]!.own[k]!;
    });
    this.joints = joints;
    this.jointsBefore = joints.slice();
    this.worn = given.flatMap((l, limb) => l.markers.map((marker) => ({ limb, marker })));
    this.spots = Float64Array.from(given.flatMap((l) => Array.from(l.shape, (x, i) => x - l.own[i % 3]!)));
    this.spotsBefore = this.spots.slice();
    this.origins = new Float64Array(3 * this.n);
    const longest = Math.max(...chains.map((c) => c.length));
    this.moves = new Moves(6 + 3 * longest);
    this.bodily = new Moves(3 + 3 * longest);
    this.poseSize = 3 + 3 * this.n + 3 * loose.length;
    this.normal = new Float64Array(this.poseSize ** 2);
    this.right = new Float64Array(this.poseSize);
    this.bodySize = 3 * this.n + 3 * this.worn.length;
  }

  /** Where a limb's turn stands among the numbers of a pose. */
  private readonly turnAt = (limb: number): number => 3 * (this.n - 1 - limb);

  /** @param unseen by limb: whether too little of it is seen */
  poseAt(courses: readonly Course[], frame: number, unseen: readonly boolean[] = []): Pose {
    const turns = new Float64Array(4 * this.n);
    courses.forEach((c, i) => turns.set(c.turns.subarray(4 * frame, 4 * frame + 4), 4 * i));
    const place = new Float64Array(3);
    rotate3(place, 0, turns, 0, this.given[0]!.own, 0);
    for (let k = 0; k < 3; k++) place[k]! += courses[0]!.places[3 * frame + k]!;
    const holds = Float64Array.from(this.given, (_, i) => (unseen[i] ? HOLD_UNSEEN : HOLD));
    return { frame, place, turns, start: turns.slice(), holds, slips: new Float64Array(3 * this.loose.length) };
  }

  /** Where all joints are. */
  private lay({ place, turns, slips }: Pose): void {
    this.origins.set(place);
    for (let i = 1; i < this.n; i++) {
      const parent = this.given[i]!.parent;
      rotate3(this.origins, 3 * i, turns, 4 * parent, this.joints, 3 * i);
      const slip = this.loose.indexOf(i);
      for (let k = 0; k < 3; k++)
        this.origins[3 * i + k]! += this.origins[3 * parent + k]! + (slip < 0 ? 0 : slips[3 * slip + k]!);
    }
  }

  /**
   * What the markers of a frame say: `visit` is given each one that was seen, its weight, and what it is off; by how much it moves
   * with each number of the pose stands in `moves`.
   */
  private each(pose: Pose, visit: (worn: number, weight: number, off: Float64Array) => void): void {
    this.lay(pose);
    const { places, labels } = this.markers;
    const m = labels.length;
    const { at, off, origins, moves } = this;
    for (let w = 0; w < this.worn.length; w++) {
      const { limb, marker } = this.worn[w]!;
      const o = 3 * (pose.frame * m + marker);
      if (Number.isNaN(places[o]!)) continue;
      rotate3(at, 0, pose.turns, 4 * limb, this.spots, 3 * w);
      for (let k = 0; k < 3; k++) off[k] = places[o + k]! - at[k]! - origins[3 * limb + k]!;
      const chain = this.chains[limb]!;
      moves.begin();
      const straight = (o: number): void => {
        for (let k = 0; k < 3; k++) moves.add(o + k, k === 0 ? 1 : 0, k === 1 ? 1 : 0, k === 2 ? 1 : 0);
      };
      for (let c = chain.length - 1; c >= 0; c--) {
        const i = chain[c]!;
        const next = chain[c + 1];
        const x = next === undefined ? at[0]! : origins[3 * next]! - origins[3 * i]!;
        const y = next === undefined ? at[1]! : origins[3 * next + 1]! - origins[3 * i + 1]!;
        const z = next === undefined ? at[2]! : origins[3 * next + 2]! - origins[3 * i + 2]!;
        // a turn about an axis moves the lever's end by axis × lever
        const o = this.turnAt(i);
        moves.add(o, 0, -z, y);
        moves.add(o + 1, z, 0, -x);
        moves.add(o + 2, -y, x, 0);
      }
      for (let l = 0; l < this.loose.length; l++) if (chain.includes(this.loose[l]!)) straight(3 * this.n + 3 * l);
      straight(this.poseSize - 3);
      const far = (off[0]! ** 2 + off[1]! ** 2 + off[2]! ** 2) / STRAY ** 2;
      visit(w, 1 / (1 + far) ** 2, off);
    }
  }

  /** One step of a pose towards its markers. @returns how far anything turned, radians */
  settle(pose: Pose): number {
    const size = this.poseSize;
    const { normal: a, right: b } = this;
    a.fill(0);
    b.fill(0);
    this.each(pose, (_, weight, off) => {
      this.moves.square(a, size, weight);
      this.moves.towards(b, weight, off);
    });
    this.hold(pose, a, b);
    if (!factor(a, size)) return 0;
    forward(a, size, b);
    backward(a, size, b);
    return this.move(pose, b);
  }

  /** Turns that no marker tells stay as they were. */
  private hold({ turns, start, slips, holds }: Pose, a: Float64Array, b: Float64Array): void {
    const size = this.poseSize;
    for (let c = size - 3; c < size; c++) a[c * size + c]! += HOLD;
    slips.forEach((x, i) => {
      const c = 3 * this.n + i;
      a[c * size + c]! += FIRM;
      b[c]! -= FIRM * x;
    });
    const between = new Float64Array(4);
    for (let i = 0; i < this.n; i++) {
      const back = [-turns[4 * i]!, -turns[4 * i + 1]!, -turns[4 * i + 2]!, turns[4 * i + 3]!];
      mulQuat(between, 0, start, 4 * i, back, 0);
      const s = between[3]! < 0 ? -2 : 2;
      for (let k = 0; k < 3; k++) {
        const c = this.turnAt(i) + k;
        a[c * size + c]! += holds[i]!;
        b[c]! += holds[i]! * s * between[k]!;
      }
    }
  }

  private move({ place, turns, slips }: Pose, by: Float64Array): number {
    let most = 0;
    const turn = new Float64Array(4);
    for (let k = 0; k < 3; k++) place[k]! += by[this.poseSize - 3 + k]!;
    for (let i = 0; i < slips.length; i++) slips[i]! += by[3 * this.n + i]!;
    for (let i = 0; i < this.n; i++) {
      const o = this.turnAt(i);
      const angle = Math.hypot(by[o]!, by[o + 1]!, by[o + 2]!);
      most = Math.max(most, angle);
      const least = angle > 1 ? 1 / angle : 1;
      for (let k = 0; k < 3; k++) by[o + k]! *= least;
      expQuat(turn, 0, by, o);
      mulQuat(turns, 4 * i, turn, 0, turns, 4 * i);
      normalizeQuat(turns, 4 * i);
    }
    return most;
  }

  /** By how much a marker moves with each number of the body: the joints of its chain, and its own spot. */
  private bodyMoves(w: number, turns: Float64Array): void {
    const { limb } = this.worn[w]!;
    const { bodily, by } = this;
    const add = (at: number, frame: number): void => {
      for (let k = 0; k < 3; k++) {
        rotate3(by, 0, turns, 4 * frame, UNITS, 3 * k);
        bodily.add(at + k, by[0]!, by[1]!, by[2]!);
      }
    };
    bodily.begin();
    for (const i of this.chains[limb]!) if (i > 0) add(3 * i, this.given[i]!.parent);
    add(3 * this.n + 3 * w, limb);
  }

  /** One step of the body's own numbers, with all poses free to follow. */
  learn(poses: readonly Pose[]): void {
    const [p, s] = [this.poseSize, this.bodySize];
    const normal = new Float64Array(s * s);
    const right = new Float64Array(s);
    const own = new Float64Array(p * p);
    const ownRight = new Float64Array(p);
    // by number of the body, what it shares with those of the pose
    const shared = new Float64Array(s * p);
    // the first of them: a body's number moves nothing that comes before it
    const begins = new Int32Array(s);
    const kept: { factor: Float64Array; shared: Float64Array; right: Float64Array; pose: Pose }[] = [];
    for (const pose of poses) {
      own.fill(0);
      ownRight.fill(0);
      shared.fill(0);
      this.each(pose, (w, weight, off) => {
        this.bodyMoves(w, pose.turns);
        this.moves.square(own, p, weight);
        this.moves.towards(ownRight, weight, off);
        this.bodily.square(normal, s, weight);
        this.bodily.towards(right, weight, off);
        this.bodily.times(this.moves, shared, p, weight);
      });
      this.hold(pose, own, ownRight);
      if (!factor(own, p)) continue;
      // S −= Wᵀ·V, with V = the pose's own inverse times W
      const used: number[] = [];
      for (let i = 0; i < s; i++) {
        begins[i] = shared.subarray(i * p, (i + 1) * p).findIndex((x) => x !== 0);
        if (begins[i]! < 0) continue;
        forward(own, p, shared, i * p, begins[i]!);
        used.push(i);
      }
      forward(own, p, ownRight);
      for (const i of used) {
        for (let k = begins[i]!; k < p; k++) right[i]! -= shared[i * p + k]! * ownRight[k]!;
        for (const j of used) {
          if (j > i) break;
          const a = i * p;
          const b = j * p;
          let sum = 0;
          let other = 0;
          let k = Math.max(begins[i]!, begins[j]!);
          for (; k + 1 < p; k += 2) {
            sum += shared[a + k]! * shared[b + k]!;
            other += shared[a + k + 1]! * shared[b + k + 1]!;
          }
          if (k < p) sum += shared[a + k]! * shared[b + k]!;
          normal[i * s + j]! -= sum + other;
        }
      }
      kept.push({ factor: own.slice(), shared: shared.slice(), right: ownRight.slice(), pose });
    }
    this.expect(normal, right);
    if (!factor(normal, s)) return;
    forward(normal, s, right);
    backward(normal, s, right);
    for (const { factor: l, shared: w, right: r, pose } of kept) {
      for (let i = 0; i < s; i++) {
        const by = right[i]!;
        if (by !== 0) for (let k = 0; k < p; k++) r[k]! -= by * w[i * p + k]!;
      }
      backward(l, p, r);
      this.move(pose, r);
    }
    for (let i = 0; i < 3 * this.n; i++) this.joints[i]! += right[i]!;
    for (let i = 0; i < this.spots.length; i++) this.spots[i]! += right[3 * this.n + i]!;
  }

  /** What is expected of a body beforehand: joints and spots about where they were found. */
  private expect(a: Float64Array, b: Float64Array): void {
    const s = this.bodySize;
    const row = (sure: number, terms: readonly (readonly [at: number, by: number])[], off: number): void => {
      for (const [x, by] of terms) {
        b[x]! += sure * by * off;
        for (const [y, also] of terms) a[x * s + y]! += sure * by * also;
      }
    };
    const spots = 3 * this.n;
    for (let k = 0; k < 3; k++) {
      /** By limb: how far all its markers together have moved away from its joint. */
      const moved = this.given.map((_, i) => {
        const worn = this.worn.flatMap(({ limb }, w) => (limb === i ? [3 * w + k] : []));
        return {
          worn,
          terms: worn.map((w) => [spots + w, 1 / worn.length] as const),
          by: worn.reduce((sum, w) => sum + (this.spots[w]! - this.spotsBefore[w]!) / worn.length, 0),
        };
      });
      for (const [i, { worn, terms, by }] of moved.entries()) {
        row(i === 0 ? MARKER_SURE : JOINT_SURE, terms, -by);
        for (const w of worn)
          row(
            MARKER_SURE,
            [[spots + w, 1], ...terms.map(([at, share]) => [at, -share] as const)],
            by - (this.spots[w]! - this.spotsBefore[w]!),
          );
        if (i === 0) {
          row(1, [[k, 1]], 0);
          continue;
        }
        const parent = moved[this.given[i]!.parent]!;
        row(
          JOINT_SURE,
          [[3 * i + k, 1], ...parent.terms.map(([at, share]) => [at, -share] as const)],
          parent.by - (this.joints[3 * i + k]! - this.jointsBefore[3 * i + k]!),
        );
      }
    }
  }

  write(pose: Pose, frame: number, out: readonly Course[]): void {
    this.lay(pose);
    for (let i = 0; i < this.n; i++) {
      out[i]!.turns.set(pose.turns.subarray(4 * i, 4 * i + 4), 4 * frame);
      out[i]!.places.set(this.origins.subarray(3 * i, 3 * i + 3), 3 * frame);
    }
  }

  /** The limbs as they are now: each in the frame of its own joint. */
  limbs(): Limb[] {
    let first = 0;
    return this.given.map((l, i) => {
      const shape = this.spots.slice(3 * first, 3 * (first + l.markers.length));
      first += l.markers.length;
      return { ...l, shape, own: new Float64Array(3), joint: this.joints.slice(3 * i, 3 * i + 3) };
    });
  }
}

const UNITS = [1, 0, 0, 0, 1, 0, 0, 0, 1];
