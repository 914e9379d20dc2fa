import { mulInvQuat, rotate3 } from '../math/quat';
import type { FigureMesh } from './figure';
import { restPose, type SkeletonRig, type WorldPose } from './rig';

/**
 * A mesh bent by its skin: each vertex by the weighted mean of where its joints carry it (linear blending).
 * @param pose world pose of the rig
 * @returns 3 V numbers, in the world
 */
export function poseFigure(rig: SkeletonRig, mesh: FigureMesh, pose: WorldPose): Float32Array {
  const rest = restPose(rig);
  const n = rig.names.length;
  const turns = new Float64Array(4 * n);
  for (let j = 0; j < n; j++) mulInvQuat(turns, 4 * j, pose.r, 4 * j, rest.r, 4 * j);
  const out = new Float32Array(mesh.positions.length);
  const [from, to] = [new Float64Array(3), new Float64Array(3)];
  for (let v = 0; v < mesh.positions.length / 3; v++)
    for (let i = 4 * v; i < 4 * v + 4; i++) {
      const w = mesh.weights[i]!;
      if (w <= 0) continue;
      const j = mesh.joints[i]!;
      for (let k = 0; k < 3; k++) from[k] = mesh.positions[3 * v + k]! - rest.p[3 * j + k]!;
      rotate3(to, 0, turns, 4 * j, from, 0);
      for (let k = 0; k < 3; k++) out[3 * v + k]! += w * (to[k]! + pose.p[3 * j + k]!);
    }
  return out;
}
