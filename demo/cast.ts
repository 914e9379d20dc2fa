import type { BodySpec } from './body-spec';
import type { Look } from './figure';

export interface CastMember {
  id: string;
  name: string;
  note: string;
  spec: BodySpec;
  look: Look;
  /** How the file is written: units a metre, and whether Z is up. */
  file: { unitsPerMetre: number; zUp: boolean };
  seed: number;
}

const pascal = (s: string): string => s[0]!.toUpperCase() + s.slice(1);
const sideOf = (slot: string): 'L' | 'R' | undefined =>
  /[a-z\d]L$/.test(slot) ? 'L' : /[a-z\d]R$/.test(slot) ? 'R' : undefined;
const stem = (slot: string): string => (sideOf(slot) ? slot.slice(0, -1) : slot);

/** Left_UpperArm … the standard performer. */
function plainName(slot: string): string {
  const side = sideOf(slot);
  const body = stem(slot)
    .replace(/^spine1$/, 'lowerSpine')
    .replace(/^spine2$/, 'upperSpine')
    .replace(/^spine3$/, 'chest')
    .replace(/^neck1$/, 'neck');
  return side ? `${side === 'L' ? 'Left' : 'Right'}_${pascal(body)}` : pascal(body);
}

const TOVE: Record<string, string> = {
  hips: 'root_jnt',
  neck1: 'neck',
  head: 'skull',
  collar: 'clavicle',
  upperArm: 'arm',
  forearm: 'elbow',
  hand: 'palm',
  thigh: 'leg',
  shin: 'knee',
  foot: 'ankle',
  toes: 'toe',
};
function toveName(slot: string): string {
  const side = sideOf(slot);
  const spine = /^spine(\d)$/.exec(slot);
  if (spine) return `spine${'ABCDE'[Number(spine[1]) - 1]}`;
  const finger = /^(thumb|index|middle|ring|pinky)(\d)$/.exec(stem(slot));
  const body = finger ? `${finger[1]}_${finger[2]}` : (TOVE[stem(slot)] ?? stem(slot));
  return side ? `${body}_${side.toLowerCase()}` : body;
}

function winchName(slot: string): string {
  const names: Record<string, string> = {
    hips: 'HIP BLOCK',
    spine1: 'TORSO',
    head: 'HEAD',
    collar: 'SHLDR',
    upperArm: 'UPARM',
    forearm: 'LOARM',
    hand: 'GRIPPER',
    thigh: 'UPLEG',
    shin: 'LOLEG',
    foot: 'FOOT',
    toes: 'TOE',
  };
  const side = sideOf(slot);
  return `W_${side ? `${side}_` : ''}${names[stem(slot)] ?? stem(slot)}`.replace(/ /g, '_');
}

function skerryName(slot: string): string {
  const side = sideOf(slot);
  const body = stem(slot)
    .replace(/(\d)$/, '.00$1')
    .replace(/upperArm/, 'upper_arm')
    .replace('Twist', '_twist')
    .replace(/^hand/, 'hand')
    .toLowerCase();
  return side ? `${body}.${side}` : body;
}

function pipName(slot: string): string {
  const side = sideOf(slot);
  const names: Record<string, string> = {
    hips: 'Pelvis',
    spine1: 'Waist',
    spine2: 'Chest',
    neck1: 'Neck',
    head: 'Head',
    collar: 'Collar',
    upperArm: 'UpArm',
    forearm: 'ForeArm',
    hand: 'Hand',
    thigh: 'Thigh',
    shin: 'Shin',
    foot: 'Foot',
    toes: 'ToeBase',
  };
  const body = names[stem(slot)] ?? pascal(stem(slot));
  return `pip:${side ? (side === 'L' ? 'l' : 'r') : ''}${body}`;
}

const five: BodySpec['fingers'] = [3, 3, 3, 3, 3];

export const CAST: readonly CastMember[] = [
  {
    id: 'ines',
    name: 'Ines Vane',
    note: 'Mate of the ferry; the standard performer. All takes were recorded on her.',
    spec: {
      hipWidth: 0.092,
      thigh: 0.42,
      shin: 0.4,
      ankle: 0.085,
      foot: 0.135,
      toes: 0.075,
      spine: [0.12, 0.13, 0.2],
      shoulderWidth: 0.17,
      collar: 0.13,
      upperArm: 0.28,
      forearm: 0.25,
      hand: 0.18,
      neck: [0.09],
      head: 0.23,
      arms: 90,
      fingers: five,
      twists: false,
      axes: 'world',
      name: plainName,
    },
    look: {
      kind: 'person',
      girth: 1,
      belly: 1,
      head: 1,
      coat: [0.055, 0.085, 0.16],
      trousers: [0.19, 0.16, 0.15],
      boots: [0.05, 0.035, 0.03],
      skin: [0.62, 0.36, 0.24],
      trim: [0.82, 0.5, 0.1],
      hair: [0.06, 0.03, 0.02],
      hat: 'cap',
    },
    file: { unitsPerMetre: 1, zUp: false },
    seed: 11,
  },
  {
    id: 'tove',
    name: 'Big Tove',
    note: 'Engineer. Short legs, broad, rests in A, five spine joints; the file is in centimetres.',
    spec: {
      hipWidth: 0.13,
      thigh: 0.27,
      shin: 0.25,
      ankle: 0.09,
      foot: 0.13,
      toes: 0.07,
      spine: [0.07, 0.07, 0.08, 0.09, 0.14],
      shoulderWidth: 0.235,
      collar: 0.17,
      upperArm: 0.24,
      forearm: 0.22,
      hand: 0.17,
      neck: [0.06],
      head: 0.24,
      arms: 44,
      fingers: [2, 2, 2, 0, 2],
      twists: false,
      axes: 'bone',
      name: toveName,
    },
    look: {
      kind: 'person',
      girth: 1.55,
      belly: 1.35,
      head: 1.08,
      coat: [0.72, 0.42, 0.06],
      trousers: [0.72, 0.42, 0.06],
      boots: [0.03, 0.05, 0.05],
      skin: [0.75, 0.46, 0.34],
      trim: [0.1, 0.24, 0.3],
      hair: [0.42, 0.13, 0.04],
      hat: 'souwester',
    },
    file: { unitsPerMetre: 100, zUp: false },
    seed: 22,
  },
  {
    id: 'winch',
    name: 'Winch',
    note: 'Deck robot. One spine joint, no neck, stiff hands, joint axes anyhow.',
    spec: {
      hipWidth: 0.14,
      thigh: 0.34,
      shin: 0.36,
      ankle: 0.1,
      foot: 0.13,
      toes: 0.08,
      spine: [0.42],
      shoulderWidth: 0.26,
      collar: 0.1,
      upperArm: 0.31,
      forearm: 0.33,
      hand: 0.16,
      neck: [],
      head: 0.26,
      arms: 78,
      fingers: [0, 0, 0, 0, 0],
      twists: false,
      axes: 'odd',
      name: winchName,
    },
    look: {
      kind: 'robot',
      girth: 1.2,
      belly: 1,
      head: 1,
      coat: [0.1, 0.29, 0.28],
      trousers: [0.2, 0.22, 0.22],
      boots: [0.06, 0.07, 0.07],
      skin: [0.62, 0.6, 0.52],
      trim: [0.75, 0.45, 0.1],
      hair: [0.9, 0.75, 0.35],
      hat: 'none',
    },
    file: { unitsPerMetre: 1, zUp: false },
    seed: 33,
  },
  {
    id: 'skerry',
    name: 'Skerry',
    note: 'Lighthouse keeper. Very tall and thin, Z up, no toes, twist joints.',
    spec: {
      hipWidth: 0.085,
      thigh: 0.56,
      shin: 0.55,
      ankle: 0.09,
      foot: 0.2,
      toes: 0,
      spine: [0.14, 0.14, 0.14, 0.2],
      shoulderWidth: 0.16,
      collar: 0.12,
      upperArm: 0.37,
      forearm: 0.35,
      hand: 0.22,
      neck: [0.07, 0.07],
      head: 0.25,
      arms: 55,
      fingers: five,
      twists: true,
      axes: 'bone',
      name: skerryName,
    },
    look: {
      kind: 'person',
      girth: 0.8,
      belly: 0.85,
      head: 0.95,
      coat: [0.05, 0.13, 0.09],
      trousers: [0.08, 0.08, 0.1],
      boots: [0.1, 0.06, 0.03],
      skin: [0.7, 0.5, 0.42],
      trim: [0.5, 0.47, 0.4],
      hair: [0.55, 0.53, 0.5],
      hat: 'none',
    },
    file: { unitsPerMetre: 1, zUp: true },
    seed: 44,
  },
  {
    id: 'pip',
    name: 'Pip',
    note: 'Ship\u2019s child. Big head, rests in T.',
    spec: {
      hipWidth: 0.065,
      thigh: 0.23,
      shin: 0.22,
      ankle: 0.06,
      foot: 0.095,
      toes: 0.05,
      spine: [0.12, 0.16],
      shoulderWidth: 0.115,
      collar: 0.08,
      upperArm: 0.17,
      forearm: 0.15,
      hand: 0.11,
      neck: [0.04],
      head: 0.27,
      arms: 90,
      fingers: [2, 2, 2, 2, 2],
      twists: false,
      axes: 'bone',
      name: pipName,
    },
    look: {
      kind: 'person',
      girth: 0.78,
      belly: 0.9,
      head: 1.3,
      coat: [0.55, 0.07, 0.06],
      trousers: [0.1, 0.14, 0.24],
      boots: [0.75, 0.55, 0.1],
      skin: [0.78, 0.52, 0.4],
      trim: [0.85, 0.8, 0.7],
      hair: [0.2, 0.09, 0.03],
      hat: 'bobble',
    },
    file: { unitsPerMetre: 1, zUp: false },
    seed: 55,
  },
];
