import type { SkeletonRig } from '../motion/index';
import { seeded } from './random';

// Rigs that nobody prepared for: the cast's bodies under other names, with more joints, in other orders. For tests and benches.

export interface Variant {
  readonly name: string;
  readonly rig: SkeletonRig;
  /** Slot → joint index as it is in the variant. */
  readonly truth: ReadonlyMap<string, number>;
}

const sideOf = (slot: string): 'L' | 'R' | undefined =>
  /[a-z\d]L$/.test(slot) ? 'L' : /[a-z\d]R$/.test(slot) ? 'R' : undefined;
const stemOf = (slot: string): string => (sideOf(slot) ? slot.slice(0, -1) : slot);

type Namer = (slot: string | undefined, index: number) => string;

/** How different houses name joints: word lists, side marks, order, prefixes. */
const HOUSES: Readonly<Record<string, Namer>> = {
  unnamed: (_, i) => `joint_${String(i).padStart(3, '0')}`,
  'numbers only': (_, i) => String(i * 7 + 3),
  'side behind': (slot, i) => word(slot, i, ENGLISH, (w, s) => (s ? `${w}_${s.toLowerCase()}` : w)),
  'side in front': (slot, i) =>
    word(slot, i, ENGLISH, (w, s) => (s ? `${s === 'L' ? 'Left' : 'Right'}${w[0]!.toUpperCase()}${w.slice(1)}` : w)),
  'dot sides': (slot, i) => word(slot, i, TRADE, (w, s) => (s ? `DEF-${w}.${s}` : `DEF-${w}`)),
  'name space': (slot, i) => word(slot, i, TRADE, (w, s) => `hero01:${s ? `${s}_` : ''}${w}_jnt`),
  'leg and arm': (slot, i) => word(slot, i, LOOSE, (w, s) => (s ? `${s === 'L' ? 'lft' : 'rgt'}_${w}` : w)),
  norwegian: (slot, i) => word(slot, i, NORSE, (w, s) => (s ? `${w}_${s === 'L' ? 'v' : 'h'}` : w)),
  capitals: (slot, i) =>
    word(slot, i, ENGLISH, (w, s) => `${s ?? 'C'}_${w.replace(/[A-Z]/g, (c) => `_${c}`).toUpperCase()}_BN`),
};

const ENGLISH: Record<string, string> = {
  hips: 'pelvis',
  spine: 'spine',
  neck: 'neck',
  head: 'head',
  collar: 'clavicle',
  upperArm: 'upperArm',
  forearm: 'foreArm',
  hand: 'hand',
  thigh: 'thigh',
  shin: 'calf',
  foot: 'foot',
  toes: 'toe',
};
const TRADE: Record<string, string> = {
  hips: 'hips',
  spine: 'spine',
  neck: 'neck',
  head: 'head',
  collar: 'shoulder',
  upperArm: 'upper_arm',
  forearm: 'forearm',
  hand: 'wrist',
  thigh: 'upleg',
  shin: 'shin',
  foot: 'ankle',
  toes: 'ball',
};
const LOOSE: Record<string, string> = {
  hips: 'hip',
  spine: 'back',
  neck: 'neck',
  head: 'head',
  collar: 'shoulder',
  upperArm: 'arm',
  forearm: 'elbow',
  hand: 'hand',
  thigh: 'hip',
  shin: 'knee',
  foot: 'foot',
  toes: 'toe',
};
const NORSE: Record<string, string> = {
  hips: 'hofte',
  spine: 'rygg',
  neck: 'nakke',
  head: 'hode',
  collar: 'krageben',
  upperArm: 'overarm',
  forearm: 'underarm',
  hand: 'haand',
  thigh: 'laar',
  shin: 'legg',
  foot: 'fot',
  toes: 'taa',
  thumb: 'tommel',
  index: 'peke',
  middle: 'lang',
  ring: 'ringfinger',
  pinky: 'lille',
};

function word(
  slot: string | undefined,
  index: number,
  words: Record<string, string>,
  put: (word: string, side: 'L' | 'R' | undefined) => string,
): string {
  if (!slot) return `extra_${index}`;
  const stem = stemOf(slot).replace('Twist', '');
  const number = /\d+$/.exec(stem)?.[0] ?? '';
  const bare = stem.replace(/\d+$/, '');
  const twist = slot.includes('Twist') ? '_twist' : '';
  return put((words[bare] ?? bare) + twist + number, sideOf(slot));
}

/** The same rig under another house's names. */
export function renamed(rig: SkeletonRig, truth: ReadonlyMap<string, number>, house: string): Variant {
  const slotOf = new Map([...truth].map(([slot, j]) => [j, slot]));
  const namer = HOUSES[house]!;
  return { name: house, rig: { ...rig, names: rig.names.map((_, j) => namer(slotOf.get(j), j)) }, truth };
}

export const HOUSE_NAMES = Object.keys(HOUSES);

/** Joints added to a rig, each hanging from a joint of the old one; old joints keep their order. */
export function withExtras(base: Variant, seed: number): Variant {
  const { rig, truth } = base;
  const random = seeded(seed);
  // as large as the body: told for a thigh of 42 cm
  const shin = truth.get('shinL') ?? 0;
  const size = Math.hypot(...rig.restT.subarray(3 * shin, 3 * shin + 3)) / 0.42;
  const at = (slot: string): number => truth.get(slot) ?? 0;
  const extras: { name: string; parent: number; chain: number[][] }[] = [
    {
      name: 'tail',
      parent: at('hips'),
      chain: [
        [0, 0.05, -0.12],
        [0, -0.02, -0.14],
        [0, -0.04, -0.14],
        [0, -0.04, -0.12],
      ],
    },
    { name: 'holster', parent: at('thighL'), chain: [[0.09, -0.05, 0.02]] },
    {
      name: 'prop',
      parent: at('handR'),
      chain: [
        [-0.06, 0, 0.03],
        [0, 0.3, 0],
      ],
    },
    { name: 'jaw', parent: at('head'), chain: [[0, 0.02, 0.05]] },
    { name: 'eye_a', parent: at('head'), chain: [[0.03, 0.1, 0.08]] },
    { name: 'eye_b', parent: at('head'), chain: [[-0.03, 0.1, 0.08]] },
    {
      name: 'cape',
      parent: [...truth].filter(([s]) => /^spine\d$/.test(s)).at(-1)?.[1] ?? 0,
      chain: [
        [0, 0.05, -0.12],
        [0, -0.2, -0.05],
        [0, -0.2, -0.02],
      ],
    },
  ];
  const names = [...rig.names];
  const parents = [...rig.parents];
  const restT = [...rig.restT];
  const restR = [...rig.restR];
  const tips = [...rig.tips];
  for (const { name, parent, chain } of extras) {
    if (random() < 0.3) continue;
    let above = parent;
    chain.forEach((offset, i) => {
      names.push(
        base.name === 'unnamed' || base.name === 'numbers only'
          ? `x${names.length}`
          : chain.length > 1
            ? `${name}_${i + 1}`
            : name,
      );
      parents.push(above);
      restT.push(...offset.map((x) => x * size));
      restR.push(0, 0, 0, 1);
      tips.push(Number.NaN, Number.NaN, Number.NaN);
      above = names.length - 1;
    });
  }
  return {
    name: `${base.name}, more joints`,
    truth,
    rig: {
      ...rig,
      names,
      parents: Int16Array.from(parents),
      restT: Float32Array.from(restT),
      restR: Float32Array.from(restR),
      tips: Float32Array.from(tips),
    },
  };
}

/** Sides swapped in the names: what stands left is called right. The tree and the names disagree; names decide. */
export function mirroredNames(base: Variant): Variant {
  const swap = (slot: string): string => (sideOf(slot) ? stemOf(slot) + (sideOf(slot) === 'L' ? 'R' : 'L') : slot);
  const truth = new Map([...base.truth].map(([slot, j]) => [swap(slot), j]));
  return renamed(base.rig, truth, base.name);
}
