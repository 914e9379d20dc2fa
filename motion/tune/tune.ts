import { findPairing } from '../body/pairing';
import type { Party } from '../body/party';
import { MotionError } from '../errors';
import { addOffsets, type OffsetTrack } from '../layer/offsets';
import { type MirrorMode, mirror } from '../mirror/mirror';
import type { Motion } from '../motion/motion';
import { hold, resample, retime, reverse, type SpeedKey, trim } from '../motion/timing';
import { despike, fillGaps, smooth } from './clean';
import { energy } from './energy';
import { place, setOnFloor } from './place';
import { stanceWidth, strideLength } from './stance';
import { inPlace } from './travel';
import { armsApart, lean } from './trunk-and-arms';

/** One step of tuning, as data: what it is called and how much of it. Steps are applied in their order. */
export type TuneStep =
  | { readonly op: 'energy'; readonly amount: number }
  | { readonly op: 'arms'; readonly degrees: number }
  | { readonly op: 'stance'; readonly scale: number }
  | { readonly op: 'stride'; readonly scale: number }
  | { readonly op: 'lean'; readonly forward: number; readonly left?: number }
  | { readonly op: 'speed'; readonly speed: number | readonly SpeedKey[] }
  | { readonly op: 'trim'; readonly start: number; readonly end: number }
  | { readonly op: 'hold'; readonly before?: number; readonly after?: number }
  | { readonly op: 'reverse' }
  | { readonly op: 'resample'; readonly fps: number }
  | { readonly op: 'despike' }
  | { readonly op: 'smooth'; readonly cutoffHz: number }
  | { readonly op: 'fillGaps' }
  | { readonly op: 'inPlace' }
  | { readonly op: 'floor' }
  | { readonly op: 'place'; readonly at: readonly [number, number]; readonly heading: number }
  | { readonly op: 'mirror'; readonly mode?: MirrorMode }
  | { readonly op: 'offsets'; readonly tracks: readonly OffsetTrack[] };

export type TuneName = TuneStep['op'];

/** What each step does, for lists and help. */
export const TUNE_LABELS: Readonly<Record<TuneName, string>> = {
  energy: 'Energy',
  arms: 'Arms apart',
  stance: 'Stance width',
  stride: 'Stride length',
  lean: 'Lean',
  speed: 'Speed',
  trim: 'Trim',
  hold: 'Hold at the ends',
  reverse: 'Backwards',
  resample: 'Frame rate',
  despike: 'Take out spikes',
  smooth: 'Smooth noise',
  fillGaps: 'Fill gaps',
  inPlace: 'In place',
  floor: 'Put on the floor',
  place: 'Turn and place',
  mirror: 'Mirror',
  offsets: 'Corrections',
};

/**
 * Applies steps of tuning to a motion on its own rig; each is pure, so the original stays. Plants are kept by those that
 * move the body: feet stay on their spots and the legs are bent anew.
 * @throws MotionError 'bad-argument' for amounts out of range, with a sentence that names them
 */
export function tune(party: Party, motion: Motion, steps: readonly TuneStep[]): Motion {
  return steps.reduce((m, step) => apply(party, m, step), motion);
}

function apply(party: Party, m: Motion, step: TuneStep): Motion {
  const { rig } = party;
  switch (step.op) {
    case 'energy':
      return energy(party, m, step.amount);
    case 'arms':
      return armsApart(party, m, step.degrees);
    case 'stance':
      return stanceWidth(party, m, step.scale);
    case 'stride':
      return strideLength(party, m, step.scale);
    case 'lean':
      return lean(party, m, step.forward, step.left);
    case 'speed':
      return retime(rig, m, step.speed);
    case 'trim':
      return trim(rig, m, step.start, step.end);
    case 'hold':
      return hold(rig, m, step.before ?? 0, step.after ?? 0);
    case 'reverse':
      return reverse(rig, m);
    case 'resample':
      return resample(rig, m, step.fps);
    case 'despike':
      return despike(rig, m);
    case 'smooth':
      return smooth(rig, m, step.cutoffHz);
    case 'fillGaps':
      return fillGaps(rig, m);
    case 'inPlace':
      return inPlace(party, m);
    case 'floor':
      return setOnFloor(party, m);
    case 'place':
      return place(party, m, step.at, step.heading);
    case 'mirror':
      return mirror(rig, party.map, m, {
        cutout: party.cutout,
        ...(step.mode ? { mode: step.mode } : {}),
        ...(party.pairs ? { pairing: findPairing(rig, party.map, undefined, party.pairs) } : {}),
      });
    case 'offsets':
      return addOffsets(rig, m, step.tracks);
    default:
      throw new MotionError(
        'bad-argument',
        `There is no tuning step called "${(step as { op: string }).op satisfies string}".`,
      );
  }
}
