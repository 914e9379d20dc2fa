import type { SkeletonRig } from '../rig/rig';
import type { Motion } from './motion';

/** One of several skeletons in a rig: its root, how many joints hang from it. */
export interface Skeleton {
  readonly root: number;
  readonly name: string;
  readonly joints: number;
}

/** The trees of a rig, in their order. */
export function skeletonsOf(rig: SkeletonRig): Skeleton[] {
  const rootOf = new Int32Array(rig.names.length);
  const counts = new Map<number, number>();
  rig.parents.forEach((p, j) => {
    rootOf[j] = p < 0 ? j : rootOf[p]!;
    counts.set(rootOf[j]!, (counts.get(rootOf[j]!) ?? 0) + 1);
  });
  return [...counts].map(([root, joints]) => ({ root, name: rig.names[root]!, joints }));
}

/** Joints of one tree, and their old index by new index. */
export interface Taken {
  readonly rig: SkeletonRig;
  /** newIndex → oldIndex */
  readonly from: readonly number[];
}

/** A rig that holds one tree alone. */
export function takeSkeleton(rig: SkeletonRig, root: number): Taken {
  const keep = new Uint8Array(rig.names.length);
  rig.parents.forEach((p, j) => {
    keep[j] = j === root || (p >= 0 && keep[p]) ? 1 : 0;
  });
  const from = [...keep.keys()].filter((j) => keep[j]);
  const index = new Map(from.map((j, i) => [j, i]));
  const pick = (values: Float32Array, width: number): Float32Array =>
    Float32Array.from(from.flatMap((j) => [...values.subarray(width * j, width * (j + 1))]));
  return {
    from,
    rig: {
      ...rig,
      names: from.map((j) => rig.names[j]!),
      parents: Int16Array.from(from, (j) => (j === root ? -1 : index.get(rig.parents[j]!)!)),
      restT: pick(rig.restT, 3),
      restR: pick(rig.restR, 4),
      tips: pick(rig.tips, 3),
    },
  };
}

/** The motion of the joints taken. */
export function takeMotion(taken: Taken, motion: Motion, oldCount: number): Motion {
  const n = taken.from.length;
  const turns = new Float32Array(4 * n * motion.frameCount);
  for (let f = 0; f < motion.frameCount; f++)
    taken.from.forEach((j, i) => {
      turns.set(motion.turns.subarray(4 * (f * oldCount + j), 4 * (f * oldCount + j) + 4), 4 * (f * n + i));
    });
  const its = <T extends { readonly joint: number }>(tracks: readonly T[]): T[] =>
    tracks.flatMap((t) => {
      const joint = taken.from.indexOf(t.joint);
      return joint < 0 ? [] : [{ ...t, joint }];
    });
  return {
    ...motion,
    turns,
    places: its(motion.places),
    scales: its(motion.scales),
  };
}
