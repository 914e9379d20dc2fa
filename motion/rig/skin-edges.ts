import { distance3 } from '../math/vec';
import type { Figure, FigureMesh } from './figure';

/**
 * Edges of a skin that its joints pull at: those between vertices that hang on different joints. E edges.
 * places: 6 E, both ends at rest, world, metres. joints, weights: 8 E, four influences an end.
 */
export interface SkinEdges {
  readonly places: Float32Array;
  readonly joints: Uint16Array;
  readonly weights: Float32Array;
}

/** Edges kept for each pair of joints that share skin, and in all. */
const PER_PAIR = 6;
const MOST_EDGES = 400;
/** Ends whose weights differ by less hang on the same joints. */
const DIFFER = 0.2;
/** Shorter edges stretch by noise, metres. */
const SHORTEST = 0.002;

/** A sample of the edges at which a skin would show that a joint was left behind; see skinStretch. */
export function sampleEdges(figure: Figure): SkinEdges {
  const groups = new Map<number, { mesh: FigureMesh; a: number; b: number }[]>();
  for (const mesh of figure.meshes) {
    const { indices } = mesh;
    const vertices = mesh.positions.length / 3;
    const seen = new Set<number>();
    for (let i = 0; i + 2 < indices.length; i += 3)
      for (const [x, y] of [
        [0, 1],
        [1, 2],
        [2, 0],
      ] as const) {
        const a = Math.min(indices[i + x]!, indices[i + y]!);
        const b = Math.max(indices[i + x]!, indices[i + y]!);
        if (
          apart(mesh, a, b) < DIFFER ||
          distance3(mesh.positions, 3 * a, mesh.positions, 3 * b) < SHORTEST ||
          seen.has(a * vertices + b)
        )
          continue;
        seen.add(a * vertices + b);
        const [p, q] = [strongest(mesh, a), strongest(mesh, b)];
        const pair = Math.min(p, q) * 65536 + Math.max(p, q);
        const group = groups.get(pair);
        if (group) group.push({ mesh, a, b });
        else groups.set(pair, [{ mesh, a, b }]);
      }
  }
  const chosen = [...groups.values()]
    .sort((x, y) => y.length - x.length)
    .flatMap((group) => {
      const step = Math.max(1, group.length / PER_PAIR);
      return Array.from({ length: Math.min(PER_PAIR, group.length) }, (_, i) => group[Math.floor(i * step)]!);
    })
    .slice(0, MOST_EDGES);
  const places = new Float32Array(6 * chosen.length);
  const joints = new Uint16Array(8 * chosen.length);
  const weights = new Float32Array(8 * chosen.length);
  chosen.forEach(({ mesh, a, b }, e) => {
    for (const [end, v] of [a, b].entries()) {
      places.set(mesh.positions.subarray(3 * v, 3 * v + 3), 6 * e + 3 * end);
      joints.set(mesh.joints.subarray(4 * v, 4 * v + 4), 8 * e + 4 * end);
      weights.set(mesh.weights.subarray(4 * v, 4 * v + 4), 8 * e + 4 * end);
    }
  });
  return { places, joints, weights };
}

/** How differently two vertices hang: half the sum of differences of their weights, 0 to 1. */
function apart({ joints, weights }: FigureMesh, a: number, b: number): number {
  let shared = 0;
  for (let i = 0; i < 4; i++)
    for (let k = 0; k < 4; k++)
      if (joints[4 * a + i] === joints[4 * b + k]) shared += Math.min(weights[4 * a + i]!, weights[4 * b + k]!);
  return 1 - shared;
}

function strongest({ joints, weights }: FigureMesh, v: number): number {
  let best = 0;
  for (let i = 1; i < 4; i++) if (weights[4 * v + i]! > weights[4 * v + best]!) best = i;
  return joints[4 * v + best]!;
}
