import type { Ease } from '../motion/curve';
import type { Motion } from '../motion/motion';
import type { Carry, Meet } from './meet';
import type { Stands } from './steps';

/**
 * How one motion passes into the next. cut: at once. crossfade: both are mixed while they overlap. decay: the second one plays
 * from its first frame, and what it differs in from the first dies away. bridge: what lies between them is computed.
 */
export const JOIN_KINDS = ['cut', 'crossfade', 'decay', 'bridge'] as const;
export type JoinKind = (typeof JOIN_KINDS)[number];

export interface JoinWish {
  readonly kind: JoinKind;
  /** Longest crossfade, or time over which a difference dies away, frames. */
  readonly frames: number;
  /** How a crossfade passes from one to the other. */
  readonly shape: Ease;
  readonly meet: Meet;
  /** Goes on at the height of the ground that was reached, a stair or a slope; heights stay otherwise. */
  readonly level: boolean;
}
export const JOIN_DEFAULTS: JoinWish = { kind: 'crossfade', frames: 10, shape: 'smooth', meet: 'hips', level: false };

/** A motion laid on a lane. */
export interface Laid {
  /** On the lane's rig, at the lane's rate. */
  readonly motion: Motion;
  /** Frame of the lane on which its first one falls. */
  readonly at: number;
  /** How what lies before it on the lane passes into it. */
  readonly join: JoinWish;
  /** Beyond where it meets what lies before. */
  readonly offset?: Carry | undefined;
  /** What its feet stand on, where that is known already. */
  readonly stands?: Stands | undefined;
}

/** A passage as it was carried out. */
export interface JoinFact {
  /** Index of the motion it leads to. */
  readonly to: number;
  readonly kind: JoinKind;
  /** First frame that is not the first motion's alone, and the first that is the second's alone. */
  readonly start: number;
  readonly end: number;
  /** How the second motion was carried. */
  readonly carry: Carry;
}
