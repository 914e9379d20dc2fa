import { slotLabel } from '../bodymap/slots';

/** What sort of thing is wrong: what lanes, offers and the score go by. */
export type TroubleKind =
  | 'slip'
  | 'floor'
  | 'hover'
  | 'reach'
  | 'hands'
  | 'snap'
  | 'limit'
  | 'crossing'
  | 'body'
  | 'skin'
  | 'stance'
  | 'map'
  | 'still'
  | 'unpaired'
  | 'gap'
  | 'aside'
  | 'brief';

/** One thing that is wrong, as data: what, where, when and by how much. */
export interface TroubleFact {
  readonly kind: TroubleKind;
  readonly frame: number;
  /** Name of the target's joint to look at (of the source's for motion without a partner). */
  readonly joint: string;
  /** Parts it speaks of: slots of the body map, or points that are held (heelL, kneeR, seat). */
  readonly parts: readonly string[];
  /** How much: centimetres, degrees, times or per cent, by unit; 0 where there is nothing to measure. */
  readonly amount: number;
  readonly unit: 'cm' | '°' | '×' | '%' | '';
  /** Names that the sentence needs beside the parts: joints, or what a map's fault says. */
  readonly names?: readonly string[];
}

/** A trouble with the sentence that people read. */
export interface Trouble extends TroubleFact {
  readonly text: string;
}

/** Every sentence about troubles is made here. */
export function told(fact: TroubleFact): Trouble {
  return { ...fact, text: sentence(fact) };
}

function sentence({ kind, parts, amount, names = [] }: TroubleFact): string {
  const cm = `${amount.toFixed(1)} cm`;
  const [one, other] = parts;
  switch (kind) {
    case 'slip':
      return `${partLabel(one!)} slides ${cm} while it should ${one === 'seat' ? 'rest' : 'stand'}`;
    case 'floor':
      return `a sole is ${cm} under the ground`;
    case 'hover':
      return `${partLabel(one!)} hovers ${cm} above its spot`;
    case 'reach':
      return one!.startsWith('hand')
        ? `an arm is ${cm} too short for its goal`
        : `a leg is ${cm} too short for its plant`;
    case 'hands':
      return `the hands hold one thing in the source; here their distance is ${cm} off`;
    case 'snap':
      return `the ${slotLabel(one!)} bends ${amount.toFixed(1)} times as sharply as the source's`;
    case 'limit':
      return `the ${slotLabel(one!)} goes ${amount.toFixed(0)}° beyond what a body can`;
    case 'crossing':
      return `${slotLabel(one!)} and ${slotLabel(other!)} run ${cm} into each other`;
    case 'body':
      return other
        ? `${one} and ${other} come apart, by ${amount.toFixed(0)} % of what lies between them at rest`
        : `the ${one} lies ${amount.toFixed(0)}° away from the source's`;
    case 'skin':
      return `the skin about ${names[0] ?? 'a joint'} is stretched ${amount.toFixed(1)} times as far as its limbs stretch it`;
    case 'stance':
      return one === 'forelegs'
        ? 'the target goes on four legs and the source on two: forelegs hang as arms do, and nothing holds them on the ground'
        : 'the source goes on four legs and the target on two: its forelegs became arms';
    case 'map':
      return `in the ${one}’s map the ${names[0]}`;
    case 'gap':
      return `${names[0]} hangs ${cm} away from where it is fixed`;
    case 'aside':
      return `${names[0]} points ${amount.toFixed(0)}° away from where the source’s is seen to point`;
    case 'brief':
      return `${names[0]}: "${names[1]}" shows for ${amount === 1 ? 'one frame' : `${amount} frames`} only`;
    case 'still':
      return `${listNames(names)} ${names.length > 1 ? 'are' : 'is'} mapped, but the source holds no motion there`;
    case 'unpaired':
      return `${listNames(names)} ${names.length > 1 ? 'move' : 'moves'} in the source and ${names.length > 1 ? 'have' : 'has'} no partner`;
  }
}

const listNames = (names: readonly string[]): string =>
  names.length <= 3 ? names.join(', ') : `${names.slice(0, 2).join(', ')} and ${names.length - 2} more joints`;

/** A held point in words. */
const partLabel = (part: string): string =>
  part === 'seat' ? 'the seat' : `${part.endsWith('L') ? 'left' : 'right'} ${part.slice(0, -1)}`;
