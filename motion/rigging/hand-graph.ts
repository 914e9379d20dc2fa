import { Buckets } from './flood';
import type { Surface } from './solid';
import { weld } from './weld';

/** The surface beyond a wrist as a graph: its points, and which of them an edge joins. */
export interface HandGraph {
  /** Three numbers a point, in the body's frame. */
  readonly points: Float64Array;
  /** The neighbours of point i are next[first[i]] to next[first[i + 1]]. */
  readonly first: Int32Array;
  readonly next: Int32Array;
  /** By surface and vertex: its point, −1 for those that are no part of the hand. */
  readonly pointOf: readonly Int32Array[];
  /** Three points a triangle. */
  readonly triangles: Int32Array;
}

/** How far behind the wrist the surface is cut off, in lengths of the reach. */
const BEHIND = 0.12;

/**
 * What of the surfaces lies beyond a wrist.
 * @param ahead where the hand points, unit @param reach how far from the wrist a finger can end
 */
export function handGraph(
  surfaces: readonly Surface[],
  wrist: readonly number[],
  ahead: readonly number[],
  reach: number,
): HandGraph {
  const { welded, count } = weld(surfaces);
  const told = new Int32Array(count).fill(-2);
  const points: number[] = [];
  const pointOf = surfaces.map(({ positions }, m) => {
    const out = new Int32Array(positions.length / 3).fill(-1);
    for (let v = 0; v < out.length; v++) {
      const place = welded[m]![v]!;
      if (told[place] === -2) {
        const d = [0, 1, 2].map((k) => positions[3 * v + k]! - wrist[k]!);
        const along = d[0]! * ahead[0]! + d[1]! * ahead[1]! + d[2]! * ahead[2]!;
        const inside = Math.hypot(...d) < reach && along > -BEHIND * reach;
        told[place] = inside ? points.length / 3 : -1;
        if (inside) points.push(positions[3 * v]!, positions[3 * v + 1]!, positions[3 * v + 2]!);
      }
      out[v] = told[place]!;
    }
    return out;
  });
  const triangles: number[] = [];
  for (const [m, { indices }] of surfaces.entries())
    for (let t = 0; t + 2 < indices.length; t += 3) {
      const three = [0, 1, 2].map((k) => pointOf[m]![indices[t + k]!]!);
      if (three.every((p) => p >= 0)) triangles.push(...three);
    }
  return {
    points: Float64Array.from(points),
    ...neighbours(points.length / 3, triangles),
    pointOf,
    triangles: Int32Array.from(triangles),
  };
}

function neighbours(count: number, triangles: readonly number[]): Pick<HandGraph, 'first' | 'next'> {
  const sets: Set<number>[] = Array.from({ length: count }, () => new Set());
  for (let t = 0; t < triangles.length; t += 3)
    for (let k = 0; k < 3; k++) {
      const [a, b] = [triangles[t + k]!, triangles[t + ((k + 1) % 3)]!];
      if (a === b) continue;
      sets[a]!.add(b);
      sets[b]!.add(a);
    }
  const first = new Int32Array(count + 1);
  for (let i = 0; i < count; i++) first[i + 1] = first[i]! + sets[i]!.size;
  return { first, next: Int32Array.from(sets.flatMap((s) => [...s])) };
}

/** Steps into which a reach is divided where ways are sorted by their length. */
const FINENESS = 400;

/** How far points are from a wrist. */
export interface Ways {
  readonly far: Float64Array;
  /** Points that hang together, what begins nearest to the wrist first. */
  readonly pieces: readonly (readonly number[])[];
}

/** What of a piece lies so far ahead of its end at the wrist belongs to that end, in lengths of the reach. */
const END = 0.05;

/**
 * How far every point is from the wrist by ways along edges. Every piece of the surface begins at all that lies behind the
 * wrist, or at its own end nearest to it, so that ways are as long on the back of a hand as in its palm.
 */
export function waysFrom(graph: HandGraph, wrist: readonly number[], ahead: readonly number[], reach: number): Ways {
  const { points, first, next } = graph;
  const n = points.length / 3;
  const far = new Float64Array(n).fill(Number.POSITIVE_INFINITY);
  const from = (i: number): number[] => [0, 1, 2].map((k) => points[3 * i + k]! - wrist[k]!);
  const along = Float64Array.from({ length: n }, (_, i) => from(i).reduce((sum, x, k) => sum + x * ahead[k]!, 0));
  const begun = piecesOf(graph)
    .map((piece) => ({ piece, apart: piece.reduce((least, i) => Math.min(least, Math.hypot(...from(i))), reach) }))
    .sort((a, b) => a.apart - b.apart);
  const queue = new Buckets();
  for (const { piece } of begun) {
    const end = Math.max(0, piece.reduce((least, i) => Math.min(least, along[i]!), reach) + END * reach);
    for (const i of piece)
      if (along[i]! <= end) {
        far[i] = Math.max(0, along[i]!);
        queue.push(i, (FINENESS * far[i]!) / reach);
      }
  }
  for (let i = queue.pop(); i >= 0; i = queue.pop())
    for (let e = first[i]!; e < first[i + 1]!; e++) {
      const j = next[e]!;
      const way =
        far[i]! +
        Math.hypot(
          points[3 * i]! - points[3 * j]!,
          points[3 * i + 1]! - points[3 * j + 1]!,
          points[3 * i + 2]! - points[3 * j + 2]!,
        );
      if (way >= far[j]! - 1e-9) continue;
      far[j] = way;
      queue.push(j, (FINENESS * way) / reach);
    }
  return { far, pieces: begun.map((b) => b.piece) };
}

function piecesOf({ points, first, next }: HandGraph): number[][] {
  const n = points.length / 3;
  const seen = new Uint8Array(n);
  const out: number[][] = [];
  for (let start = 0; start < n; start++) {
    if (seen[start]) continue;
    const piece = [start];
    seen[start] = 1;
    for (let at = 0; at < piece.length; at++)
      for (let e = first[piece[at]!]!; e < first[piece[at]! + 1]!; e++) {
        const j = next[e]!;
        if (seen[j]) continue;
        seen[j] = 1;
        piece.push(j);
      }
    out.push(piece);
  }
  return out;
}
