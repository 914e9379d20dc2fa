import { SIDES } from '../bodymap/slots';
import type { FlatBody } from './flat';
import type { Seen } from './seen';

/** A piece has to be so much nearer, as a share of the figure's height, before it goes before another. */
const BEFORE = 0.035;
/** Where it hangs on the other, more, and beyond what lies between them at rest: sleeves and hems were drawn for that. */
const HUNG = 0.1;
/** What hangs follows forearms and shins; it does not hold them where they are wrong. */
const LIGHT = 0.05;
/** An arm that is lost behind the trunk is worse than one that lies wrong with a leg. */
const TRUNK = 3;

/** Where a limb lies: behind the trunk; before it but below what hangs about it (legs); over all of it; before the head, too (arms). */
const [BEHIND, BELOW, OVER, IN_FRONT] = [0, 1, 2, 3] as const;

const LEVELS = 4;

interface Limb {
  /** By their places in the rig, the hindmost first. */
  readonly parts: readonly number[];
  /** Towards the eye over time, metres. */
  readonly depth: Float64Array | undefined;
  readonly leg: boolean;
  /** Hangs on the trunk itself. */
  readonly hung: boolean;
  /** Its level as drawn. */
  readonly rest: number;
  /** How much nearer or farther, metres, it has to come before it leaves its level. */
  readonly stays: number;
}

/** How limbs stand in the drawing order, over time. */
export interface DrawnOrder {
  /** Each an order of all parts, the hindmost first: their places in the rig's own order, with blanks between. */
  readonly labels: readonly string[];
  readonly values: Uint16Array;
}

/** Parts by their places in the rig, the hindmost first, as the label of an order. */
export const orderLabel = (order: readonly number[]): string => order.join(' ');

/** Reads a label of an order. */
export const orderOf = (label: string): number[] => label.split(' ').map(Number);

/**
 * Drawing order from depth: limbs go before and behind trunk, head and one another, with hysteresis, so that nothing flickers;
 * what belongs together keeps the order in which it was drawn.
 * @returns undefined where no limb has a depth
 */
export function drawingOrder(flat: FlatBody, seen: Seen): DrawnOrder | undefined {
  const { rig, map } = flat;
  const n = seen.frameCount;
  const height = seen.body.hipHeight > 0 ? 2 * seen.body.hipHeight : 1.7;
  // (1) pieces that move as one, with their depth over time
  const slotOf = new Map(Object.entries(map.slots).flatMap(([s, e]) => (e.joint >= 0 ? [[e.joint, s] as const] : [])));
  const pieceOf = (joint: number): string => {
    for (let j = joint; j >= 0; j = rig.parents[j]!) {
      const slot = slotOf.get(j);
      if (slot) {
        const limb = /^(upperArm|forearm|hand|thigh|shin|foot)([LR])$/.exec(slot);
        if (!limb) return /^(head|neck)/.test(slot) ? 'head' : 'trunk';
        const [, part, side] = limb;
        return (part === 'hand' ? 'forearm' : part === 'foot' ? 'shin' : part!) + side;
      }
    }
    return 'trunk';
  };
  const pieces = rig.parts.map((p) => pieceOf(p.joint));
  const limbs = SIDES.flatMap((s) => [`upperArm${s}`, `forearm${s}`, `thigh${s}`, `shin${s}`]).filter((p) =>
    pieces.includes(p),
  );
  const depth = new Map<string, Float64Array>();
  const middle = (a: Float64Array | undefined, b: Float64Array | undefined): Float64Array | undefined => {
    const [x, y] = [a ?? b, b ?? a];
    if (!x || !y) return undefined;
    return Float64Array.from({ length: n }, (_, f) => 0.5 * (x[3 * f + 2]! + y[3 * f + 2]!));
  };
  for (const s of SIDES) {
    for (const [piece, a, b] of [
      ['upperArm', 'upperArm', 'forearm'],
      ['forearm', 'forearm', 'hand'],
      ['thigh', 'thigh', 'shin'],
      ['shin', 'shin', 'foot'],
    ] as const) {
      const d = middle(seen.at[a + s], seen.at[b + s]);
      if (d) depth.set(piece + s, d);
    }
  }
  const trunk = middle(seen.at.hips, seen.at.chest)!;
  depth.set('trunk', trunk);
  depth.set('head', middle(seen.at.head, seen.at.neck1 ?? seen.at.chest) ?? trunk);
  if (!limbs.some((p) => depth.has(p))) return undefined;
  // (2) where each limb stands among what keeps its order: behind the trunk, between it and the head, before both
  const fixed = rig.parts.map((_, i) => i).filter((i) => !limbs.includes(pieces[i]!));
  const firstTrunk = fixed.findIndex((i) => pieces[i] === 'trunk');
  // what hangs about the body, a coat's tail or an apron, stays before the legs it was drawn before
  const garment = (i: number): boolean => pieces[i] === 'trunk' && !slotOf.has(rig.parts[i]!.joint);
  const lastTrunk = fixed.findLastIndex((i) => pieces[i] === 'trunk');
  // so legs that come forward lie on the last piece of the body below it
  const firstLeg = rig.parts.findIndex((_, i) => /^(thigh|shin)/.test(pieces[i]!));
  const cover = fixed.find((i) => i > firstLeg && garment(i)) ?? Number.POSITIVE_INFINITY;
  const beforeLegs = fixed.findLastIndex((i) => pieces[i] === 'trunk' && !garment(i) && i < cover);
  const lastHead = fixed.findLastIndex((i) => pieces[i] === 'head');
  const rows = limbs.map((limb): Limb => {
    const drawn = pieces.indexOf(limb);
    const leg = /^(thigh|shin)/.test(limb);
    const hung = /^(upperArm|thigh)/.test(limb);
    const before = leg ? BELOW : OVER;
    const inside = lastHead >= 0 && drawn > fixed[lastHead]! ? IN_FRONT : before;
    return {
      parts: pieces.flatMap((p, i) => (p === limb ? [i] : [])),
      depth: depth.get(limb),
      leg,
      hung,
      stays: height * (leg || hung ? HUNG : BEFORE),
      rest: firstTrunk < 0 ? before : drawn < fixed[firstTrunk]! ? BEHIND : inside,
    };
  });
  const head = depth.get('head')!;
  // (3) limbs against one another, then all of them against trunk and head
  const labels: string[] = [];
  const known = new Map<string, number>();
  const values = new Uint16Array(n);
  let list = [...rows].sort((a, b) => a.parts[0]! - b.parts[0]!);
  let levels = list.map((limb) => limb.rest);
  for (let f = 0; f < n; f++) {
    const sorted = resorted(list, f, height);
    const had = sorted === list ? levels : sorted.map((limb) => levels[list.indexOf(limb)]!);
    const next = levelled(sorted, had, f);
    const same = f > 0 && sorted === list && next.every((level, i) => level === levels[i]);
    [list, levels] = [sorted, next];
    if (same) {
      values[f] = values[f - 1]!;
      continue;
    }
    const order = assembled();
    let at = known.get(order);
    if (at === undefined) {
      at = labels.length;
      labels.push(order);
      known.set(order, at);
    }
    values[f] = at;
  }
  return { labels, values };

  /** The level of every limb: none that is nearer lies deeper; as near as that allows to where trunk and head want them. */
  function levelled(sorted: readonly Limb[], had: readonly number[], f: number): number[] {
    // cheapest rising row of levels (dynamic programming), one limb after the other
    const costs = new Float64Array(LEVELS);
    const ways = new Uint8Array(LEVELS * sorted.length);
    sorted.forEach((limb, i) => {
      let [best, from] = [Number.POSITIVE_INFINITY, 0];
      for (let level = 0; level < LEVELS; level++) {
        if (costs[level]! < best) [best, from] = [costs[level]!, level];
        ways[LEVELS * i + level] = from;
        costs[level] = best + wish(limb, level, had[i]!, f);
      }
    });
    const out = new Array<number>(sorted.length);
    let level = costs.indexOf(Math.min(...costs));
    for (let i = sorted.length - 1; i >= 0; i--) {
      out[i] = level;
      level = ways[LEVELS * i + level]!;
    }
    return out;
  }
  /** How far, metres, a limb is from where a level says it lies; leaving the level it has costs a little. */
  function wish({ leg, stays, rest, depth: own }: Limb, level: number, had: number, f: number): number {
    if (!leg && level === BELOW) return Number.POSITIVE_INFINITY;
    const left = level === had || (leg && level !== BEHIND && had !== BEHIND) ? 0 : stays;
    if (!own) return level === rest ? 0 : stays;
    const [body, top] = [own[f]! - trunk[f]!, own[f]! - head[f]!];
    const about = level === BEHIND ? Math.max(0, body) : Math.max(0, -body);
    // a leg that lies over what hangs about the body, or before the head, does so for the sake of an arm
    if (leg) return left + TRUNK * about + (level > BELOW ? height * BEFORE : 0);
    const face = level === IN_FRONT ? Math.max(0, -top) : level === OVER ? Math.max(0, top) : 0;
    return left + TRUNK * about + face;
  }
  function assembled(): string {
    const at = (level: number): number[] => list.flatMap((limb, i) => (levels[i] === level ? limb.parts : []));
    const out: number[] = [];
    fixed.forEach((part, i) => {
      if (i === firstTrunk) out.push(...at(BEHIND));
      out.push(part);
      if (i === beforeLegs) out.push(...at(BELOW));
      if (i === lastTrunk) out.push(...at(OVER));
      if (i === Math.max(lastHead, lastTrunk)) out.push(...at(IN_FRONT));
    });
    // a figure without a trunk has its limbs in one row
    if (firstTrunk < 0)
      out.push(...list.flatMap((limb, i) => (lastHead < 0 || levels[i] !== IN_FRONT ? limb.parts : [])));
    return orderLabel(out);
  }
}

/**
 * The order that says least that is wrong: metres by which what is farther lies before what is nearer, and a margin for every
 * two that change places. One limb after the other is put where that is least, until none gains.
 * @returns the order given where nothing changes
 */
function resorted(order: Limb[], f: number, height: number): Limb[] {
  const wrong = (a: Limb, b: Limb): number => (a.depth && b.depth ? Math.max(0, a.depth[f]! - b.depth[f]!) : 0);
  const margin = (a: Limb, b: Limb): number => height * (a.hung || b.hung ? HUNG : BEFORE);
  if (!order.some((a, i) => order.some((b, j) => j > i && wrong(a, b) > margin(a, b)))) return order;
  /** What it costs that the first lies behind the second. */
  const behind = (a: Limb, b: Limb): number => {
    const changed = order.indexOf(a) > order.indexOf(b) ? margin(a, b) : 0;
    return (a.hung || b.hung ? LIGHT : 1) * (wrong(a, b) + changed);
  };
  const out = [...order];
  let moved = false;
  for (let round = 0; round < out.length; round++) {
    let gained = false;
    for (const limb of order) {
      const from = out.indexOf(limb);
      let [best, to] = [-1e-9, from];
      // passing one neighbour after the other, either way
      for (const way of [-1, 1]) {
        let sum = 0;
        for (let i = from + way; i >= 0 && i < out.length; i += way) {
          sum += way * (behind(out[i]!, limb) - behind(limb, out[i]!));
          if (sum < best) [best, to] = [sum, i];
        }
      }
      if (to === from) continue;
      out.splice(from, 1);
      out.splice(to, 0, limb);
      gained = true;
      moved = true;
    }
    if (!gained) break;
  }
  return moved ? out : order;
}
