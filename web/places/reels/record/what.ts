import { type CutoutRig, jointsOfPart, PASS_PARTS, type PassPart, viewsOf, viewTrack } from '@velvet-reel/motion';
import type { RigView } from '@/stage/rig-view';
import { what as texts } from '../texts';

/** What the pad moves in a pass: a part of the body, or a number. */
export type PadTarget =
  | { readonly kind: 'part'; readonly part: PassPart }
  | { readonly kind: 'number'; readonly name: string };

/** What keys choose in a pass: the drawings of a part, or the views of a joint. */
export interface LabelTarget {
  /** Name of the track. */
  readonly name: string;
  readonly words: string;
  readonly labels: readonly string[];
}

const PART_WORDS: Readonly<Record<PassPart, string>> = {
  head: texts.head,
  trunk: texts.trunk,
  armL: texts.armL,
  armR: texts.armR,
};

export interface PadChoice {
  readonly value: string;
  readonly label: string;
  readonly target: PadTarget | null;
}

/** What the pad can move on a rig. @param numbers names of face shapes and other numbers */
export const padChoices = ({ map }: Pick<RigView, 'map'>, numbers: readonly string[]): PadChoice[] => [
  { value: 'nothing', label: texts.nothing, target: null },
  ...PASS_PARTS.filter((part) => jointsOfPart(map, part).length > 0).map(
    (part): PadChoice => ({ value: part, label: PART_WORDS[part], target: { kind: 'part', part } }),
  ),
  ...numbers.map(
    (name): PadChoice => ({ value: `number ${name}`, label: texts.number(name), target: { kind: 'number', name } }),
  ),
];

/** What keys can choose on a cut-out: views of joints first, then drawings of parts. */
export function labelTargets(rig: CutoutRig | undefined): LabelTarget[] {
  if (!rig) return [];
  const views = rig.names.flatMap((joint, j): LabelTarget[] => {
    const labels = viewsOf(rig, j);
    return labels.length > 1 ? [{ name: viewTrack(joint), words: texts.viewsOf(joint), labels }] : [];
  });
  const drawings = rig.parts
    .filter((p) => p.drawings.length > 1)
    .map((p): LabelTarget => ({ name: p.name, words: texts.drawingsOf(p.name), labels: p.drawings }));
  return [...views, ...drawings];
}
