import { SIDES } from '../bodymap/slots';
import type { FlatBody } from './flat';
import type { Seen } from './seen';

/** A piece has to be so much nearer, as a share of the figure's height, before it goes before another. */
const BEFORE = 0.035;
/** Where it hangs on the other, more, and beyond what lies between them at rest: sleeves and hems were drawn for that. */
const HUNG = 0.1;
/** An order that lasts less than this, seconds, is none. */
const SHORTEST_S = 0.1;

/** How limbs stand in the drawing order, over time. */
export interface DrawnOrder {
  /** Each an order of all parts, the hindmost first: their places in the rig's own order, with blanks between. */
  readonly labels: readonly string[];
  readonly values: Uint16Array;
}

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
  const levels = new Map<string, Int8Array>();
  for (const limb of limbs) {
    const own = depth.get(limb);
    const drawn = pieces.indexOf(limb);
    const rest =
      firstTrunk < 0 ? 1 : drawn < fixed[firstTrunk]! ? 0 : lastHead >= 0 && drawn > fixed[lastHead]! ? 2 : 1;
    const level = new Int8Array(n).fill(rest);
    if (own) {
      const hung = /^(upperArm|thigh)/.test(limb);
      const leg = /^(thigh|shin)/.test(limb);
      const beforeTrunk = sided(own, trunk, height * (hung || leg ? HUNG : BEFORE), rest > 0);
      const beforeHead = /Arm|forearm/.test(limb)
        ? sided(own, depth.get('head')!, height * BEFORE, rest > 1)
        : undefined;
      for (let f = 0; f < n; f++) level[f] = beforeTrunk[f] ? (beforeHead?.[f] ? 2 : 1) : 0;
    }
    levels.set(limb, level);
  }
  // (3) limbs against one another
  const labels: string[] = [];
  const known = new Map<string, number>();
  const values = new Uint16Array(n);
  let now: readonly string[] = limbs.slice().sort((a, b) => pieces.indexOf(a) - pieces.indexOf(b));
  for (let f = 0; f < n; f++) {
    const before = now;
    now = resorted(now, f, depth, height);
    if (f > 0 && now === before && limbs.every((l) => levels.get(l)![f] === levels.get(l)![f - 1])) {
      values[f] = values[f - 1]!;
      continue;
    }
    const order = assembled(now, f);
    let at = known.get(order);
    if (at === undefined) {
      at = labels.length;
      labels.push(order);
      known.set(order, at);
    }
    values[f] = at;
  }
  calm(values, Math.round(SHORTEST_S * seen.fps));
  return { labels, values };

  function assembled(list: readonly string[], f: number): string {
    const at = (level: number): number[] => list.filter((l) => levels.get(l)![f] === level).flatMap((l) => partsIn(l));
    const out: number[] = [];
    fixed.forEach((part, i) => {
      if (i === firstTrunk) out.push(...at(0));
      out.push(part);
      if (i === beforeLegs) out.push(...at(1).filter((p) => isLeg(p)));
      if (i === lastTrunk) out.push(...at(1).filter((p) => !isLeg(p)));
      if (i === Math.max(lastHead, lastTrunk)) out.push(...at(2));
    });
    // a figure without a trunk has its limbs in one row
    if (firstTrunk < 0) out.push(...at(0), ...at(1), ...(lastHead < 0 ? at(2) : []));
    return out.join(' ');
  }
  function isLeg(part: number): boolean {
    return /^(thigh|shin)/.test(pieces[part]!);
  }
  function partsIn(limb: string): number[] {
    return pieces.flatMap((p, i) => (p === limb ? [i] : []));
  }
}

/** Whether one is nearer than the other, with hysteresis about a margin. */
function sided(own: Float64Array, other: Float64Array, margin: number, atRest: boolean): Uint8Array {
  const out = new Uint8Array(own.length);
  const first = own[0]! - other[0]!;
  let now = Math.abs(first) > margin ? first > 0 : atRest;
  for (let f = 0; f < own.length; f++) {
    const by = own[f]! - other[f]!;
    if (by > margin) now = true;
    else if (by < -margin) now = false;
    out[f] = now ? 1 : 0;
  }
  return out;
}

const ofOneLimb = (a: string, b: string): boolean =>
  a.at(-1) === b.at(-1) && /Arm|forearm/.test(a) === /Arm|forearm/.test(b);

/** Neighbours change places where the hinder one has come clearly nearer. */
function resorted(
  order: readonly string[],
  f: number,
  depth: ReadonlyMap<string, Float64Array>,
  height: number,
): readonly string[] {
  let out: readonly string[] = order;
  for (let pass = 0; pass < out.length; pass++) {
    let changed = false;
    for (let i = 0; i + 1 < out.length; i++) {
      const [a, b] = [depth.get(out[i]!), depth.get(out[i + 1]!)];
      if (!a || !b) continue;
      const margin = height * (ofOneLimb(out[i]!, out[i + 1]!) ? HUNG : BEFORE);
      if (a[f]! - b[f]! > margin) {
        out = [...out.slice(0, i), out[i + 1]!, out[i]!, ...out.slice(i + 2)];
        changed = true;
      }
    }
    if (!changed) break;
  }
  return out;
}

/** Takes out what lasts less than so many frames. */
function calm(values: Uint16Array, shortest: number): void {
  for (let f = 1; f < values.length; ) {
    let end = f;
    while (end + 1 < values.length && values[end + 1] === values[f]) end++;
    if (end + 1 - f < shortest && end + 1 < values.length) values.fill(values[f - 1]!, f, end + 1);
    f = end + 1;
  }
}
