import { cross3, distance3, dot3, length3, normalize3 } from '../math/vec';
import { type SkeletonRig, tipOf, type WorldPose } from '../rig/rig';
import { commonAncestor } from './body-root';
import { readFingers } from './fingers';
import { endsInFingers, findPairs, type Limb, type LimbPair, readLimb } from './limbs';
import type { NamePart } from './names';
import { boneLength, isBelow, longestChain, pathDown, type SkeletonView, viewSkeleton } from './skeleton-view';
import {
  type BodyMap,
  CORE_SLOTS,
  LONG_BONES,
  MAX_NECK,
  MAX_SPINE,
  SIDES,
  type Side,
  type Slot,
  type SlotEntry,
  slotLabel,
} from './slots';
import { goesOnFour, isMarkerCloud } from './stance';
import { LIMBS, stiffLimbs } from './stiff-limbs';

interface Draft {
  view: SkeletonView;
  pairs: Pairs;
  slots: Record<Slot, SlotEntry>;
  warnings: string[];
  used: Set<number>;
}

/**
 * Finds out which joint is which part of a body, from names, topology and proportions together; needs no particular
 * units, up axis or facing. Every slot says how sure it is and why. Never throws: a rig that is no body gives missing slots.
 * @param pose a world pose in which the rig stands like a body; its rest pose unless told otherwise.
 */
export function guessBodyMap(rig: SkeletonRig, pose?: WorldPose): BodyMap {
  const view = viewSkeleton(rig, pose);
  const pairs = hindLegsFirst(view, choosePairs(view, findPairs(view)));
  const draft: Draft = { view, pairs, slots: {}, warnings: [], used: new Set() };
  const { legs, arms } = pairs;
  if (legs) placeTrunk(draft, legs, arms);
  if (legs) placeLimbs(draft, legs, 'leg', arms);
  if (arms) placeLimbs(draft, arms, 'arm', arms);
  fillByName(draft);
  if (!legs) fillStiff(draft);
  fillTwists(draft);
  for (const slot of CORE_SLOTS) draft.slots[slot] ??= { joint: -1, state: 'missing', why: 'no joint found for it' };
  if (pairs.four)
    draft.warnings.push(
      'This body walks on four legs. Its hind legs are mapped as legs and its forelegs as arms; motions of two-legged bodies will not suit it.',
    );
  if (isMarkerCloud(view.rig))
    draft.warnings.push(
      'These are separate points, like the markers of a capture, and not a skeleton: fit a skeleton to them before using them.',
    );
  else if (stiffLimbs(draft).some((l) => l.kind === 'leg'))
    draft.warnings.push(
      'Each leg is a single joint: it swings as a whole, and the hips rise and sink to keep the feet on the ground.',
    );
  else if (!legs) draft.warnings.push('No pair of legs was found; the parts were read from names alone.');
  return { slots: sortSlots(draft.slots), warnings: draft.warnings };
}

interface Pairs {
  readonly legs?: LimbPair;
  readonly arms?: LimbPair;
  /** The body goes on four legs; arms are its forelegs. */
  readonly four?: boolean;
}

/** Of four legs the hind ones count as legs: names say which they are, else the head is nearer to the others, else the paws point to them. */
function hindLegsFirst(view: SkeletonView, { legs, arms }: Pairs): Pairs {
  if (!legs || !arms) return legs ? { legs } : {};
  const at = (j: number): number[] => [0, 1, 2].map((k) => view.pose.p[3 * j + k]!);
  const middle = (a: number[], b: number[]): number[] => a.map((x, k) => (x + b[k]!) / 2);
  // as far as the ankle, about: three bones down, or what there is
  const end = (root: number): number[] => at(longestChain(view, root)[2] ?? longestChain(view, root).at(-1)!);
  const four = goesOnFour({
    hips: middle(at(legs.a), at(legs.b)),
    feet: middle(end(legs.a), end(legs.b)),
    shoulders: middle(at(arms.a), at(arms.b)),
    hands: middle(end(arms.a), end(arms.b)),
  });
  if (!four) return { legs, arms };
  const words = (p: LimbPair, pattern: RegExp): boolean =>
    [...longestChain(view, p.a), ...longestChain(view, p.b)].some((j) => pattern.test(view.rig.names[j]!));
  const [hind, fore] = [/hind|rear/i, /fore|front/i];
  if (words(legs, hind) || words(arms, fore)) return { legs, arms, four };
  if (words(arms, hind) || words(legs, fore)) return { legs: arms, arms: legs, four };
  const head = view.names.findIndex((n) => (n.parts.get('head') ?? 0) >= 0.9 && !n.end);
  if (head >= 0) {
    const away = (p: LimbPair): number =>
      [p.a, p.b].reduce((sum, j) => sum + distance3(view.pose.p, 3 * j, view.pose.p, 3 * head), 0);
    return away(arms) <= away(legs) ? { legs, arms, four } : { legs: arms, arms: legs, four };
  }
  const paw = (p: LimbPair): number[] => {
    const chain = longestChain(view, p.a);
    return at(chain.at(-1)!).map((x, k) => x - at(chain.at(-2) ?? chain[0]!)[k]!);
  };
  const ahead = at(arms.a).map((x, k) => x - at(legs.a)[k]!);
  const along = [paw(legs), paw(arms)].reduce((s, v) => s + v.reduce((d, x, k) => d + x * ahead[k]!, 0), 0);
  return along >= 0 ? { legs, arms, four } : { legs: arms, arms: legs, four };
}

/** Legs branch nearest the root; arms branch above them along a third limb. */
function choosePairs(view: SkeletonView, pairs: LimbPair[]): Pairs {
  const says = (pair: LimbPair, parts: NamePart[]): number => {
    const joints = [...longestChain(view, pair.a).slice(0, 5), ...longestChain(view, pair.b).slice(0, 5)];
    return (
      joints.reduce((sum, j) => sum + Math.max(0, ...parts.map((p) => view.names[j]!.parts.get(p) ?? 0)), 0) /
      joints.length
    );
  };
  const legWords = (p: LimbPair): number => says(p, ['thigh', 'shin', 'foot', 'toes']);
  const armWords = (p: LimbPair): number => says(p, ['collar', 'upperArm', 'forearm', 'hand']);
  const fingers = (p: LimbPair): number => (endsInFingers(view, p.a) && endsInFingers(view, p.b) ? 0.6 : 0);
  let best: Pairs = {};
  let bestScore = Number.NEGATIVE_INFINITY;
  for (const legs of pairs) {
    if (longestChain(view, legs.a).length < 2 || armWords(legs) > legWords(legs) + 0.2) continue;
    for (const arms of [...pairs, undefined]) {
      if (arms === legs) continue;
      let score = legs.score + 2 * legWords(legs) - 2 * armWords(legs) - fingers(legs);
      if (arms) {
        const inLeg = isBelow(view, arms.branch, legs.a) || isBelow(view, arms.branch, legs.b);
        const apart = [legs.a, legs.b].some((x) => x === arms.a || x === arms.b);
        const legsInArm = isBelow(view, legs.branch, arms.a) || isBelow(view, legs.branch, arms.b);
        if (inLeg || apart || legsInArm) continue;
        score += arms.score + 2 * armWords(arms) - 2 * legWords(arms) + 1 + fingers(arms);
        // arms sit deeper in the tree than legs in nearly every rig
        score += 0.4 * Math.sign(depth(view, arms.branch) - depth(view, legs.branch));
        score += 0.5 * Math.min(1, view.reach[legs.a]! / view.reach[arms.a]!);
      }
      if (score > bestScore) {
        bestScore = score;
        best = arms ? { legs, arms } : { legs };
      }
    }
  }
  return best;
}

function depth(view: SkeletonView, joint: number): number {
  let d = 0;
  for (let j = view.rig.parents[joint]!; j >= 0; j = view.rig.parents[j]!) d++;
  return d;
}

function put(draft: Draft, slot: Slot, joint: number, part: NamePart, structure: string): void {
  if (joint < 0 || draft.used.has(joint)) return;
  const parts = draft.view.names[joint]!.parts;
  const own = parts.get(part) ?? 0;
  const other = [...parts].find(([p, w]) => p !== part && w >= 0.9);
  const name = draft.view.rig.names[joint]!;
  const entry: SlotEntry =
    own >= 0.5
      ? { joint, state: 'sure', why: `the name "${name}" and ${structure} agree` }
      : other
        ? { joint, state: 'guessed', why: `${structure}, although the name "${name}" suggests ${other[0]}` }
        : { joint, state: 'guessed', why: `${structure}; the name "${name}" says nothing` };
  draft.slots[slot] = entry;
  draft.used.add(joint);
}

function placeTrunk(draft: Draft, legs: LimbPair, arms: LimbPair | undefined): void {
  const { view } = draft;
  const top = arms?.branch ?? -1;
  // where legs and spine meet: whoever carries only one of them would tear the body when it travels
  let hips = legs.branch;
  while (top >= 0 && !isBelow(view, top, hips) && view.rig.parents[hips]! >= 0) hips = view.rig.parents[hips]!;
  put(draft, 'hips', hips, 'hips', hips === legs.branch ? 'both legs hang from it' : 'legs and spine meet there');
  if (draft.slots.hips && (hips !== legs.branch || depth(view, hips) === 0))
    draft.slots.hips = {
      joint: hips,
      state: 'sure',
      why: hips === legs.branch ? 'it is the root and both legs hang from it' : 'legs and spine meet there',
    };
  if (top < 0) return;
  const trunk = pathDown(view, hips, top);
  const neckStart = trunk.findIndex((j) => (view.names[j]!.parts.get('neck') ?? 0) >= 0.9);
  const spine = neckStart < 0 ? trunk : trunk.slice(0, neckStart);
  const lowNeck = neckStart < 0 ? [] : trunk.slice(neckStart);
  spine
    .filter((j) => !view.names[j]!.twist)
    .slice(0, MAX_SPINE)
    .forEach((j, i) => put(draft, `spine${i + 1}`, j, 'spine', 'it lies between legs and arms'));
  if (spine.length === 0) draft.warnings.push('No spine joint lies between legs and arms; the hips carry the chest.');
  placeHead(draft, top, arms!, lowNeck);
}

/** Neck and head: the branch at the chest that is no arm and leads farthest from the legs. */
function placeHead(draft: Draft, chest: number, arms: LimbPair, lowNeck: number[]): void {
  const { view } = draft;
  const up = trunkUp(draft, chest);
  const score = (c: number): number => {
    const parts = view.names[c]!.parts;
    const end = longestChain(view, c).at(-1)!;
    const d = tipOf(view.rig, view.pose, end) ?? [0, 1, 2].map((k) => view.pose.p[3 * end + k]!);
    // how far it leads on up; a cape or a rucksack leads back and down
    const rise = up
      ? [0, 1, 2].reduce((s, k) => s + (d[k]! - view.pose.p[3 * chest + k]!) * up[k]!, 0)
      : view.reach[c]!;
    return rise / view.size + (parts.has('neck') || parts.has('head') ? 2 : 0);
  };
  const start = view.children[chest]!.filter(
    (c) => c !== arms.a && c !== arms.b && !view.names[c]!.foreign && !view.names[c]!.side,
  ).sort((a, b) => score(b) - score(a))[0];
  const above = start === undefined ? [] : headChain(view, start);
  const chain = [...lowNeck, ...above];
  if (chain.length === 0) return;
  const named = chain.findIndex((j) => (view.names[j]!.parts.get('head') ?? 0) >= 0.9);
  const headIndex = named >= 0 ? named : chain.length - 1;
  chain
    .slice(0, headIndex)
    .slice(0, MAX_NECK)
    .forEach((j, i) => put(draft, `neck${i + 1}`, j, 'neck', 'it lies between chest and head'));
  put(draft, 'head', chain[headIndex]!, 'head', 'it ends the chain above the chest');
}

/** Direction of the trunk, hips to chest; undefined where both are one joint. */
function trunkUp(draft: Draft, chest: number): number[] | undefined {
  const hips = draft.slots.hips?.joint ?? -1;
  if (hips < 0 || hips === chest) return undefined;
  const { p } = draft.view.pose;
  const up = [0, 1, 2].map((k) => p[3 * chest + k]! - p[3 * hips + k]!);
  return normalize3(up, 0) > 1e-6 ? up : undefined;
}

function headChain(view: SkeletonView, start: number): number[] {
  const named = view.names.findIndex((n, j) => (n.parts.get('head') ?? 0) >= 0.9 && !n.end && isBelow(view, j, start));
  if (named >= 0) return [...pathDown(view, view.rig.parents[start]!, named)];
  const bare = longestChain(view, start);
  const whole = bare.filter((j) => !view.names[j]!.end);
  // eyes, a jaw, hair hang from a head side by side: it is the first joint with more than one
  const face = whole.findIndex((j) => view.children[j]!.length >= 2);
  if (face >= 0) return whole.slice(0, face + 1).slice(0, MAX_NECK + 1);
  const chain = whole;
  const last = chain.at(-1)!;
  // a bare leaf far above the others marks the crown, not a head that turns
  const bone = (i: number): number => boneLength(view, chain[i - 1]!, chain[i]!);
  const crown = chain.length >= 3 && bone(chain.length - 1) > 1.7 * bone(chain.length - 2);
  if (whole.length === bare.length && crown && Number.isNaN(view.rig.tips[3 * last]!)) chain.pop();
  return chain.slice(0, MAX_NECK + 1);
}

function placeLimbs(draft: Draft, pair: LimbPair, kind: 'arm' | 'leg', arms: LimbPair | undefined): void {
  const { view } = draft;
  const a = readLimb(view, pair.a, kind, pair.b);
  const b = readLimb(view, pair.b, kind, pair.a);
  if (!a || !b) return;
  const sideOfA = decideSide(draft, pair, arms);
  const structure = kind === 'arm' ? 'its place in the arm' : 'its place in the leg';
  for (const [limb, side] of [
    [a, sideOfA],
    [b, sideOfA === 'L' ? 'R' : 'L'],
  ] as [Limb, Side][]) {
    if (kind === 'leg') {
      put(draft, `thigh${side}`, limb.upper, 'thigh', structure);
      put(draft, `shin${side}`, limb.lower, 'shin', structure);
      put(draft, `foot${side}`, limb.end, 'foot', structure);
      put(draft, `toes${side}`, limb.toes, 'toes', structure);
    } else {
      put(draft, `collar${side}`, limb.first, 'collar', structure);
      put(draft, `upperArm${side}`, limb.upper, 'upperArm', structure);
      put(draft, `forearm${side}`, limb.lower, 'forearm', structure);
      put(draft, `hand${side}`, limb.end, 'hand', structure);
      if (limb.end >= 0) {
        for (const [slot, entry] of Object.entries(readFingers(view, limb.end, side))) {
          if (draft.used.has(entry.joint)) continue;
          draft.slots[slot] = entry;
          draft.used.add(entry.joint);
        }
      }
    }
  }
}

/** Left or right for the pair's first limb: the marks in names, checked against the body's facing. */
function decideSide(draft: Draft, pair: LimbPair, arms: LimbPair | undefined): Side {
  const { view } = draft;
  const marks = (root: number): number =>
    longestChain(view, root).reduce(
      (sum, j) => sum + (view.names[j]!.side === 'L' ? 1 : view.names[j]!.side === 'R' ? -1 : 0),
      0,
    );
  const byName = Math.sign(marks(pair.a) - marks(pair.b));
  const byPlace = sideByPlace(draft, pair, arms);
  if (byName !== 0 && byPlace !== 0 && byName !== byPlace) {
    const text =
      'The names say left where the body’s facing says right; the names were followed. Check which way it faces.';
    if (!draft.warnings.includes(text)) draft.warnings.push(text);
  }
  return (byName || byPlace || 1) > 0 ? 'L' : 'R';
}

/** +1 where limb a lies on the left of a body that looks where its toes point, −1 right, 0 unknown. */
function sideByPlace({ view, pairs }: Draft, pair: LimbPair, arms: LimbPair | undefined): number {
  const { legs, four } = pairs;
  if (!legs || !arms) return 0;
  const up = [0, 0, 0];
  const foot = longestChain(view, legs.a)[2] ?? legs.a;
  for (let k = 0; k < 3; k++)
    up[k] = four
      ? view.pose.p[3 * legs.a + k]! - view.pose.p[3 * foot + k]!
      : view.pose.p[3 * arms.branch + k]! - view.pose.p[3 * legs.branch + k]!;
  if (normalize3(up, 0) === 0) return 0;
  const forward = [0, 0, 0];
  for (const root of [legs.a, legs.b]) {
    const leg = readLimb(view, root, 'leg');
    if (!leg || leg.end < 0) continue;
    const end =
      leg.toes >= 0 ? [...view.pose.p.subarray(3 * leg.toes, 3 * leg.toes + 3)] : tipOf(view.rig, view.pose, leg.end);
    if (end) for (let k = 0; k < 3; k++) forward[k] = forward[k]! + end[k]! - view.pose.p[3 * leg.end + k]!;
  }
  const along = dot3(forward, 0, up, 0);
  for (let k = 0; k < 3; k++) forward[k] = forward[k]! - along * up[k]!;
  if (length3(forward, 0) < 0.01 * view.size) return 0;
  const left = [0, 0, 0];
  cross3(left, 0, up, 0, forward, 0);
  const across = [0, 1, 2].map(
    (k) => view.pose.p[3 * longestChain(view, pair.a)[1]! + k]! - view.pose.p[3 * longestChain(view, pair.b)[1]! + k]!,
  );
  return Math.sign(dot3(left, 0, across, 0));
}

const BY_NAME: [string, NamePart][] = [
  ['hips', 'hips'],
  ['head', 'head'],
  ['neck1', 'neck'],
  ['spine1', 'spine'],
];
const LIMB_BY_NAME: NamePart[] = ['collar', 'upperArm', 'forearm', 'hand', 'thigh', 'shin', 'foot', 'toes'];

/** What structure did not find is looked for by name alone; only words that mean just one part count. */
function fillByName(draft: Draft): void {
  const { view } = draft;
  const wanted: [Slot, NamePart, Side | undefined][] = [
    ...BY_NAME.map(([slot, part]): [Slot, NamePart, undefined] => [slot, part, undefined]),
    ...SIDES.flatMap((side) => LIMB_BY_NAME.map((part): [Slot, NamePart, Side] => [part + side, part, side])),
  ];
  for (const [slot, part, side] of wanted) {
    if (draft.slots[slot]) continue;
    const joint = view.names.findIndex(
      (n, j) =>
        !draft.used.has(j) && n.side === side && (n.parts.get(part) ?? 0) >= 0.7 && !n.twist && !n.end && !n.foreign,
    );
    if (joint < 0) continue;
    draft.slots[slot] = {
      joint,
      state: 'guessed',
      why: `only its name "${view.rig.names[joint]}" suggests ${slotLabel(slot)}`,
    };
    draft.used.add(joint);
  }
}

/** Limbs of a single joint, which hang from the trunk and carry nothing but things: their names say leg or arm, and no more. */
function fillStiff(draft: Draft): void {
  const { view, slots } = draft;
  const legs: number[] = [];
  for (const side of SIDES)
    for (const [kind, parts] of Object.entries(LIMBS)) {
      const [slot] = parts;
      const known = parts.flatMap((part) => slots[part + side] ?? []);
      const own = view.names.flatMap((n, j) =>
        n.side === side && !n.end && !n.foreign && parts.some((part) => n.parts.has(part)) ? [j] : [],
      );
      const joint = own[0];
      if (own.length !== 1 || joint === undefined || known.some((e) => e.joint !== joint)) continue;
      if (longestChain(view, joint).some((j) => j !== joint && !view.names[j]!.end)) continue;
      const beyond = {
        state: 'empty',
        joint: -1,
        why: `the ${kind} is a single joint`,
      } as const;
      for (const part of [...parts, kind === 'leg' ? 'toes' : 'collar']) slots[part + side] = beyond;
      const why = `the name "${view.rig.names[joint]}" says so, and nothing lies below it`;
      slots[slot + side] = { joint, state: 'guessed', why };
      draft.used.add(joint);
      if (kind === 'leg') legs.push(joint);
    }
  if (slots.hips || legs.length < 2) return;
  const joint = commonAncestor(view.rig.parents, legs);
  if (joint < 0 || draft.used.has(joint)) return;
  slots.hips = { joint, state: 'guessed', why: 'both legs hang from it' };
  draft.used.add(joint);
}

/** Twist joints: named so, hanging below or lying along a limb bone. */
function fillTwists(draft: Draft): void {
  const { view } = draft;
  for (const side of SIDES) {
    for (const [part, next] of LONG_BONES) {
      const upper = draft.slots[part + side]?.joint ?? -1;
      const lower = draft.slots[next + side]?.joint ?? -1;
      if (upper < 0) continue;
      const inLine = lower >= 0 ? pathDown(view, upper, lower).slice(0, -1) : [];
      const beside = view.children[upper]!.filter(
        (c) => !inLine.includes(c) && c !== lower && (view.names[c]!.twist || liesAlong(view, upper, lower, c)),
      );
      [...inLine, ...beside].slice(0, 4).forEach((joint, i) => {
        if (draft.used.has(joint)) return;
        draft.slots[`${part}Twist${i + 1}${side}`] = {
          joint,
          state: view.names[joint]!.twist ? 'sure' : 'guessed',
          why: `it turns along the ${slotLabel(part).trim()}`,
        };
        draft.used.add(joint);
      });
    }
  }
}

/** A joint that ends where it is, on the line of a bone and well between its ends, whatever it is called. */
function liesAlong(view: SkeletonView, upper: number, lower: number, joint: number): boolean {
  if (lower < 0 || view.children[joint]!.length > 0 || view.names[joint]!.foreign || view.names[joint]!.parts.size > 0)
    return false;
  const at = (j: number): number[] => [0, 1, 2].map((k) => view.pose.p[3 * j + k]!);
  const [a, b, c] = [at(upper), at(lower), at(joint)];
  const bone = b.map((x, k) => x - a[k]!);
  const length2 = bone.reduce((s, x) => s + x * x, 0);
  if (length2 < 1e-9) return false;
  const t = c.reduce((s, x, k) => s + (x - a[k]!) * bone[k]!, 0) / length2;
  const away = Math.hypot(...c.map((x, k) => x - a[k]! - t * bone[k]!));
  return t > 0.1 && t < 0.95 && away < 0.03 * Math.sqrt(length2);
}

function sortSlots(slots: Record<Slot, SlotEntry>): Record<Slot, SlotEntry> {
  const rank = (s: string): number => {
    const centre = [
      'hips',
      'spine',
      'neck',
      'head',
      'collar',
      'upperArm',
      'forearm',
      'hand',
      'thigh',
      'shin',
      'foot',
      'toes',
    ];
    const stem = s.replace(/\d*[LR]?$/, '').replace(/Twist$/, '');
    const i = centre.indexOf(stem);
    return (s.endsWith('R') ? 1000 : s.endsWith('L') ? 500 : 0) + (s.includes('Twist') ? 200 : 0) + (i < 0 ? 100 : i);
  };
  return Object.fromEntries(Object.entries(slots).sort(([a], [b]) => rank(a) - rank(b) || (a < b ? -1 : 1)));
}
