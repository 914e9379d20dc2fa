import { invMul64, load4, mul64, normalize64, rotate64 } from '../math/fast';
import type { Motion } from '../motion/motion';
import type { PlaceTrack } from '../motion/tracks';
import { childrenOf, type Rig } from '../rig/rig';
import { LEAF_REACH } from './error';
import { BLOCK_FRAMES } from './layout';

/** Drops a constant track whose turn departs by less than this, in radians (quaternion halves). */
const STILL_TOLERANCE = 1e-6;
/** Coarsest step of a quaternion component. */
const COARSEST = 0.02;
/** A joint is at most so many times as coarse as its children: skin beside a short bone hangs on it, too. */
const COARSER = 2;
/** How much of what a joint lies off its place its turn makes up for at its children's places. */
const AIM = 0.45;
/** Damping of that along a bone, as a share of the squared lengths. */
const DAMP = 0.1;

/** J: 1 for joints that keep one turn throughout. */
export function stillJoints(rig: Rig, motion: Motion): Uint8Array {
  const n = rig.names.length;
  const out = new Uint8Array(n).fill(1);
  const { turns } = motion;
  const first = turns.slice(0, 4 * n);
  for (let o = 4 * n; o < turns.length; o += 4 * n)
    for (let i = 0; i < 4 * n; i++) if (Math.abs(turns[o + i]! - first[i]!) > STILL_TOLERANCE) out[i >> 2] = 0;
  return out;
}

/** How far a joint that has no child reaches by itself, metres: to its tip, or to the outermost point of its cut-out parts. */
function ownReach(rig: Rig, joint: number): number {
  if (rig.kind === 'skeleton') {
    const tip = Math.hypot(...rig.tips.subarray(3 * joint, 3 * joint + 3));
    return Number.isNaN(tip) ? 0 : tip;
  }
  let reach = 0;
  for (const part of rig.parts)
    if (part.joint === joint)
      for (const [x, y] of [part.pivot, ...part.attachments.map((a) => a.at)])
        reach = Math.max(reach, Math.hypot(x, y));
  return reach;
}

/**
 * Steps of the joints' quaternion components at coarseness 1, in steps a metre: inverse to how far what turns rigidly with a
 * joint reaches from it, its children's origins and beyond them where they are still.
 */
export function relativeSteps(rig: Rig, still: Uint8Array): Float32Array {
  const n = rig.names.length;
  const reach = new Float64Array(n);
  const steps = new Float32Array(n);
  const cap = new Float64Array(n).fill(Number.POSITIVE_INFINITY);
  const hasChild = new Uint8Array(n);
  const long = (v: Float32Array, j: number): number => Math.hypot(v[3 * j]!, v[3 * j + 1]!, v[3 * j + 2]!);
  for (let j = n - 1; j >= 0; j--) {
    if (!hasChild[j]) reach[j] = Math.max(LEAF_REACH, ownReach(rig, j));
    steps[j] = Math.min(1 / reach[j]!, cap[j]!);
    const p = rig.parents[j]!;
    if (p < 0) continue;
    hasChild[p] = 1;
    reach[p] = Math.max(reach[p]!, long(rig.restT, j) + (still[j] ? reach[j]! : 0), 0.01);
    cap[p] = Math.min(cap[p]!, COARSER * steps[j]!);
  }
  return steps;
}

/** The step of a joint in a block, as writer and reader both work it out. */
export const stepOf = (relative: number, coarseness: number): number =>
  Math.fround(Math.min(relative * coarseness, COARSEST));

/**
 * 9 J, row by row: for each joint the small turn, as a rotation vector in its own frame, by which its children come nearer to
 * their places when the joint itself lies off its own by a vector in that frame. The least squares of Σ |w × r − e|² over the
 * children's places r, damped along a lone bone, times AIM: making up for all of it would put too much noise on the turns.
 */
function aimsOf(rig: Rig, trackOf: Int32Array): Float64Array {
  const aims = new Float64Array(9 * rig.names.length);
  childrenOf(rig).forEach((children, j) => {
    const r = new Float64Array(3);
    const m = new Float64Array(9);
    let spread = 0;
    for (const c of children) {
      if (trackOf[c]! >= 0) continue;
      const own = rig.restT.subarray(3 * c, 3 * c + 3);
      const square = own[0]! ** 2 + own[1]! ** 2 + own[2]! ** 2;
      spread += square;
      for (let a = 0; a < 3; a++) {
        r[a] = r[a]! + own[a]!;
        for (let b = 0; b < 3; b++) m[3 * a + b] = m[3 * a + b]! + (a === b ? square : 0) - own[a]! * own[b]!;
      }
    }
    if (spread === 0) return;
    for (let a = 0; a < 3; a++) m[4 * a] = m[4 * a]! + DAMP * spread + 1e-6;
    const [x, y, z] = r as unknown as [number, number, number];
    const inverse = inverse3(m);
    // r × e as a matrix: its columns are r × the axes
    const cross = [0, -z, y, z, 0, -x, -y, x, 0];
    for (let a = 0; a < 3; a++)
      for (let b = 0; b < 3; b++)
        for (let k = 0; k < 3; k++)
          aims[9 * j + 3 * a + b] = aims[9 * j + 3 * a + b]! + AIM * inverse[3 * a + k]! * cross[3 * k + b]!;
  });
  return aims;
}

/** Inverse of a 3 × 3 matrix that has one, row by row. */
function inverse3(m: Float64Array): Float64Array {
  const out = new Float64Array(9);
  for (let a = 0; a < 3; a++)
    for (let b = 0; b < 3; b++) {
      const [a1, a2, b1, b2] = [(a + 1) % 3, (a + 2) % 3, (b + 1) % 3, (b + 2) % 3];
      out[3 * b + a] = m[3 * a1 + b1]! * m[3 * a2 + b2]! - m[3 * a1 + b2]! * m[3 * a2 + b1]!;
    }
  const determinant = m[0]! * out[0]! + m[1]! * out[3]! + m[2]! * out[6]!;
  return out.map((v) => v / determinant);
}

/** One block of a motion as whole numbers. */
export interface QuantisedBlock {
  readonly coarseness: number;
  readonly placeStep: number;
  /** J: left-out component 0…3, or 4 where all are kept; +8 where it is negative. */
  readonly modes: Uint8Array;
  /** 4 J: runs of components, those of still joints and left-out ones without meaning. */
  readonly turns: readonly Int32Array[];
  /** 3 for each track of places. */
  readonly places: readonly Int32Array[];
  /** Largest distance by which any joint, or any point of a leaf, comes back elsewhere, metres. */
  readonly error: number;
}

/**
 * Turns blocks of a motion into whole numbers, one at a time and in the same memory, and measures on the way what a reader
 * will get. Each joint's turn is taken relative to its parent as the reader will see it, and aims its children at their places
 * from where the reader will see it, so neither turns nor places drift apart along a limb.
 */
export class BlockQuantiser {
  private readonly truthR: Float64Array[];
  private readonly seenR: Float64Array[];
  private readonly truthP: Float64Array[];
  private readonly seenP: Float64Array[];
  private readonly turns: Int32Array[];
  private readonly places: Int32Array[];
  private readonly modes: Uint8Array;
  private readonly trackOf: Int32Array;
  private readonly isLeaf: Uint8Array;
  private readonly aims: Float64Array;
  private readonly aimed = new Float64Array(4 * BLOCK_FRAMES);
  private readonly local = new Float64Array(4 * BLOCK_FRAMES);
  private readonly one = new Float32Array(4);

  constructor(
    private readonly rig: Rig,
    private readonly motion: Motion,
    private readonly still: Uint8Array,
    private readonly relative: Float32Array,
  ) {
    const n = rig.names.length;
    const make = (width: number): Float64Array[] =>
      Array.from({ length: n }, () => new Float64Array(width * BLOCK_FRAMES));
    [this.truthR, this.seenR, this.truthP, this.seenP] = [make(4), make(4), make(3), make(3)];
    this.turns = Array.from({ length: 4 * n }, () => new Int32Array(BLOCK_FRAMES));
    this.places = Array.from({ length: 3 * motion.places.length }, () => new Int32Array(BLOCK_FRAMES));
    this.modes = new Uint8Array(n);
    this.trackOf = new Int32Array(n).fill(-1);
    motion.places.forEach((t, i) => {
      this.trackOf[t.joint] = i;
    });
    this.isLeaf = Uint8Array.from(childrenOf(rig), (c) => (c.length === 0 ? 1 : 0));
    this.aims = aimsOf(rig, this.trackOf);
  }

  /** Frames from … to − 1, at most a block, with a coarseness in metres; the answer holds until the next call. */
  quantise(from: number, to: number, coarseness: number, placeStep: number): QuantisedBlock {
    const { rig, motion, modes, turns, places } = this;
    motion.places.forEach((t, i) => {
      this.quantisePlaces(t, i, from, to, placeStep);
    });
    let worst = 0;
    for (let j = 0; j < rig.names.length; j++) {
      worst = Math.max(worst, this.place(j, from, to - from, placeStep));
      this.quantiseTurns(j, from, to - from, coarseness);
      if (this.isLeaf[j]) worst = Math.max(worst, this.beyond(j, to - from));
    }
    return { coarseness, placeStep, modes, turns, places, error: Math.sqrt(worst) };
  }

  private quantisePlaces({ values }: PlaceTrack, i: number, from: number, to: number, step: number): void {
    for (let k = 0; k < 3; k++) {
      const out = this.places[3 * i + k]!;
      for (let f = from; f < to; f++) out[f - from] = Math.round(values[3 * f + k]! / step);
    }
  }

  /** A joint's turns in the world as they are, the whole numbers, and its turns in the world as the reader will have them. */
  private quantiseTurns(j: number, from: number, count: number, coarseness: number): void {
    const { rig, motion, local, one } = this;
    const n = rig.names.length;
    const p = rig.parents[j]!;
    const truth = this.truthR[j]!;
    const seen = this.seenR[j]!;
    const above = p < 0 ? undefined : this.truthR[p]!;
    const aboveSeen = p < 0 ? undefined : this.seenR[p]!;
    const source = motion.turns;
    for (let f = 0, o = 4 * (from * n + j); f < count; f++, o += 4 * n) mulInto(truth, 4 * f, above, source, o);
    if (this.still[j]) {
      for (let f = 0; f < count; f++) mulInto(seen, 4 * f, aboveSeen, source, 4 * j);
      return;
    }
    const aimed = this.aim(j, count);
    for (let f = 0, o = 4 * (from * n + j); f < count; f++, o += 4 * n)
      relativeInto(local, 4 * f, aboveSeen, aimed, source, o);
    const step = stepOf(this.relative[j]!, coarseness);
    const mode = leftOut(local, count);
    this.modes[j] = mode;
    const runs = this.turns;
    for (let f = 0; f < count; f++) {
      for (let k = 0; k < 4; k++) {
        const x = k === (mode & 7) ? 0 : Math.round(local[4 * f + k]! / step);
        runs[4 * j + k]![f] = x;
        one[k] = x * step;
      }
      finishQuat(one, 0, mode);
      mulInto(seen, 4 * f, aboveSeen, one, 0);
    }
  }

  /** A joint's turns in the world that bring its children nearer to their places from where the reader will see it. */
  private aim(j: number, count: number): Float64Array {
    const { aims, aimed } = this;
    const truth = this.truthR[j]!;
    const places = this.truthP[j]!;
    const seen = this.seenP[j]!;
    const o = 9 * j;
    let still = true;
    for (let k = 0; k < 9; k++) if (aims[o + k] !== 0) still = false;
    if (still) return truth;
    for (let f = 0; f < count; f++) {
      for (let k = 0; k < 3; k++) loaded[k] = places[3 * f + k]! - seen[3 * f + k]!;
      inverted[0] = -truth[4 * f]!;
      inverted[1] = -truth[4 * f + 1]!;
      inverted[2] = -truth[4 * f + 2]!;
      inverted[3] = truth[4 * f + 3]!;
      rotate64(loaded, 0, inverted, 0, loaded, 0);
      const x = loaded[0]!;
      const y = loaded[1]!;
      const z = loaded[2]!;
      for (let k = 0; k < 3; k++)
        small[k] = 0.5 * (aims[o + 3 * k]! * x + aims[o + 3 * k + 1]! * y + aims[o + 3 * k + 2]! * z);
      small[3] = 1;
      mul64(aimed, 4 * f, truth, 4 * f, small, 0);
    }
    return aimed;
  }

  /** Largest square of a distance between the points beyond a leaf, true and as read. */
  private beyond(j: number, count: number): number {
    const truth = this.truthP[j]!;
    const seen = this.seenP[j]!;
    let worst = 0;
    for (let f = 0, o = 0; f < count; f++, o += 3) {
      const dx = truth[o]! - seen[o]!;
      const dy = truth[o + 1]! - seen[o + 1]!;
      const dz = truth[o + 2]! - seen[o + 2]!;
      worst = Math.max(worst, leafError(this.truthR[j]!, this.seenR[j]!, 4 * f, dx, dy, dz));
    }
    return worst;
  }

  /** Places of a joint in the world, true and as read; returns the largest square of a distance. */
  private place(j: number, from: number, count: number, placeStep: number): number {
    const { rig, motion } = this;
    const p = rig.parents[j]!;
    const track = this.trackOf[j]!;
    const truth = this.truthP[j]!;
    const seen = this.seenP[j]!;
    const values = track < 0 ? rig.restT : motion.places[track]!.values;
    let worst = 0;
    for (let f = 0; f < count; f++) {
      const o = 3 * f;
      const v = track < 0 ? 3 * j : 3 * (from + f);
      const x = values[v]!;
      const y = values[v + 1]!;
      const z = values[v + 2]!;
      const sx = track < 0 ? x : Math.fround(this.places[3 * track]![f]! * placeStep);
      const sy = track < 0 ? y : Math.fround(this.places[3 * track + 1]![f]! * placeStep);
      const sz = track < 0 ? z : Math.fround(this.places[3 * track + 2]![f]! * placeStep);
      if (p < 0) {
        truth[o] = x;
        truth[o + 1] = y;
        truth[o + 2] = z;
        seen[o] = sx;
        seen[o + 1] = sy;
        seen[o + 2] = sz;
      } else {
        placeInto(truth, o, this.truthP[p]!, this.truthR[p]!, 4 * f, x, y, z);
        placeInto(seen, o, this.seenP[p]!, this.seenR[p]!, 4 * f, sx, sy, sz);
      }
      const dx = truth[o]! - seen[o]!;
      const dy = truth[o + 1]! - seen[o + 1]!;
      const dz = truth[o + 2]! - seen[o + 2]!;
      worst = Math.max(worst, dx * dx + dy * dy + dz * dz);
    }
    return worst;
  }
}

const loaded = new Float64Array(4);
const inverted = new Float64Array(4);
const small = new Float64Array(4);

/** dst = above · q, above none at a root. */
function mulInto(dst: Float64Array, o: number, above: Float64Array | undefined, q: Float32Array, qo: number): void {
  load4(loaded, 0, q, qo);
  if (above) mul64(dst, o, above, o, loaded, 0);
  else for (let k = 0; k < 4; k++) dst[o + k] = loaded[k]!;
}

/** dst = above⁻¹ · own, unit, with the sign that lies nearer to the source's. */
function relativeInto(
  dst: Float64Array,
  o: number,
  above: Float64Array | undefined,
  own: Float64Array,
  source: Float32Array,
  so: number,
): void {
  if (above) invMul64(dst, o, above, o, own, o);
  else for (let k = 0; k < 4; k++) dst[o + k] = own[o + k]!;
  normalize64(dst, o);
  let dot = 0;
  for (let k = 0; k < 4; k++) dot += dst[o + k]! * source[so + k]!;
  if (dot < 0) for (let k = 0; k < 4; k++) dst[o + k] = -dst[o + k]!;
}

/** dst = the parent's place and what its turn makes of a place in its frame. */
function placeInto(
  dst: Float64Array,
  o: number,
  aboveP: Float64Array,
  aboveR: Float64Array,
  ro: number,
  x: number,
  y: number,
  z: number,
): void {
  loaded[0] = x;
  loaded[1] = y;
  loaded[2] = z;
  rotate64(dst, o, aboveR, ro, loaded, 0);
  for (let k = 0; k < 3; k++) dst[o + k] = dst[o + k]! + aboveP[o + k]!;
}

/** Largest square of a distance between two placings of the points 10 cm along a leaf's axes. */
function leafError(a: Float64Array, b: Float64Array, o: number, dx: number, dy: number, dz: number): number {
  let worst = 0;
  for (let axis = 0; axis < 3; axis++) {
    const x = dx + LEAF_REACH * (column(a, o, axis, 0) - column(b, o, axis, 0));
    const y = dy + LEAF_REACH * (column(a, o, axis, 1) - column(b, o, axis, 1));
    const z = dz + LEAF_REACH * (column(a, o, axis, 2) - column(b, o, axis, 2));
    worst = Math.max(worst, x * x + y * y + z * z);
  }
  return worst;
}

/** Component k of where a turn takes an axis. */
function column(q: Float64Array, o: number, axis: number, k: number): number {
  const v = q[o + axis]!;
  const w = q[o + 3]!;
  if (axis === k) return 1 - 2 * (q[o + ((axis + 1) % 3)]! ** 2 + q[o + ((axis + 2) % 3)]! ** 2);
  const third = 3 - axis - k;
  const sign = (axis + 1) % 3 === k ? 1 : -1;
  return 2 * (v * q[o + k]! + sign * w * q[o + third]!);
}

/** The component that stays farthest from 0 over the block is left out, if it stays far enough; 4 where none is. */
function leftOut(local: Float64Array, count: number): number {
  let drop = 4;
  let sign = 1;
  let best = 0.35;
  for (let k = 0; k < 4; k++) {
    let low = Number.POSITIVE_INFINITY;
    const s = Math.sign(local[k]!);
    for (let f = 0; f < count; f++) low = Math.min(low, local[4 * f + k]! * s);
    if (low > best) {
      best = low;
      drop = k;
      sign = s;
    }
  }
  return drop + (sign < 0 ? 8 : 0);
}

/** Works out the left-out component, or normalises where all four were kept. Shared by writer and reader. */
export function finishQuat(dst: Float32Array, o: number, mode: number): void {
  const drop = mode & 7;
  const x = dst[o]!;
  const y = dst[o + 1]!;
  const z = dst[o + 2]!;
  const w = dst[o + 3]!;
  const sum = x * x + y * y + z * z + w * w;
  if (drop < 4) {
    const rest = Math.sqrt(Math.max(0, 1 - sum));
    dst[o + drop] = mode & 8 ? -rest : rest;
  } else {
    const l = sum > 0 ? 1 / Math.sqrt(sum) : 0;
    dst[o] = x * l;
    dst[o + 1] = y * l;
    dst[o + 2] = z * l;
    dst[o + 3] = sum > 0 ? w * l : 1;
  }
}
