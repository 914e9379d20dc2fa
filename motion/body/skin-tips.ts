import { invertQuat, rotate3 } from '../math/quat';
import { length3 } from '../math/vec';
import type { Figure } from '../rig/figure';
import { restPose, type SkeletonRig } from '../rig/rig';

/**
 * The rig with tips for joints that have none, read off the skin they carry: from the joint through the middle of its skin to
 * where that ends. Joints that carry no skin, or lie in its middle, stay without. Pure.
 * @param figure standing in the rig's rest pose
 */
export function withSkinTips(rig: SkeletonRig, figure: Figure, joints: readonly number[]): SkeletonRig {
  const pose = restPose(rig);
  const tips = rig.tips.slice();
  for (const joint of joints) {
    if (!Number.isNaN(tips[3 * joint]!)) continue;
    const own = skinOf(figure, joint).map((v) => v.map((x, k) => x - pose.p[3 * joint + k]!));
    const middle = [0, 1, 2].map((k) => own.reduce((sum, v) => sum + v[k]!, 0) / own.length);
    const long = length3(middle, 0);
    // not all at once: a function takes only so many numbers
    const reach = own.reduce((most, v) => Math.max(most, v.reduce((sum, x, k) => sum + x * middle[k]!, 0) / long), 0);
    // skin all round a joint says nothing of where its bone leads
    if (!(long > 0.2 * reach)) continue;
    const back = [0, 0, 0, 1];
    invertQuat(back, 0, pose.r, 4 * joint);
    const tip = middle.map((x) => (x * reach) / long);
    rotate3(tip, 0, back, 0, tip, 0);
    tips.set(tip, 3 * joint);
  }
  return { ...rig, tips };
}

/** Where the vertices lie that a joint moves more than any other does, in the world at rest. */
function skinOf(figure: Figure, joint: number): number[][] {
  const out: number[][] = [];
  for (const { positions, joints, weights } of figure.meshes)
    for (let v = 0; v < positions.length / 3; v++) {
      let most = 0;
      for (let k = 1; k < 4; k++) if (weights[4 * v + k]! > weights[4 * v + most]!) most = k;
      if (joints[4 * v + most] === joint) out.push([...positions.subarray(3 * v, 3 * v + 3)]);
    }
  return out;
}
