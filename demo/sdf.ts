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
export function distanceTo({ a, b, ra, rb, box, squash }: Blob, px: number, py: number, pz: number): number {
  const [ax, ay, az] = [a[0]!, a[1]!, a[2]!];
  const [abx, aby, abz] = [b[0]! - ax, b[1]! - ay, b[2]! - az];
  let x = px - ax;
  let y = py - ay;
  let z = pz - az;
  if (squash) {
    x = abx / 2 + (x - abx / 2) / squash[0]!;
    y = aby / 2 + (y - aby / 2) / squash[1]!;
    z = abz / 2 + (z - abz / 2) / squash[2]!;
  }
  if (box) {
    const qx = Math.abs(x) - box[0]!;
    const qy = Math.abs(y) - box[1]!;
    const qz = Math.abs(z) - box[2]!;
    return length(Math.max(qx, 0), Math.max(qy, 0), Math.max(qz, 0)) + Math.min(Math.max(qx, qy, qz), 0) - ra;
  }
  const l = abx * abx + aby * aby + abz * abz;
  const t = l > 0 ? Math.min(1, Math.max(0, (x * abx + y * aby + z * abz) / l)) : 0;
  return length(x - t * abx, y - t * aby, z - t * abz) - (ra + t * (rb - ra));
}

const length = (x: number, y: number, z: number): number => Math.sqrt(x * x + y * y + z * z);

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

/** A point lies at least at this share of its distance from a blob. */
const flatness = ({ squash }: Blob): number => Math.min(1, ...(squash ?? []));

/** The field is worked out in blocks of so many points a side, and only where a blob is near. */
const BLOCK = 4;
/** Soft blobs melt into others from so far, metres. */
const NEAR = 0.06;

/**
 * Turns the field of the blobs into triangles by naive surface nets: one vertex a cell that the surface crosses, at the mean
 * of the crossings of its edges.
 */
export function surfaceNets(blobs: readonly Blob[], from: number[], high: number[], cell: number): Surface {
  // a cell of room all round: edges of the outermost cells get no faces
  const low = from.map((x) => x - cell);
  const n = [0, 1, 2].map((k) => Math.ceil((high[k]! - low[k]!) / cell) + 2) as Corner;
  const [rowY, rowZ] = [n[0], n[0] * n[1]];
  const field = new Float32Array(rowZ * n[2]).fill(1);
  const inBlocks = n.map((x) => Math.ceil(x / BLOCK)) as Corner;
  /** Blocks in which the field was worked out. */
  const near = new Uint8Array(inBlocks[0] * inBlocks[1] * inBlocks[2]);
  const within = (some: readonly Blob[], at: Corner, size: number): Blob[] => {
    const r = cell * size * 0.87 + NEAR;
    const [x, y, z] = at.map((b, k) => low[k]! + (b + size / 2) * cell) as Corner;
    return some.filter((b) => distanceTo(b, x, y, z) * flatness(b) < r);
  };
  const fill = (at: Corner, local: readonly Blob[]): void => {
    for (let k = at[2]; k < Math.min(n[2], at[2] + BLOCK); k++)
      for (let j = at[1]; j < Math.min(n[1], at[1] + BLOCK); j++)
        for (let i = at[0]; i < Math.min(n[0], at[0] + BLOCK); i++)
          field[i + rowY * j + rowZ * k] = fieldAt(local, low[0]! + i * cell, low[1]! + j * cell, low[2]! + k * cell);
  };
  /** Halves what the blobs are near to, until it is a block. */
  const split = (at: Corner, size: number, some: readonly Blob[]): void => {
    if (at.some((x, k) => x >= n[k]!)) return;
    const local = within(some, at, size);
    if (local.length === 0) return;
    if (size > BLOCK) {
      for (const corner of CORNERS) split(at.map((x, k) => x + (corner[k]! * size) / 2) as Corner, size / 2, local);
      return;
    }
    fill(at, local);
    const [i, j, k] = at.map((x) => x / BLOCK) as Corner;
    near[i + inBlocks[0] * (j + inBlocks[1] * k)] = 1;
  };
  split([0, 0, 0], BLOCK * 2 ** Math.ceil(Math.log2(Math.max(...inBlocks))), blobs);

  const vertex = new Int32Array(field.length).fill(-1);
  const positions: number[] = [];
  const indices: number[] = [];
  const corners = CORNERS.map(([i, j, k]) => i + rowY * j + rowZ * k);
  /** A cell's vertex, where the surface crosses it. */
  const cross = (i: number, j: number, k: number): void => {
    const at = i + rowY * j + rowZ * k;
    let inside = 0;
    for (const corner of corners) if (field[at + corner]! < 0) inside++;
    if (inside === 0 || inside === corners.length) return;
    let count = 0;
    const sum = [0, 0, 0];
    for (const [a, b] of EDGES) {
      const va = field[at + corners[a]!]!;
      const vb = field[at + corners[b]!]!;
      if (va < 0 === vb < 0) continue;
      const t = va / (va - vb);
      for (let x = 0; x < 3; x++) sum[x] = sum[x]! + CORNERS[a]![x]! + t * (CORNERS[b]![x]! - CORNERS[a]![x]!);
      count++;
    }
    vertex[at] = positions.length / 3;
    [i, j, k].forEach((c, x) => positions.push(low[x]! + (c + sum[x]! / count) * cell));
  };
  for (let k = 0; k < n[2] - 1; k++)
    for (let j = 0; j < n[1] - 1; j++) {
      const row = inBlocks[0] * (Math.floor(j / BLOCK) + inBlocks[1] * Math.floor(k / BLOCK));
      for (let block = 0; block < inBlocks[0]; block++) {
        if (!near[row + block]) continue;
        for (let i = block * BLOCK; i < Math.min(n[0] - 1, (block + 1) * BLOCK); i++) cross(i, j, k);
      }
    }
  const quad = (a: number, b: number, c: number, d: number, flip: boolean): void => {
    if (a < 0 || b < 0 || c < 0 || d < 0) return;
    if (flip) indices.push(a, c, b, a, d, c);
    else indices.push(a, b, c, a, c, d);
  };
  for (let k = 1; k < n[2] - 1; k++)
    for (let j = 1; j < n[1] - 1; j++)
      for (let i = 1; i < n[0] - 1; i++) {
        const at = i + rowY * j + rowZ * k;
        if (vertex[at]! < 0) continue;
        const inside = field[at]! < 0;
        // about each edge that leaves the cell's first corner, the four cells that share it
        for (const [edge, u, v] of [
          [1, rowY, rowZ],
          [rowY, rowZ, 1],
          [rowZ, 1, rowY],
        ] as const)
          if (inside !== field[at + edge]! < 0)
            quad(vertex[at - u - v]!, vertex[at - v]!, vertex[at]!, vertex[at - u]!, !inside);
      }
  return { positions, indices };
}

type Corner = [number, number, number];
const CORNERS: readonly Corner[] = [0, 1, 2, 3, 4, 5, 6, 7].map((c) => [c & 1, (c >> 1) & 1, c >> 2]);
/** Edges of a cell, by the numbers of their corners. */
const EDGES: readonly (readonly [number, number])[] = [0, 1, 2, 3, 4, 5, 6, 7].flatMap((c) =>
  [1, 2, 4].filter((bit) => (c & bit) === 0).map((bit): [number, number] => [c, c | bit]),
);
