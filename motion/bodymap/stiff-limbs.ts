import { type BodyMap, jointOf, SIDES, type Side } from './slots';

/** A limb that is one joint: it swings as a whole and cannot bend. */
export interface StiffLimb {
  readonly kind: 'arm' | 'leg';
  readonly side: Side;
  readonly joint: number;
}

/** The bones of arms and legs, from the body outwards. */
export const LIMBS = { arm: ['upperArm', 'forearm', 'hand'], leg: ['thigh', 'shin', 'foot'] } as const;

/** The limbs of which only the first bone is there. Pure. */
export const stiffLimbs = (map: Pick<BodyMap, 'slots'>): StiffLimb[] =>
  SIDES.flatMap((side) =>
    (['arm', 'leg'] as const).flatMap((kind) => {
      const [joint, ...beyond] = LIMBS[kind].map((part) => jointOf(map, part + side)) as [number, ...number[]];
      return joint >= 0 && beyond.every((j) => j < 0) ? [{ kind, side, joint }] : [];
    }),
  );
