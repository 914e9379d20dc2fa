import { JOIN_DEFAULTS, type Placement } from '../../../motion/index';

/** An item as it is laid on a lane when nothing is set. */
export const PLACED: Omit<Placement, 'id' | 'itemId'> = {
  at: 0,
  from: 0,
  to: null,
  speed: 1,
  repeats: 1,
  mirrored: false,
  muted: false,
  inPlace: false,
  offset: { x: 0, z: 0, turn: 0 },
  join: JOIN_DEFAULTS,
};
