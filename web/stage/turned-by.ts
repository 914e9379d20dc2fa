import { Quaternion } from 'three';

type Q = readonly [number, number, number, number];

/**
 * A turn of a joint in its parent's frame after the joint was turned in the world: with W the joint's world turn as the drag
 * began and D the drag, the own turn L becomes L · W⁻¹ · D · W. x y z w.
 */
export function turnedBy(own: readonly number[], world: Q, drag: Q): [number, number, number, number] {
  const w = new Quaternion(...world);
  return new Quaternion(...(own as Q))
    .multiply(w.clone().invert())
    .multiply(new Quaternion(...drag))
    .multiply(w)
    .normalize()
    .toArray() as [number, number, number, number];
}
