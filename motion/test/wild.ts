import { seeded } from '../math/random';
import type { SkeletonRig } from '../rig/rig';
import { buildRig, withOddAxes } from './bodies';

// Bodies as strangers send them: a seed decides proportions, names, what stands above the hips, what hangs beside them.

/** What a wild body is like; every trait can be asked for by name. */
export interface WildTraits {
  readonly seed: number;
  readonly words: keyof typeof VOCABULARIES;
  /** What carries hips, legs and spine. */
  readonly top: 'hips' | 'ground root' | 'armature' | 'siblings' | 'lower pelvis' | 'waist';
  readonly arms: 'level' | 'slanting' | 'hanging' | 'ahead';
  readonly spine: number;
  readonly neck: number;
  readonly collars: boolean;
  readonly toes: boolean;
  readonly fingers: 0 | 1 | 3 | 4 | 5;
  readonly palmBones: boolean;
  /** Long bones in two joints each. */
  readonly split: boolean;
  readonly helpers: boolean;
  readonly face: boolean;
  readonly extras: boolean;
  readonly controls: boolean;
  readonly endMarkers: boolean;
  readonly odd: boolean;
  /** Units to a metre. */
  readonly scale: number;
}

export interface WildBody {
  readonly traits: WildTraits;
  readonly rig: SkeletonRig;
  /** Slot → index of the joint that plays it. Spine joints of a chain are named from below. */
  readonly truth: ReadonlyMap<string, number>;
}

type Namer = (part: string, side: 'L' | 'R' | '', index: number) => string;
const capital = (s: string): string => s[0]!.toUpperCase() + s.slice(1);

const ENGLISH: Record<string, string> = {
  thigh: 'thigh',
  shin: 'calf',
  foot: 'foot',
  toes: 'toe',
  collar: 'clavicle',
  upperArm: 'upperarm',
  forearm: 'lowerarm',
  hand: 'hand',
  hips: 'pelvis',
  spine: 'spine',
  neck: 'neck',
  head: 'head',
};
const ANATOMY: Record<string, string> = {
  thigh: 'femur',
  shin: 'tibia',
  foot: 'tarsus',
  toes: 'toes',
  collar: 'clavicle',
  upperArm: 'humerus',
  forearm: 'radius',
  hand: 'carpus',
  hips: 'pelvis',
  spine: 'ribcage',
  neck: 'cervical',
  head: 'skull',
};
const SPANISH: Record<string, string> = {
  thigh: 'muslo',
  shin: 'pierna',
  foot: 'pie',
  toes: 'dedos',
  collar: 'clavicula',
  upperArm: 'brazo',
  forearm: 'antebrazo',
  hand: 'mano',
  hips: 'cadera',
  spine: 'columna',
  neck: 'cuello',
  head: 'cabeza',
  thumb: 'pulgar',
  index: 'indice',
  middle: 'medio',
  ring: 'anular',
  pinky: 'menique',
};
const LOOSE: Record<string, string> = {
  thigh: 'UpLeg',
  shin: 'Leg',
  foot: 'Foot',
  toes: 'ToeBase',
  collar: 'Shoulder',
  upperArm: 'Arm',
  forearm: 'ForeArm',
  hand: 'Hand',
  hips: 'Hips',
  spine: 'Spine',
  neck: 'Neck',
  head: 'Head',
};

const VOCABULARIES = {
  snake: (part, side, i) => `${ENGLISH[part] ?? part}${i ? `_0${i}` : ''}${side ? `_${side.toLowerCase()}` : ''}`,
  dots: (part, side, i) => `${ENGLISH[part] ?? part}${i ? `.00${i}` : ''}${side ? `.${side}` : ''}`,
  loose: (part, side, i) =>
    `${side === 'L' ? 'Left' : side === 'R' ? 'Right' : ''}${LOOSE[part] ?? capital(part)}${i || ''}`,
  anatomy: (part, side, i) => `${side ? `${side}_` : ''}${ANATOMY[part] ?? part}${i ? `_${i}` : ''}`,
  spanish: (part, side, i) => `${SPANISH[part] ?? part}${i || ''}${side === 'L' ? '_izq' : side === 'R' ? '_der' : ''}`,
  numbers: () => '',
} as const satisfies Record<string, Namer>;

export const WILD_WORDS = Object.keys(VOCABULARIES) as (keyof typeof VOCABULARIES)[];

/** Traits from a seed; some may be asked for. */
export function wildTraits(seed: number, asked: Partial<WildTraits> = {}): WildTraits {
  const random = seeded(seed * 7919 + 13);
  for (let i = 0; i < 8; i++) random();
  const pick = <T>(all: readonly T[]): T => all[Math.floor(random() * all.length)]!;
  const chance = (p: number): boolean => random() < p;
  return {
    seed,
    words: pick(WILD_WORDS),
    top: pick(['hips', 'ground root', 'armature', 'siblings', 'lower pelvis', 'waist'] as const),
    arms: pick(['level', 'slanting', 'hanging', 'ahead'] as const),
    spine: pick([1, 2, 3, 3, 4, 5, 6]),
    neck: pick([1, 1, 2, 3]),
    collars: chance(0.8),
    toes: chance(0.8),
    fingers: pick([0, 1, 3, 4, 5, 5, 5] as const),
    palmBones: chance(0.25),
    split: chance(0.2),
    helpers: chance(0.3),
    face: chance(0.5),
    extras: chance(0.5),
    controls: chance(0.3),
    endMarkers: chance(0.4),
    odd: chance(0.6),
    scale: pick([1, 1, 100, 39.37, 4.2]),
    ...asked,
  };
}

/** Builds a wild body; the same for the same traits. */
export function wildBody(seed: number, asked: Partial<WildTraits> = {}): WildBody {
  const traits = wildTraits(seed, asked);
  const random = seeded(seed * 104729 + 7);
  for (let i = 0; i < 8; i++) random();
  const between = (a: number, b: number): number => a + (b - a) * random();
  const name = VOCABULARIES[traits.words] as Namer;
  const spec: [string, string | null, number, number, number][] = [];
  const slots = new Map<string, string>();
  let unnamed = 0;
  const add = (key: string, parent: string | null, at: readonly number[]): string => {
    let own = key || `Bone.${String(unnamed++).padStart(3, '0')}`;
    while (spec.some(([n]) => n === own)) own = `${own}_b`;
    spec.push([own, parent, at[0]!, at[1]!, at[2]!]);
    return own;
  };
  const put = (
    slot: string,
    part: string,
    side: 'L' | 'R' | '',
    i: number,
    parent: string | null,
    at: readonly number[],
  ) => {
    const own = add(name(part, side, i), parent, at);
    slots.set(slot, own);
    return own;
  };
  const named = traits.words !== 'numbers';
  const helper = (key: string, parent: string | null, at: readonly number[]): string =>
    add(named ? key : '', parent, at);

  // (1) measures
  const leg = between(0.72, 1.0);
  const thigh = leg * between(0.42, 0.56);
  const ankle = leg * between(0.07, 0.11);
  const shin = leg - thigh - ankle;
  const wide = between(0.07, 0.13);
  const trunk = between(0.4, 0.6);
  const shoulder = between(0.13, 0.2);
  const upper = between(0.22, 0.33);
  const fore = upper * between(0.75, 1.05);
  const hipsY = leg + between(0.0, 0.08);
  const chestY = hipsY + trunk;

  // (2) what carries the body
  let base: string | null = null;
  if (traits.top === 'ground root' || traits.top === 'siblings') base = helper('root', null, [0, 0, 0]);
  if (traits.top === 'armature') base = helper('root', helper('Armature', null, [0, 0, 0]), [0, 0, 0]);
  let legsFrom: string;
  let spineFrom: string;
  if (traits.top === 'siblings') {
    legsFrom = helper(named ? name('hips', '', 0) : '', base, [0, hipsY, 0]);
    spineFrom = base!;
    slots.set('hips', base!);
  } else if (traits.top === 'lower pelvis') {
    const hips = put('hips', 'hips', '', 0, base, [0, hipsY, 0]);
    legsFrom = helper('lower_pelvis', hips, [0, hipsY - 0.04, 0]);
    spineFrom = helper('upper_pelvis', hips, [0, hipsY + 0.02, 0]);
    slots.set('spine1', spineFrom);
  } else if (traits.top === 'waist') {
    const waist = helper('cog', base, [0, hipsY + 0.06, 0]);
    slots.set('hips', waist);
    legsFrom = helper(named ? name('hips', '', 0) : '', waist, [0, hipsY, 0]);
    spineFrom = waist;
  } else {
    const hips = put('hips', 'hips', '', 0, base, [0, hipsY, 0]);
    legsFrom = hips;
    spineFrom = hips;
  }

  // (3) legs
  for (const side of ['L', 'R'] as const) {
    const s = side === 'L' ? 1 : -1;
    let from = legsFrom;
    if (traits.helpers)
      from = helper(`hip_helper${side === 'L' ? '_l' : '_r'}`, from, [0.4 * s * wide, hipsY - 0.01, 0]);
    const t = put(`thigh${side}`, 'thigh', side, 0, from, [s * wide, leg, 0]);
    const half = traits.split ? add(name('thigh', side, 2), t, [s * wide, leg - 0.5 * thigh, 0.005]) : t;
    const k = put(`shin${side}`, 'shin', side, 0, half, [s * wide, leg - thigh, 0.012]);
    const f = put(`foot${side}`, 'foot', side, 0, k, [s * wide, leg - thigh - shin, -0.01]);
    if (traits.toes) {
      const toe = put(`toes${side}`, 'toes', side, 0, f, [s * wide * 1.1, 0.02, 0.13]);
      if (traits.endMarkers) helper(`${name('toes', side, 0)}_end`, toe, [s * wide * 1.12, 0.01, 0.2]);
    }
  }

  // (4) trunk, head
  let top = spineFrom;
  const own = traits.top === 'lower pelvis' ? 1 : 0;
  for (let i = 1; i <= traits.spine; i++)
    top = put(`spine${i + own}`, 'spine', '', i, top, [
      0,
      hipsY + (trunk * (i - 0.3)) / traits.spine,
      -0.02 * Math.sin((3 * i) / traits.spine),
    ]);
  const chest = top;
  let neck = chest;
  for (let i = 1; i <= traits.neck; i++)
    neck = put(`neck${i}`, 'neck', '', i === 1 && traits.neck === 1 ? 0 : i, neck, [
      0,
      chestY + 0.03 + (0.09 * (i - 1)) / traits.neck,
      0,
    ]);
  const head = put('head', 'head', '', 0, neck, [0, chestY + 0.13, 0.01]);
  if (traits.endMarkers) helper(`${name('head', '', 0)}_end`, head, [0, chestY + 0.34, 0.01]);
  if (traits.face) {
    helper('jaw', head, [0, chestY + 0.15, 0.05]);
    for (const [side, s] of [
      ['l', 1],
      ['r', -1],
    ] as const) {
      helper(`eye_${side}`, head, [0.035 * s, chestY + 0.22, 0.09]);
      helper(`brow_${side}`, head, [0.035 * s, chestY + 0.25, 0.1]);
    }
  }

  // (5) arms and hands
  const slant = { level: 0, slanting: 45, hanging: 80, ahead: 0 }[traits.arms];
  const [c, d] = [Math.cos((slant * Math.PI) / 180), Math.sin((slant * Math.PI) / 180)];
  for (const side of ['L', 'R'] as const) {
    const s = side === 'L' ? 1 : -1;
    const root = [s * shoulder, chestY - 0.03, 0];
    /** A place along the arm, so far to the front of the hand and above it. */
    const at = (along: number, front = 0, above = 0): number[] =>
      traits.arms === 'ahead'
        ? [root[0]! - s * front, root[1]! + above, root[2]! + along]
        : [root[0]! + s * (along * c + above * d), root[1]! - along * d + above * c, root[2]! + front];
    const from = traits.collars
      ? put(`collar${side}`, 'collar', side, 0, chest, [s * 0.04, chestY - 0.01, 0.01])
      : chest;
    const u = put(`upperArm${side}`, 'upperArm', side, 0, from, root);
    const half = traits.split ? add(name('upperArm', side, 2), u, at(0.5 * upper)) : u;
    const e = put(`forearm${side}`, 'forearm', side, 0, half, at(upper, -0.004));
    const hand = put(`hand${side}`, 'hand', side, 0, e, at(upper + fore));
    const list = {
      0: [],
      1: ['middle'],
      3: ['thumb', 'index', 'middle'],
      4: ['thumb', 'index', 'middle', 'pinky'],
      5: ['thumb', 'index', 'middle', 'ring', 'pinky'],
    }[traits.fingers];
    const long = upper + fore;
    list.forEach((finger, i) => {
      const thumb = finger === 'thumb';
      const across = thumb ? 0.03 : 0.03 - 0.02 * (i - (list[0] === 'thumb' ? 1 : 0));
      let parent = hand;
      if (traits.palmBones && !thumb)
        parent = add(named ? `${name('palm', side, i)}` : '', hand, at(long + 0.02, across * 0.6));
      const reach = thumb ? [0.025, 0.06, 0.085] : [0.09, 0.125, 0.15];
      reach.forEach((r, k) => {
        parent = put(
          `${finger}${k + 1}${side}`,
          finger,
          side,
          k + 1,
          parent,
          at(long + r, thumb ? across + 0.012 * k : across, thumb ? -0.015 : 0),
        );
      });
    });
    if (traits.controls && named) {
      helper(`hand_ik_goal${side === 'L' ? '_l' : '_r'}`, base ?? legsFrom, at(long));
      helper(`foot_ik_goal${side === 'L' ? '_l' : '_r'}`, base ?? legsFrom, [s * wide, ankle, -0.01]);
    }
  }

  // (6) what else hangs from it
  if (traits.extras) {
    let tail = legsFrom;
    for (let i = 1; i <= 4; i++) tail = helper(`tail_${i}`, tail, [0, hipsY - 0.08 * i, -0.1 - 0.06 * i]);
    let cape = chest;
    for (let i = 1; i <= 4; i++) cape = helper(`cape_${i}`, cape, [0, chestY - 0.15 * i, -0.14]);
    helper('prop', slots.get('handR')!, [-shoulder - 0.3, chestY - 0.5, 0.1]);
  }

  const built = buildRig(spec, (n) => n);
  const rig = sized(traits.odd ? withOddAxes(built) : built, traits.scale);
  return {
    traits,
    rig: traits.top === 'armature' ? rig : rig,
    truth: new Map([...slots].map(([slot, n]) => [slot, spec.findIndex(([x]) => x === n)])),
  };
}

function sized(rig: SkeletonRig, by: number): SkeletonRig {
  return { ...rig, restT: rig.restT.map((x) => x * by), tips: rig.tips.map((x) => x * by) };
}
