import type { Body } from '../body/body';
import type { Party } from '../body/party';
import type { Motion } from '../motion/motion';
import { restPose } from '../rig/rig';
import { holdTracks } from './holds';
import { isSole, type PlantPart, soleTracks } from './plants';

/**
 * Where the point of a part that plants hold it by is at one frame: sole points, the palm, the knee's joint, what a body
 * sits on. World, metres; undefined where the rig has no such part.
 * @param frame whole; frames beyond either end are the first or the last
 */
export function partPlace(
  party: Party & { readonly body: Body },
  motion: Pick<Motion, 'frameCount' | 'turns' | 'places'>,
  part: PlantPart,
  frame: number,
): [number, number, number] | undefined {
  const { rig, body } = party;
  const width = 4 * rig.names.length;
  const f = Math.max(0, Math.min(motion.frameCount - 1, frame));
  const one: Motion = {
    fps: 30,
    frameCount: 1,
    turns: motion.turns.slice(width * f, width * (f + 1)),
    places: motion.places.map((t) => ({ joint: t.joint, values: t.values.slice(3 * f, 3 * f + 3) })),
    numbers: [],
    scales: [],
    steps: [],
  };
  const track = isSole(part)
    ? soleTracks(rig, one, body)[part]
    : holdTracks(party, one, body, party.pose ?? restPose(rig))[part];
  return track && [track[0]!, track[1]!, track[2]!];
}
