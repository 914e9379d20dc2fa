import type { Skin } from '../rig/figure';
import { cubesAlong, flood } from './flood';
import { cubeAt, middleOf, type Solid, type Surface } from './solid';

/** A bone as far as skin is concerned: a line from a joint, which moves what is near it. */
export interface SkinBone {
  readonly joint: number;
  readonly from: ArrayLike<number>;
  readonly to: ArrayLike<number>;
}

/** How fast a bone's heat is lost into the flesh: the larger, the sharper the border between two bones. */
const HOLD = 1;
/** Rounds of relaxation at most, and the change at which it has settled. */
const ROUNDS = 60;
const SETTLED = 2e-3;
/** How many cubes beyond a bone's own flesh its heat is followed. */
const REACH = 24;
/** Over-relaxation: each step goes a little beyond. */
const OVER = 1.6;
/** Weights below this are noise. */
const FAINT = 0.01;
const INFLUENCES = 4;

/**
 * Skin weights from heat that flows through the body's inside: every cube belongs to the bone that is nearest by a way that
 * stays within the body, and heat from there spreads as far as the bone is away. Holes, loose pieces and several meshes do
 * not matter, since nothing runs over the surface. At most four influences a vertex.
 * Source: Baran and Popović 2007 (Automatic rigging and animation of 3D characters), its heat equation; on cubes and with ways
 * through the body as by Dionne and de Lasa 2013 (Geodesic voxel binding for production character meshes).
 * @param surfaces in the solid's space
 */
export function skinWeights(solid: Solid, bones: readonly SkinBone[], surfaces: readonly Surface[]): Skin[] {
  const field = new HeatField(solid, bones);
  return surfaces.map(({ positions }) => {
    const n = positions.length / 3;
    const joints = new Uint16Array(4 * n);
    const weights = new Float32Array(4 * n);
    for (let v = 0; v < n; v++)
      field.write([positions[3 * v]!, positions[3 * v + 1]!, positions[3 * v + 2]!], joints, weights, 4 * v);
    return { joints, weights };
  });
}

class HeatField {
  /** By cube: its place among the filled ones, −1 for empty cubes. */
  private readonly place: Int32Array;
  private readonly cubes: Int32Array;
  /** By joint that has bones: the heat in every filled cube. */
  private readonly heat: Float32Array[];
  private readonly joints: number[];

  constructor(
    private readonly solid: Solid,
    bones: readonly SkinBone[],
  ) {
    const { cubes, nx, ny } = solid;
    this.place = new Int32Array(cubes.length).fill(-1);
    const filled: number[] = [];
    for (let i = 0; i < cubes.length; i++)
      if (cubes[i]) {
        this.place[i] = filled.length;
        filled.push(i);
      }
    this.cubes = Int32Array.from(filled);
    this.joints = [...new Set(bones.map((b) => b.joint))];
    const { nearest, far } = this.nearestBones(bones);
    const steps = [1, -1, nx, -nx, nx * ny, -nx * ny];
    const n = filled.length;
    // a neighbour that is empty is a cube beyond all others, which stays cold
    const next = new Int32Array(6 * n);
    const hold = Float64Array.from(far, (d) => (d < 1 ? HOLD : HOLD / (d * d)));
    const lost = Float64Array.from(hold);
    for (let i = 0; i < n; i++)
      for (let k = 0; k < 6; k++) {
        const j = this.place[filled[i]! + steps[k]!]!;
        next[6 * i + k] = j < 0 ? n : j;
        if (j >= 0) lost[i]!++;
      }
    this.heat = this.joints.map((joint) => relax(next, nearest, hold, lost, joint));
  }

  /** For every filled cube the joint whose bone is nearest through the body, and how far that is, in cubes. */
  private nearestBones(bones: readonly SkinBone[]): { nearest: Int32Array; far: Float32Array } {
    const { solid, cubes } = this;
    function* seeds(): Generator<[number, number]> {
      for (const { joint, from, to } of bones) for (const cube of cubesAlong(solid, from, to)) yield [cube, joint];
    }
    const reached = flood(solid, seeds());
    const nearest = Int32Array.from(cubes, (c) => reached.label[c]!);
    const far = Float32Array.from(cubes, (c) => reached.far[c]!);
    this.joinLoose(nearest, far, bones);
    return { nearest, far };
  }

  /** Pieces that touch no bone's piece go with whatever bone is nearest through the air. */
  private joinLoose(nearest: Int32Array, far: Float32Array, bones: readonly SkinBone[]): void {
    for (let i = 0; i < nearest.length; i++) {
      if (nearest[i]! >= 0) continue;
      const at = middleOf(this.solid, this.cubes[i]!);
      for (const bone of bones) {
        const d = toLine(at, bone.from, bone.to) / this.solid.cell;
        if (d < far[i]!) {
          far[i] = d;
          nearest[i] = bone.joint;
        }
      }
    }
  }

  /** Writes the four strongest joints at a point. */
  write(at: readonly [number, number, number], joints: Uint16Array, weights: Float32Array, o: number): void {
    const { solid, place } = this;
    const { nx, ny, cell, low } = solid;
    // the eight cubes around, as far as they are filled, each by how near it is
    const base = [0, 1, 2].map((k) => (at[k]! - low[k]!) / cell - 0.5);
    const corner = base.map(Math.floor);
    const found: number[] = new Array(this.joints.length).fill(0);
    let total = 0;
    for (let c = 0; c < 8; c++) {
      const bits = [c & 1, (c >> 1) & 1, (c >> 2) & 1];
      let share = 1;
      for (let k = 0; k < 3; k++) share *= bits[k] ? base[k]! - corner[k]! : 1 - base[k]! + corner[k]!;
      const i = place[corner[0]! + bits[0]! + nx * (corner[1]! + bits[1]! + ny * (corner[2]! + bits[2]!))] ?? -1;
      if (i < 0 || share <= 0) continue;
      total += share;
      for (let b = 0; b < found.length; b++) found[b]! += share * this.heat[b]![i]!;
    }
    if (total === 0) {
      const i = place[cubeAt(solid, at)] ?? -1;
      if (i >= 0) for (let b = 0; b < found.length; b++) found[b] = this.heat[b]![i]!;
      else found[0] = 1;
    }
    writeStrongest(
      joints,
      weights,
      o,
      found.map((w, b) => [this.joints[b]!, w]),
    );
  }
}

/** Writes the four strongest joints of a point, strongest first, so that they sum to 1; what is faint beside the first is left out. */
export function writeStrongest(
  joints: Uint16Array,
  weights: Float32Array,
  o: number,
  shares: (readonly [joint: number, weight: number])[],
): void {
  const kept = shares.sort((a, b) => b[1] - a[1]).slice(0, INFLUENCES);
  const [first, most] = kept[0]!;
  const strong = kept.filter(([, w]) => w > FAINT * most);
  const sum = strong.reduce((s, [, w]) => s + w, 0);
  for (let k = 0; k < INFLUENCES; k++) {
    const [joint, w] = strong[k] ?? [first, 0];
    joints[o + k] = joint;
    weights[o + k] = w / sum;
  }
}

/**
 * Heat of one joint's bones once it has settled: (neighbours + hold) w = Σ w + hold · (1 where the joint is nearest). Only cubes
 * that the heat can reach are computed.
 * @param next six neighbours of each cube; the number of cubes for one that is empty
 * @param lost of each cube: how many neighbours it has, and its hold
 */
function relax(
  next: Int32Array,
  nearest: Int32Array,
  hold: Float64Array,
  lost: Float64Array,
  joint: number,
): Float32Array {
  const n = nearest.length;
  const w = new Float32Array(n + 1);
  const reached = new Uint8Array(n + 1);
  reached[n] = 1;
  const active: number[] = [];
  for (let i = 0; i < n; i++)
    if (nearest[i] === joint) {
      w[i] = 1;
      reached[i] = 1;
      active.push(i);
    }
  if (active.length === 0) return w;
  for (let layer = 0, from = 0; layer < REACH; layer++) {
    const until = active.length;
    for (; from < until; from++)
      for (let k = 6 * active[from]!; k < 6 * active[from]! + 6; k++) {
        const j = next[k]!;
        if (reached[j]) continue;
        reached[j] = 1;
        active.push(j);
      }
  }
  const list = Int32Array.from(active).sort();
  for (let round = 0; round < ROUNDS; round++) {
    let change = 0;
    for (let s = 0; s < list.length; s++) {
      const i = list[round % 2 === 0 ? s : list.length - 1 - s]!;
      const k = 6 * i;
      let sum = w[next[k]!]! + w[next[k + 1]!]! + w[next[k + 2]!]!;
      sum += w[next[k + 3]!]! + w[next[k + 4]!]! + w[next[k + 5]!]!;
      if (nearest[i] === joint) sum += hold[i]!;
      const step = OVER * (sum / lost[i]! - w[i]!);
      w[i]! += step;
      if (step > change) change = step;
      else if (-step > change) change = -step;
    }
    if (change < SETTLED) break;
  }
  for (let i = 0; i < n; i++) w[i] = Math.min(1, Math.max(0, w[i]!));
  return w;
}

/** How far a point is from a line between two points. */
export function toLine(p: ArrayLike<number>, a: ArrayLike<number>, b: ArrayLike<number>): number {
  let [dot, long] = [0, 0];
  for (let k = 0; k < 3; k++) {
    dot += (p[k]! - a[k]!) * (b[k]! - a[k]!);
    long += (b[k]! - a[k]!) ** 2;
  }
  const t = long > 0 ? Math.min(1, Math.max(0, dot / long)) : 0;
  return Math.hypot(...[0, 1, 2].map((k) => p[k]! - a[k]! - t * (b[k]! - a[k]!)));
}
