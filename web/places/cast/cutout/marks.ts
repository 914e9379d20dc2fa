import {
  type CutoutArt,
  type CutoutRig,
  endOf,
  type Facing,
  facingOf,
  type JointMarks,
  MARKED_JOINTS,
  restPose,
  slotLabel,
} from '@velvet-reel/motion';
import type { RigAnswer } from '@/contract';

type Point = readonly [x: number, y: number];

/** Where joints lie in the picture at rest. */
export function placesOf(rig: CutoutRig, { unit, origin }: CutoutArt): [number, number][] {
  const { p } = restPose(rig);
  return rig.names.map((_, j) => [origin[0] + p[3 * j]! / unit, origin[1] - p[3 * j + 1]! / unit]);
}

/** A mark in words. */
export const markName = (slot: string): string => slotLabel(slot).replace(/ \d+$/, '');

const LIMBS = ['L', 'R'].flatMap((side) => [
  ['upperArm', 'forearm', 'hand'].map((part) => part + side),
  ['thigh', 'shin', 'foot'].map((part) => part + side),
]);

/** Marks on the joints that the body map knows, and where limbs end that have no hand or foot of their own. */
export function marksFrom(rig: CutoutRig, art: CutoutArt, { slots }: RigAnswer['map']): JointMarks {
  const places = placesOf(rig, art);
  const jointOf = (slot: string): number => rig.names.indexOf(slots[slot]?.joint ?? '');
  const marks: Record<string, Point> = Object.fromEntries(
    MARKED_JOINTS.flatMap((slot) => {
      const at = places[jointOf(slot)];
      return at ? [[slot, at] as const] : [];
    }),
  );
  for (const limb of LIMBS) {
    const [last, outermost] = [limb.at(-1)!, limb.findLast((slot) => marks[slot])];
    if (!outermost || outermost === last) continue;
    const joint = jointOf(outermost);
    const end = endOf(rig, joint);
    const [x, y] = places[joint]!;
    if (end) marks[last] = [x + end[0] / art.unit, y - end[1] / art.unit];
  }
  return marks;
}

/** A body from the front, as shares of its box: the left side, which lies on the right of the picture. */
const BODY: Readonly<Record<string, Point>> = {
  head: [0.5, 0.19],
  neck1: [0.5, 0.22],
  hips: [0.5, 0.53],
  upperArm: [0.62, 0.26],
  forearm: [0.68, 0.39],
  hand: [0.72, 0.51],
  thigh: [0.55, 0.55],
  shin: [0.56, 0.74],
  foot: [0.57, 0.94],
};

/** Where a joint may be that has no mark yet: across from its partner, or where people have it. */
export function suggestMark(slot: string, marks: JointMarks, art: CutoutArt, rig: CutoutRig): Point {
  const [, part, side] = /^(.+?)([LR])?$/.exec(slot)!;
  const facing: Facing = facingOf(rig);
  const shown = art.drawings.filter((d) => !art.hidden.includes(d.part)).map((d) => d.box);
  const low = [0, 1].map((k) => Math.min(...shown.map((b) => b[k]!))) as [number, number];
  const high = [0, 1].map((k) => Math.max(...shown.map((b) => b[k]! + b[k + 2]!))) as [number, number];
  const middle = marks.hips?.[0] ?? (low[0] + high[0]) / 2;
  const partner = side && marks[part + (side === 'L' ? 'R' : 'L')];
  // in a profile one side lies behind the other
  if (partner) return facing === 'front' ? [2 * middle - partner[0], partner[1]] : partner;
  const [x, y] = BODY[part!]!;
  const aside =
    facing === 'front' ? (x - 0.5) * (high[0] - low[0]) * ((side === 'R') !== Boolean(rig.mirrored) ? -1 : 1) : 0;
  return [middle + aside, low[1] + y * (high[1] - low[1])];
}

/** The joint that a mark's line goes to: the nearest inwards that is marked. */
export function inwards(slot: string, marks: JointMarks): string | undefined {
  const [, part, side = ''] = /^(.+?)([LR])?$/.exec(slot)!;
  const chain: readonly string[] =
    part === 'hips'
      ? []
      : /^(head|neck1)$/.test(part!)
        ? ['hips', 'neck1', 'head']
        : /^(thigh|shin|foot)$/.test(part!)
          ? ['hips', `thigh${side}`, `shin${side}`, `foot${side}`]
          : ['hips', 'neck1', `upperArm${side}`, `forearm${side}`, `hand${side}`];
  return chain.slice(0, Math.max(0, chain.indexOf(slot))).findLast((s) => marks[s]);
}
