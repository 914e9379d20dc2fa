import { crossOf } from '../math/vec';
import type { FigureMesh } from '../rig/figure';
import { childrenOf, restPose, type SkeletonRig } from '../rig/rig';

const ROUND = 8;
/** How thick a bone is, in its own length, and at most, in heights of the body. */
const THICK = 0.16;
const MOST_THICK = 0.035;

/**
 * A plain mesh for a skeleton that has none: a spindle along every bone, tied to its joint alone.
 * @param height of the body, in the rig's units
 */
export function lumpsOf(rig: SkeletonRig, height: number): FigureMesh {
  const rest = restPose(rig);
  const children = childrenOf(rig);
  const at = (j: number): number[] => [0, 1, 2].map((k) => rest.p[3 * j + k]!);
  const positions: number[] = [];
  const indices: number[] = [];
  const joints: number[] = [];
  const spindle = (joint: number, from: readonly number[], to: readonly number[]): void => {
    const direction = to.map((x, k) => x - from[k]!);
    const long = Math.hypot(...direction);
    if (long < 1e-6 * height) return;
    const z = direction.map((x) => x / long);
    const flat = Math.abs(z[1]!) < 0.9 ? [0, 1, 0] : [1, 0, 0];
    const x = crossOf(flat, z);
    const l = Math.hypot(...x);
    for (let k = 0; k < 3; k++) x[k]! /= l;
    const y = crossOf(z, x);
    const r = Math.min(THICK * long, MOST_THICK * height);
    const first = positions.length / 3;
    for (const [t, wide] of [
      [-0.03, 0.35],
      [0.12, 1],
      [0.85, 0.75],
      [1.03, 0.3],
    ] as const)
      for (let i = 0; i < ROUND; i++) {
        const [c, s] = [Math.cos((2 * Math.PI * i) / ROUND), Math.sin((2 * Math.PI * i) / ROUND)];
        for (let k = 0; k < 3; k++) positions.push(from[k]! + t * direction[k]! + r * wide * (c * x[k]! + s * y[k]!));
        joints.push(joint, 0, 0, 0);
      }
    for (let ring = 0; ring < 3; ring++)
      for (let i = 0; i < ROUND; i++) {
        const [p, q] = [first + ring * ROUND + i, first + ring * ROUND + ((i + 1) % ROUND)];
        indices.push(p, q, p + ROUND, q, q + ROUND, p + ROUND);
      }
    for (const ring of [0, 3])
      for (let i = 1; i + 1 < ROUND; i++)
        indices.push(first + ring * ROUND, first + ring * ROUND + i, first + ring * ROUND + i + 1);
  };
  rig.names.forEach((_, j) => {
    for (const c of children[j]!) spindle(j, at(j), at(c));
    if (children[j]!.length === 0 && !Number.isNaN(rig.tips[3 * j]!)) {
      // a tip is told in the joint's own frame; at rest most frames lie along the world's
      spindle(
        j,
        at(j),
        at(j).map((x, k) => x + rig.tips[3 * j + k]!),
      );
    }
  });
  return {
    name: 'bones',
    positions: Float32Array.from(positions),
    normals: undefined,
    uvs: undefined,
    colors: undefined,
    indices: Uint32Array.from(indices),
    material: 0,
    shapes: [],
    joints: Uint16Array.from(joints),
    weights: Float32Array.from({ length: joints.length }, (_, i) => (i % 4 === 0 ? 1 : 0)),
  };
}
