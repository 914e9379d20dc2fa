import { FINGERS, type LimbPart, type Side } from './slots';

export type CentrePart = 'hips' | 'spine' | 'neck' | 'head';
export type NamePart = LimbPart | CentrePart | (typeof FINGERS)[number];

/** What a joint's name says about it. */
export interface NameReading {
  readonly side: Side | undefined;
  /** Parts the name may stand for, with 1 for a word that means just this and less for one used for several. */
  readonly parts: ReadonlyMap<NamePart, number>;
  readonly twist: boolean;
  /** An end marker, not a joint that moves. */
  readonly end: boolean;
  /** Something that is not body: prop, camera, light, control. */
  readonly foreign: boolean;
  /** Called a helper or a control, which may carry parts of the body all the same. */
  readonly helper: boolean;
}

// The trade's vocabularies; "shoulder", "hip", "leg" and "arm" mean different bones in different files, hence halves.
const WORDS: [RegExp, NamePart, number][] = [
  [/^(thigh|upleg|upperleg|legupper|femur|hipjoint)/, 'thigh', 1],
  [/^(leg)(\d|$)/, 'thigh', 0.5],
  [/^(leg)(\d|$)/, 'shin', 0.5],
  [/^(hip)(\d|$)/, 'thigh', 0.5],
  [/^(shin|calf|knee|lowleg|lowerleg|leglower|lolleg|loleg|tibia|crus)/, 'shin', 1],
  [/^(foot|ankle|tarsus|tarsal)/, 'foot', 1],
  [/^(toe|ball|phalan)/, 'toes', 1],
  [/^foottoe/, 'toes', 1],
  [/^(collar|clav|scapula)/, 'collar', 1],
  [/^(shoulder|shldr)/, 'collar', 0.6],
  [/^(shoulder|shldr)/, 'upperArm', 0.5],
  [/^(upperarm|uparm|armupper|humerus|bicep)/, 'upperArm', 1],
  [/^(arm)(\d|$)/, 'upperArm', 0.7],
  [/^(arm)(\d|$)/, 'forearm', 0.3],
  [/^(forearm|lowerarm|lowarm|armlower|loarm|elbow|radius|ulna)/, 'forearm', 1],
  [/^(hand|wrist|carpus|carpal|gripper|mitt)/, 'hand', 1],
  [/^palm/, 'hand', 0.5],
  [/^(hips|pelvis)/, 'hips', 1],
  [/^(hip|root|cog)(\d|$|jnt|joint|bone)/, 'hips', 0.5],
  [
    /^(spine|chest|torso|thorax|abdomen|waist|belly|lumbar|lowback|lowerback|upperback|back|rib|sternum|trunk|column|vertebra|thoracic)/,
    'spine',
    1,
  ],
  [/^(neck|cervical)/, 'neck', 1],
  [/^(head|skull|cranium)/, 'head', 1],
  [/^(thumb)/, 'thumb', 1],
  [/^(index|pointer|forefinger)/, 'index', 1],
  [/^(middle|mid)(\d|$|finger)/, 'middle', 1],
  [/^(ring)(\d|$|finger)/, 'ring', 1],
  [/^(pinky|pinkie|little)/, 'pinky', 1],
];
const SIDE_WORDS: Record<string, Side> = {
  l: 'L',
  left: 'L',
  lft: 'L',
  lf: 'L',
  lt: 'L',
  r: 'R',
  right: 'R',
  rgt: 'R',
  rt: 'R',
};
const FILLER = new Set([
  'jnt',
  'joint',
  'bone',
  'bn',
  'jt',
  'j',
  'b',
  'skin',
  'bind',
  'def',
  'rig',
  'sk',
  'c',
  'ctr',
  'center',
  'centre',
  'm',
]);

/** Splits at case changes, digits and punctuation: "LHipJoint_01" → l hip joint 01. */
export function tokensOf(name: string): string[] {
  return name
    .replace(/([a-z])([A-Z])/g, '$1 $2')
    .replace(/([A-Z]+)([A-Z][a-z])/g, '$1 $2')
    .replace(/([A-Za-z])(\d)/g, '$1 $2')
    .replace(/(\d)([A-Za-z])/g, '$1 $2')
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean);
}

/** Removes what all names of a rig share in front (a name space, a character's name), token by token. */
export function stripCommon(names: readonly string[]): string[][] {
  const tokens = names.map((n) => tokensOf(n.replace(/^.*[:|]/, '')));
  for (;;) {
    const first = tokens.find((t) => t.length > 0)?.[0];
    const shared =
      tokens.length > 3 && first !== undefined && tokens.filter((t) => t[0] === first).length >= tokens.length * 0.9;
    if (!shared || tokens.filter((t) => t.length > 1).length < tokens.length * 0.6) return tokens;
    for (const t of tokens) if (t[0] === first && t.length > 1) t.shift();
  }
}

/** The side mark of a name and what remains of the name without it, for telling partners. */
export function sideStem(name: string): { side: Side | undefined; stem: string } {
  const { side, words } = splitSide(tokensOf(name), () => true);
  return { side, stem: words.join(' ') };
}

function splitSide(all: string[], keep: (token: string) => boolean): { side: Side | undefined; words: string[] } {
  let side: Side | undefined;
  const words: string[] = [];
  for (let token of all) {
    const whole = SIDE_WORDS[token];
    const fused = /^(left|right)(.{2,})$/.exec(token);
    if (whole && !side) side = whole;
    else if (fused?.[2] && !side) {
      side = fused[1] === 'left' ? 'L' : 'R';
      token = fused[2];
      words.push(token);
    } else if (/(left|right)$/.test(token) && token.length > 5 && !side) {
      side = token.endsWith('left') ? 'L' : 'R';
      words.push(token.replace(/(left|right)$/, ''));
    } else if (keep(token)) words.push(token);
  }
  return { side, words };
}

const HELPERS = ['ctrl', 'control', 'target', 'pole', 'ik', 'goal', 'helper', 'attach', 'socket'];

function readTokens(all: string[]): NameReading {
  const { side, words } = splitSide(all, (token) => !FILLER.has(token));
  const parts = new Map<NamePart, number>();
  // the words run together, from each word on: "upper arm" and "upperarm" read alike, and so does "x_upper_arm"
  for (let i = 0; i < words.length; i++) {
    const stem = words.slice(i).join('');
    for (const [pattern, part, weight] of WORDS) {
      if (pattern.test(stem)) parts.set(part, Math.max(parts.get(part) ?? 0, i === 0 ? weight : weight * 0.9));
    }
  }
  const has = (...list: string[]): boolean => words.some((w) => list.includes(w));
  if (parts.has('upperArm') && words.join('').includes('forearm')) parts.delete('upperArm');
  if ([...FINGERS].some((f) => parts.has(f))) {
    if (parts.has('toes') || has('toe', 'foot')) for (const f of FINGERS) parts.delete(f);
    else parts.delete('hand');
  }
  if (parts.has('toes')) parts.delete('foot');
  if (parts.get('hips') === 1) parts.delete('thigh');
  return {
    side,
    parts,
    twist: has('twist', 'roll', 'tw', 'twst'),
    end: has('end', 'nub', 'tip', 'effector', 'eff', 'top', 'site'),
    helper: has(...HELPERS),
    foreign: has(
      ...HELPERS,
      'prop',
      'camera',
      'light',
      'weapon',
      'tool',
      'eye',
      'jaw',
      'tongue',
      'hair',
      'tail',
      'ear',
      'brow',
      'lip',
      'hat',
      'skirt',
      'cape',
    ),
  };
}

/** Reads every joint name of a rig. Names that say nothing give an empty reading. */
export function readNames(names: readonly string[]): NameReading[] {
  return stripCommon(names).map(readTokens);
}
