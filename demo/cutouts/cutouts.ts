import { cookAnise } from './cook-anise';
import { gullCaptain } from './gull-captain';
import { strangersFigure } from './stranger';

export interface CutoutFile {
  readonly file: string;
  readonly name: string;
  readonly note: string;
  readonly svg: () => string;
}

/** The paper figures of the demo world, as layered drawings. */
export const CUTOUTS: readonly CutoutFile[] = [
  {
    file: 'gull-captain.svg',
    name: 'Gull Captain',
    note: 'Cut-out, drawn from the front: long in the leg, three views of the head, a lantern that swings.',
    svg: gullCaptain,
  },
  {
    file: 'cook-anise.svg',
    name: 'Cook Anise',
    note: 'Cut-out in profile: short in the leg, broad, three views of the head.',
    svg: cookAnise,
  },
  {
    file: 'zoellner.svg',
    name: 'Toll Keeper',
    note: 'Cut-out from another studio: layers in German, one piece for the trunk.',
    svg: strangersFigure,
  },
];
