import { angleBetweenQuats } from '../math/quat';
import { distance3 } from '../math/vec';
import { restPose, type SkeletonRig } from './rig';

/** What differs between two skeletons, joints by name. */
export interface RigDifferences {
  readonly added: readonly string[];
  readonly removed: readonly string[];
  /** Joints that hang from another joint than before. */
  readonly reparented: readonly { joint: string; from: string; to: string }[];
  /** Joints whose rest place against their parent moved, and by how much, metres; the largest first. */
  readonly moved: readonly { joint: string; by: number }[];
  /** Joints whose rest turn in the world changed, degrees; the largest first. */
  readonly turned: readonly { joint: string; degrees: number }[];
  readonly same: boolean;
}

const MOVED = 0.001;
const TURNED = 0.1;

/** Compares two skeletons by joint names. Differences below a millimetre and a tenth of a degree are none. */
export function compareRigs(before: SkeletonRig, after: SkeletonRig): RigDifferences {
  const was = new Map(before.names.map((name, j) => [name, j]));
  const is = new Map(after.names.map((name, j) => [name, j]));
  const parentOf = (rig: SkeletonRig, j: number): string => rig.names[rig.parents[j]!] ?? 'nothing';
  const [a, b] = [restPose(before), restPose(after)];
  const reparented: { joint: string; from: string; to: string }[] = [];
  const moved: { joint: string; by: number }[] = [];
  const turned: { joint: string; degrees: number }[] = [];
  for (const [joint, j] of is) {
    const i = was.get(joint);
    if (i === undefined) continue;
    const [from, to] = [parentOf(before, i), parentOf(after, j)];
    if (from !== to) reparented.push({ joint, from, to });
    const by = distance3(before.restT, 3 * i, after.restT, 3 * j);
    if (by > MOVED) moved.push({ joint, by });
    const degrees = (angleBetweenQuats(a.r, 4 * i, b.r, 4 * j) * 180) / Math.PI;
    if (degrees > TURNED) turned.push({ joint, degrees });
  }
  const added = after.names.filter((x) => !was.has(x));
  const removed = before.names.filter((x) => !is.has(x));
  moved.sort((x, y) => y.by - x.by);
  turned.sort((x, y) => y.degrees - x.degrees);
  return {
    added,
    removed,
    reparented,
    moved,
    turned,
    same: added.length + removed.length + reparented.length + moved.length + turned.length === 0,
  };
}
