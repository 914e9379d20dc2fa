/** A tapered capsule or rounded box with a colour, carried by one joint. */
export interface Blob {
  /** Index into the figure's rig. */
  joint: number;
  a: number[];
  b: number[];
  ra: number;
  rb: number;
  color: [number, number, number];
  /** Half sizes of a rounded box about a instead of a capsule. */
  box?: number[];
  /** Stretch of x, y, z about the middle: flattens a capsule. */
  squash?: number[];
  /** How softly it melts into the rest, metres. */
  soft: number;
}

/** Signed distance to one blob, negative inside. */
export function distanceTo(blob: Blob, px: number, py: number, pz: number): number {
  let x = px;
  let y = py;
  let z = pz;
  if (blob.squash) {
    const [mx, my, mz] = [0, 1, 2].map((k) => (blob.a[k]! + blob.b[k]!) / 2) as [number, number, number];
    x = mx + (px - mx) / blob.squash[0]!;
    y = my + (py - my) / blob.squash[1]!;
    z = mz + (pz - mz) / blob.squash[2]!;
  }
  if (blob.box) {
    const qx = Math.abs(x - blob.a[0]!) - blob.box[0]!;
    const qy = Math.abs(y - blob.a[1]!) - blob.box[1]!;
    const qz = Math.abs(z - blob.a[2]!) - blob.box[2]!;
    return Math.hypot(Math.max(qx, 0), Math.max(qy, 0), Math.max(qz, 0)) + Math.min(Math.max(qx, qy, qz), 0) - blob.ra;
  }
  const abx = blob.b[0]! - blob.a[0]!;
  const aby = blob.b[1]! - blob.a[1]!;
  const abz = blob.b[2]! - blob.a[2]!;
  const l = abx * abx + aby * aby + abz * abz;
  const t =
    l > 0
      ? Math.min(1, Math.max(0, ((x - blob.a[0]!) * abx + (y - blob.a[1]!) * aby + (z - blob.a[2]!) * abz) / l))
      : 0;
  return (
    Math.hypot(x - blob.a[0]! - t * abx, y - blob.a[1]! - t * aby, z - blob.a[2]! - t * abz) -
    (blob.ra + t * (blob.rb - blob.ra))
  );
}

/** Soft union of all blobs near a point. */
export function fieldAt(blobs: readonly Blob[], x: number, y: number, z: number): number {
  let d = 1e9;
  for (const blob of blobs) {
    const e = distanceTo(blob, x, y, z);
    const k = blob.soft;
    if (k <= 0 || Math.abs(d - e) >= k) d = Math.min(d, e);
    else {
      const h = (k - Math.abs(d - e)) / k;
      d = Math.min(d, e) - (h * h * k) / 4;
    }
  }
  return d;
}

export interface Surface {
  positions: number[];
  indices: number[];
}

/**
 * Turns a field into triangles by naive surface nets: one vertex a cell that the surface crosses, at the mean of the
 * crossings of its edges. `near(x, y, z, r)` gives the blobs worth asking within a box.
 */
export function surfaceNets(blobs: readonly Blob[], from: number[], high: number[], cell: number): Surface {
  // a cell of room all round: edges of the outermost cells get no faces
  const low = from.map((x) => x - cell);
  const n = [0, 1, 2].map((k) => Math.ceil((high[k]! - low[k]!) / cell) + 2) as [number, number, number];
  const field = new Float32Array(n[0] * n[1] * n[2]).fill(1);
  const at = (i: number, j: number, k: number): number => i + n[0] * (j + n[1] * k);
  const block = 8;
  for (let bk = 0; bk < n[2]; bk += block) {
    for (let bj = 0; bj < n[1]; bj += block) {
      for (let bi = 0; bi < n[0]; bi += block) {
        const c = [bi, bj, bk].map((b, k) => low[k]! + (b + block / 2) * cell);
        const r = cell * block * 0.87 + 0.06;
        const local = blobs.filter((b) => distanceTo(b, c[0]!, c[1]!, c[2]!) < r);
        if (local.length === 0) continue;
        for (let k = bk; k < Math.min(n[2], bk + block); k++) {
          for (let j = bj; j < Math.min(n[1], bj + block); j++) {
            for (let i = bi; i < Math.min(n[0], bi + block); i++)
              field[at(i, j, k)] = fieldAt(local, low[0]! + i * cell, low[1]! + j * cell, low[2]! + k * cell);
          }
        }
      }
    }
  }
  const vertex = new Int32Array(field.length).fill(-1);
  const positions: number[] = [];
  const indices: number[] = [];
  for (let k = 0; k < n[2] - 1; k++) {
    for (let j = 0; j < n[1] - 1; j++) {
      for (let i = 0; i < n[0] - 1; i++) {
        let count = 0;
        const sum = [0, 0, 0];
        for (const [a, b] of EDGES) {
          const va = field[at(i + a[0], j + a[1], k + a[2])]!;
          const vb = field[at(i + b[0], j + b[1], k + b[2])]!;
          if (va < 0 === vb < 0) continue;
          const t = va / (va - vb);
          for (let x = 0; x < 3; x++) sum[x] = sum[x]! + a[x]! + t * (b[x]! - a[x]!);
          count++;
        }
        if (count === 0) continue;
        vertex[at(i, j, k)] = positions.length / 3;
        [i, j, k].forEach((c, x) => positions.push(low[x]! + (c + sum[x]! / count) * cell));
      }
    }
  }
  const quad = (a: number, b: number, c: number, d: number, flip: boolean): void => {
    if (a < 0 || b < 0 || c < 0 || d < 0) return;
    if (flip) indices.push(a, c, b, a, d, c);
    else indices.push(a, b, c, a, c, d);
  };
  for (let k = 1; k < n[2] - 1; k++) {
    for (let j = 1; j < n[1] - 1; j++) {
      for (let i = 1; i < n[0] - 1; i++) {
        const inside = field[at(i, j, k)]! < 0;
        if (inside !== field[at(i + 1, j, k)]! < 0)
          quad(
            vertex[at(i, j - 1, k - 1)]!,
            vertex[at(i, j, k - 1)]!,
            vertex[at(i, j, k)]!,
            vertex[at(i, j - 1, k)]!,
            !inside,
          );
        if (inside !== field[at(i, j + 1, k)]! < 0)
          quad(
            vertex[at(i - 1, j, k - 1)]!,
            vertex[at(i - 1, j, k)]!,
            vertex[at(i, j, k)]!,
            vertex[at(i, j, k - 1)]!,
            !inside,
          );
        if (inside !== field[at(i, j, k + 1)]! < 0)
          quad(
            vertex[at(i - 1, j - 1, k)]!,
            vertex[at(i, j - 1, k)]!,
            vertex[at(i, j, k)]!,
            vertex[at(i - 1, j, k)]!,
            !inside,
          );
      }
    }
  }
  return { positions, indices };
}

type Corner = [number, number, number];
const EDGES: [Corner, Corner][] = [];
for (const a of [0, 1]) {
  for (const b of [0, 1]) {
    EDGES.push(
      [
        [0, a, b],
        [1, a, b],
      ],
      [
        [a, 0, b],
        [a, 1, b],
      ],
      [
        [a, b, 0],
        [a, b, 1],
      ],
    );
  }
}
