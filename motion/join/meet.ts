import { alignmentTurns } from '../body/alignment';
import type { Party } from '../body/party';
import { headingOf } from '../body/root-frame';
import { jointOf } from '../bodymap/slots';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import { travelJoint } from '../tune/common';
import { moveRoots } from '../tune/place';

/** What of two motions is laid together where they meet; world: both stay where they are. */
export const MEETS = ['hips', 'footL', 'footR', 'world'] as const;
export type Meet = (typeof MEETS)[number];

/** A way over the ground: first turned about Y through the origin, then moved. */
export interface Carry {
  /** Radians about Y. */
  readonly turn: number;
  /** x and z, metres. */
  readonly by: readonly [number, number];
  /** Upwards, metres; 0 where left out. */
  readonly rise?: number | undefined;
}
export const STAYS: Carry = { turn: 0, by: [0, 0] };

/** Headings of sway are averaged over so long to either side where both motions reach as far, seconds. */
const SWAY_S = 0.2;
/** How far before an end the velocity is read with which a body would go on, seconds. */
const PACE_S = 0.1;

/** What tells where a body is and faces: the joint that travels, that and the feet, and turns that face +Z. */
interface Bearing {
  readonly root: number;
  readonly joints: readonly number[];
  readonly aligned: Float64Array;
}
const bearings = new WeakMap<Party, Bearing>();

/** Worked out once for a body: a reel asks for it at every join. */
export function bearingOf(party: Party): Bearing {
  const known = bearings.get(party);
  if (known) return known;
  const root = travelJoint(party);
  const feet = (['footL', 'footR'] as const).map((slot) => jointOf(party.map, slot)).filter((j) => j >= 0);
  const made = { root, joints: [root, ...feet], aligned: alignmentTurns(party.rig, party.map, party.pose) };
  bearings.set(party, made);
  return made;
}

/** Where a body is and faces, frame by frame, and beyond its ends as its velocity there carries it on. */
export class Course {
  private readonly reader: ChainReader;
  private readonly aligned: Float64Array;
  private readonly root: number;

  constructor(
    party: Party,
    private readonly motion: Motion,
    /** First and last frame that count. */
    private readonly first = 0,
    private readonly last = motion.frameCount - 1,
  ) {
    const { root, joints, aligned } = bearingOf(party);
    this.root = root;
    this.aligned = aligned;
    this.reader = new ChainReader(party.rig, motion, joints);
  }

  /** Heading of the hips, radians about Y from +Z, and the place of a joint on the ground. */
  at(frame: number, joint = this.root): [heading: number, x: number, z: number] {
    const { first, last, root, aligned } = this;
    const near = Math.min(last, Math.max(first, frame));
    const { r, p } = this.reader.at(near);
    const here: [number, number, number] = [
      headingOf(r, 4 * root, aligned, 4 * root),
      p[3 * joint]!,
      p[3 * joint + 2]!,
    ];
    if (near === frame) return here;
    const span = Math.min(last - first, Math.max(1, Math.round(PACE_S * this.motion.fps)));
    if (span < 1) return here;
    const back = frame > near ? near - span : near + span;
    const before = this.at(back, joint);
    const on = Math.abs(frame - near) / span;
    return [
      here[0] + on * turnBetween(before[0], here[0]),
      here[1] + on * (here[1] - before[1]),
      here[2] + on * (here[2] - before[2]),
    ];
  }

  get fps(): number {
    return this.motion.fps;
  }

  has(frame: number): boolean {
    return frame >= this.first && frame <= this.last;
  }
}

/** The shorter way from one heading to another, −π to π. */
export function turnBetween(from: number, to: number): number {
  const d = to - from;
  return d - 2 * Math.PI * Math.round(d / (2 * Math.PI));
}

/**
 * How the second motion has to be carried so that it meets the first: facing as the hips do, sway averaged out, and the
 * place of the part that was chosen. Heights stay.
 * @param fa frame of the first motion @param fb frame of the second one that falls on it; either may lie beyond its motion
 */
export function meet(party: Party, a: Course, fa: number, b: Course, fb: number, at: Meet): Carry {
  if (at === 'world') return STAYS;
  const slot = at === 'hips' ? -1 : jointOf(party.map, at);
  const joint = slot >= 0 ? slot : undefined;
  const [, ax, az] = a.at(fa, joint);
  const [, bx, bz] = b.at(fb, joint);
  const turn = facing(a, fa, b, fb);
  const s = Math.sin(turn);
  const c = Math.cos(turn);
  return { turn, by: [ax - (c * bx + s * bz), az - (c * bz - s * bx)] };
}

function facing(a: Course, fa: number, b: Course, fb: number): number {
  const reach = Math.round(SWAY_S * a.fps);
  const middle = turnBetween(b.at(fb)[0], a.at(fa)[0]);
  let sum = 0;
  let count = 0;
  for (let d = -reach; d <= reach; d++) {
    if (!(a.has(fa + d) && b.has(fb + d))) continue;
    sum += turnBetween(middle, turnBetween(b.at(fb + d)[0], a.at(fa + d)[0]));
    count++;
  }
  return middle + (count > 2 ? sum / count : 0);
}

/** The motion carried over the ground. */
export const carried = (party: Party, motion: Motion, { turn, by, rise = 0 }: Carry): Motion =>
  turn === 0 && by[0] === 0 && by[1] === 0 && rise === 0
    ? motion
    : moveRoots(party, motion, [by[0], rise, by[1]], turn);
