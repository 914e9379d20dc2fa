import type { Solid } from './solid';

/** How far every cube of a solid is from where a flood began, and from which of its beginnings it was reached first. */
export interface Flood {
  /** By cube: the length of the way, in cubes; infinite where no way leads. */
  readonly far: Float32Array;
  /** By cube: the label of the beginning that is nearest; −1 where no way leads. */
  readonly label: Int32Array;
}

/**
 * Shortest ways through a solid, from cube to cube over faces, edges and corners (Dijkstra, in buckets).
 * @param seeds cubes to begin at; empty ones are passed over
 */
export function flood(solid: Solid, seeds: Iterable<readonly [cube: number, label: number]>): Flood {
  const { nx, ny, cubes } = solid;
  const far = new Float32Array(cubes.length).fill(Number.POSITIVE_INFINITY);
  const label = new Int32Array(cubes.length).fill(-1);
  const queue = new Buckets();
  for (const [cube, name] of seeds) {
    if (!cubes[cube] || far[cube] === 0) continue;
    far[cube] = 0;
    label[cube] = name;
    queue.push(cube, 0);
  }
  const offsets: number[] = [];
  const lengths: number[] = [];
  for (let z = -1; z <= 1; z++)
    for (let y = -1; y <= 1; y++)
      for (let x = -1; x <= 1; x++)
        if (x || y || z) {
          offsets.push(x + nx * (y + ny * z));
          lengths.push(Math.hypot(x, y, z));
        }
  for (let i = queue.pop(); i >= 0; i = queue.pop()) {
    const d = far[i]!;
    for (let k = 0; k < offsets.length; k++) {
      const j = i + offsets[k]!;
      const length = d + lengths[k]!;
      if (!cubes[j] || far[j]! <= length + LEAST_GAIN) continue;
      far[j] = length;
      label[j] = label[i]!;
      queue.push(j, length);
    }
  }
  return { far, label };
}

/** A way counts as shorter only by more than lengths are rounded to. */
const LEAST_GAIN = 1e-3;

/** A queue by rising distance, in buckets of a quarter of a cube. */
export class Buckets {
  private readonly buckets: number[][] = [];
  private at = 0;

  push(i: number, distance: number): void {
    const b = Math.max(this.at, Math.floor(4 * distance));
    let bucket = this.buckets[b];
    if (!bucket) {
      bucket = [];
      this.buckets[b] = bucket;
    }
    bucket.push(i);
  }

  /** The nearest one that waits; −1 where none does. */
  pop(): number {
    for (; this.at < this.buckets.length; this.at++) {
      const bucket = this.buckets[this.at];
      if (bucket && bucket.length > 0) return bucket.pop()!;
    }
    return -1;
  }
}

/** The cubes that a line passes. */
export function* cubesAlong(solid: Solid, from: ArrayLike<number>, to: ArrayLike<number>): Generator<number> {
  const { nx, ny, nz, cell, low } = solid;
  const size = [nx, ny, nz];
  const long = Math.hypot(to[0]! - from[0]!, to[1]! - from[1]!, to[2]! - from[2]!);
  const steps = Math.max(1, Math.ceil((2 * long) / cell));
  for (let s = 0; s <= steps; s++) {
    const at = [0, 1, 2].map((k) =>
      Math.min(size[k]! - 1, Math.max(0, Math.floor((from[k]! + ((to[k]! - from[k]!) * s) / steps - low[k]!) / cell))),
    );
    yield at[0]! + nx * (at[1]! + ny * at[2]!);
  }
}
