import type { Party } from '../body/party';
import { standIn } from '../body/stand-in';
import { guessBodyMap } from '../bodymap/guess';
import { FINGERS, jointOf, SIDES, slotLabel } from '../bodymap/slots';
import { axisAngleQuat, mulQuat } from '../math/quat';
import type { Motion } from '../motion/motion';
import { restPose } from '../rig/rig';
import { retarget } from './retarget';

/** One thing that a proof shows, and from which frame on. */
export interface ProofStep {
  readonly start: number;
  readonly text: string;
  /** Parts that should move now and have no joint. */
  readonly missing: readonly string[];
}

export interface Proof {
  readonly motion: Motion;
  readonly steps: readonly ProofStep[];
}

/** Puts a motion on another body. */
export type PutOn = (source: Party, motion: Motion, target: Party) => Motion;

const FPS = 30;

/** A turn of one part about an axis of the world (x left, y up, z ahead), there and back, or to either side. */
interface Move {
  readonly slot: string;
  readonly axis: readonly [number, number, number];
  readonly degrees: number;
  readonly both?: boolean;
}
interface Act {
  readonly text: string;
  readonly seconds: number;
  readonly moves: readonly Move[];
}

const arm = (side: 'L' | 'R'): Move[] => {
  const s = side === 'L' ? 1 : -1;
  return [
    { slot: `upperArm${side}`, axis: [0, 0, s], degrees: 100 },
    { slot: `forearm${side}`, axis: [0, -s, 0], degrees: 95 },
    { slot: `hand${side}`, axis: [0, 0, -s], degrees: 40 },
  ];
};
const leg = (side: 'L' | 'R'): Move[] => [
  { slot: `thigh${side}`, axis: [-1, 0, 0], degrees: 70 },
  { slot: `shin${side}`, axis: [1, 0, 0], degrees: 95 },
  { slot: `foot${side}`, axis: [1, 0, 0], degrees: 30 },
];
const curl: Move[] = SIDES.flatMap((side) =>
  FINGERS.flatMap((finger) =>
    [1, 2, 3].map((k): Move => {
      const s = side === 'L' ? 1 : -1;
      return { slot: `${finger}${k}${side}`, axis: [0, finger === 'thumb' ? s : 0, -s], degrees: 45 };
    }),
  ),
);

const ACTS: readonly Act[] = [
  {
    text: 'the head looks to either side',
    seconds: 1.8,
    moves: [{ slot: 'head', axis: [0, 1, 0], degrees: 55, both: true }],
  },
  { text: 'the head nods', seconds: 1.2, moves: [{ slot: 'head', axis: [1, 0, 0], degrees: 28, both: true }] },
  {
    text: 'the trunk turns to either side',
    seconds: 1.8,
    moves: ['spine1', 'spine2', 'spine3'].map((slot): Move => ({ slot, axis: [0, 1, 0], degrees: 14, both: true })),
  },
  {
    text: 'the trunk bends forward',
    seconds: 1.4,
    moves: ['spine1', 'spine2', 'spine3'].map((slot): Move => ({ slot, axis: [1, 0, 0], degrees: 15 })),
  },
  { text: 'the left arm rises, elbow and wrist bend', seconds: 1.8, moves: arm('L') },
  { text: 'the right arm rises, elbow and wrist bend', seconds: 1.8, moves: arm('R') },
  { text: 'the fingers close', seconds: 1.4, moves: curl },
  { text: 'the left knee comes up', seconds: 1.6, moves: leg('L') },
  { text: 'the right knee comes up', seconds: 1.6, moves: leg('R') },
];
/** How far arms hang down from level meanwhile, degrees. */
const HANG = 72;

const loose: PutOn = (source, motion, target) => retarget(source, motion, target, { plants: false }).motion;

/**
 * A short movement of every part in turn, carried onto a rig by its body map, to see whether it was understood: the part
 * named has to be the part that moves, and to move that way. Feet are not held.
 */
export function proofOn(target: Party, put: PutOn = loose): Proof {
  const rig = standIn('T');
  const source: Party = { rig, map: guessBodyMap(rig) };
  const has = (slot: string): boolean => jointOf(target.map, slot) >= 0;
  const n = rig.names.length;
  const frames = ACTS.reduce((sum, a) => sum + Math.round(a.seconds * FPS), 0) + 1;
  const turns = new Float32Array(4 * n * frames);
  for (let f = 0; f < frames; f++) turns.set(rig.restR, 4 * n * f);
  const q = new Float64Array(4);
  const turn = (f: number, move: Pick<Move, 'slot' | 'axis'>, degrees: number): void => {
    const o = 4 * (f * n + rig.names.indexOf(move.slot));
    const [x, y, z] = move.axis;
    const long = Math.hypot(x, y, z);
    axisAngleQuat(q, 0, x / long, y / long, z / long, (degrees * Math.PI) / 180);
    mulQuat(turns, o, q, 0, turns, o);
  };
  for (let f = 0; f < frames; f++)
    for (const side of SIDES) turn(f, { slot: `upperArm${side}`, axis: [0, 0, side === 'L' ? -1 : 1] }, HANG);
  const steps: ProofStep[] = [];
  let start = 0;
  for (const act of ACTS) {
    const length = Math.round(act.seconds * FPS);
    const lost = act.moves.filter((m) => !has(m.slot)).map((m) => m.slot);
    steps.push({
      start,
      text: act.text,
      missing: lost.length === act.moves.length ? lost.slice(0, 4).map(slotLabel) : [],
    });
    for (let f = 0; f <= length; f++) {
      const x = f / length;
      for (const move of act.moves) {
        const share = move.both ? Math.sin(2 * Math.PI * x) * Math.sin(Math.PI * x) * 1.3 : Math.sin(Math.PI * x) ** 2;
        turn(start + f, move, f === length ? 0 : move.degrees * share);
      }
    }
    start += length;
  }
  const standing = Float32Array.from({ length: 3 * frames }, (_, i) => restPose(rig).p[i % 3]!);
  const motion: Motion = {
    fps: FPS,
    frameCount: frames,
    turns,
    places: [{ joint: 0, values: standing }],
    numbers: [],
    scales: [],
    steps: [],
  };
  return { motion: put(source, motion, target), steps };
}
