import { findPairing, type Pairing } from '../body/pairing';
import type { Party } from '../body/party';
import { MotionError } from '../errors';
import { layAgain } from '../join/lay-again';
import { lapOf, layLaps } from '../join/loop-close';
import { mirror } from '../mirror/mirror';
import { comesRound } from '../motion/comes-round';
import type { Motion } from '../motion/motion';
import { resample, retime, trim } from '../motion/timing';
import { inPlace } from '../tune/travel';
import { endsOf, type Stretch, speedsOf } from './document';

/**
 * A stretch of an item as it is laid on a reel: cut out, mirrored, put in place, played at its speed, repeated, at the reel's
 * rate. A cycle repeats as it is; anything else passes from its end to its beginning.
 * @param motion the item on the member's rig, in its own rate @param pairing of the rig, where it is known already
 * @throws MotionError 'bad-argument' for a speed outside its range or less than one repeat
 */
export function placeStretch(
  party: Party,
  motion: Motion,
  stretch: Omit<Stretch, 'id' | 'itemId' | 'versionId' | 'at' | 'muted'> & { readonly inPlace?: boolean },
  fps: number,
  pairing?: Pairing,
): Motion {
  const { rig, map } = party;
  const { repeats, mirrored } = stretch;
  if (!Number.isInteger(repeats) || repeats < 1 || repeats > 1000)
    throw new MotionError('bad-argument', 'An item must be played once at least, and a thousand times at most.');
  const { from, to } = endsOf(stretch, motion);
  let out = trim(rig, motion, from, to);
  if (mirrored)
    out = mirror(rig, map, out, {
      pairing: pairing ?? findPairing(rig, map, undefined, party.pairs),
      cutout: party.cutout,
    });
  if (stretch.inPlace) out = inPlace(party, out);
  const speed = speedsOf(stretch, motion);
  if (speed !== 1) out = retime(rig, out, speed);
  if (repeats > 1 && out.frameCount > 2) out = repeat(party, out, repeats);
  return resample(rig, out, fps);
}

function repeat(party: Party, motion: Motion, times: number): Motion {
  if (comesRound(party.rig, motion)) return layLaps(party, motion, lapOf(party, motion, 15), times);
  return layAgain(party, motion, times);
}
