import type { Party } from '../body/party';
import { yawQuat } from '../body/root-frame';
import { alignSigns, mulQuat, rotate3 } from '../math/quat';
import type { Motion } from '../motion/motion';
import { pickFrames } from '../motion/timing';
import { freeTravel } from './free-travel';
import { JOIN_DEFAULTS, type Laid } from './laid';
import { type Lane, layLane } from './lane';
import { type Carry, STAYS } from './meet';

/** A pass from the end to the beginning takes so long at most, seconds. */
const PASS_S = 0.4;
/** Numbers that differ by less are the same: of a turn, or metres. */
const SAME = 1e-5;

/**
 * A motion that does not come round, over and over: each time its end passes into its beginning, set down where it arrived.
 * Every pass is like the first, so one is worked out and set down again further on. Where it reaches through a whole repeat
 * (a short motion whose foot is led for long) they are worked out one by one.
 * @returns times · (F − 1) + 1 frames @throws MotionError as layLane does
 */
export function layAgain(given: Party, motion: Motion, times: number): Motion {
  const lap = motion.frameCount - 1;
  const join = {
    ...JOIN_DEFAULTS,
    kind: 'decay',
    frames: Math.min(lap >> 1, Math.round(PASS_S * motion.fps)),
  } as const;
  const { party, off, on } = freeTravel(given);
  const free = off(motion);
  const lay = (count: number): Lane =>
    layLane(
      party,
      Array.from({ length: count }, (_, i): Laid => ({ motion: free, at: i * lap, join })),
      count * lap + 1,
    );
  const two = times > 2 ? lay(2) : undefined;
  const cut = two && lastAlike(party, two, lap, join.frames);
  return on(two && cut !== undefined ? repeatFrom(party, two, lap, cut, times) : lay(times).motion);
}

const rootsOf = ({ rig }: Party): number[] => [...rig.parents.keys()].filter((j) => rig.parents[j]! < 0);

/** The last frame of the first lap that is, like the one before it, as in the second: between two such lies a whole pass. */
function lastAlike(party: Party, { motion, joins }: Lane, lap: number, after: number): number | undefined {
  const roots = new Set(rootsOf(party));
  const { carry } = joins[0]!;
  const n = party.rig.names.length;
  const way = yawQuat(carry.turn);
  const q = [0, 0, 0, 0];
  const alike = (f: number): boolean => {
    for (let j = 0; j < n; j++) {
      const a = 4 * (f * n + j);
      const b = a + 4 * lap * n;
      let dot = 0;
      for (let k = 0; k < 4; k++) q[k] = motion.turns[a + k]!;
      if (roots.has(j)) mulQuat(q, 0, way, 0, q, 0);
      for (let k = 0; k < 4; k++) dot += q[k]! * motion.turns[b + k]!;
      const sign = dot < 0 ? -1 : 1;
      for (let k = 0; k < 4; k++) if (Math.abs(sign * q[k]! - motion.turns[b + k]!) > SAME) return false;
    }
    return motion.places.every(({ joint, values }) => {
      const p = [...values.subarray(3 * f, 3 * f + 3)];
      if (roots.has(joint)) move(p, 0, carry);
      return p.every((x, k) => Math.abs(x - values[3 * (f + lap) + k]!) <= SAME);
    });
  };
  for (let f = lap - 1; f > after; f--) if (alike(f) && alike(f - 1)) return f;
  return undefined;
}

/** The lap behind a frame, set down again and again, and the end of the second lap. */
function repeatFrom(party: Party, { motion, joins }: Lane, lap: number, cut: number, times: number): Motion {
  const { rig } = party;
  const n = rig.names.length;
  const frames = lap * times + 1;
  const begins = (round: number): number => cut + round * lap;
  const source = Float64Array.from({ length: frames }, (_, g) => {
    const round = Math.min(times - 2, Math.max(0, Math.floor((g - cut) / lap)));
    return g - round * lap;
  });
  const out = pickFrames(rig, motion, source);
  let carry = STAYS;
  for (let round = 1; round < times - 1; round++) {
    carry = onward(carry, joins[0]!.carry);
    const end = round === times - 2 ? frames : begins(round + 1);
    const turn = yawQuat(carry.turn);
    for (const j of rootsOf(party))
      for (let f = begins(round); f < end; f++) {
        const o = 4 * (f * n + j);
        mulQuat(out.turns, o, turn, 0, out.turns, o);
      }
    for (const { joint, values } of out.places)
      if (rig.parents[joint]! < 0) for (let f = begins(round); f < end; f++) move(values, 3 * f, carry);
  }
  for (const j of rootsOf(party)) alignSigns(out.turns, 4 * j, 4 * n, frames);
  return out;
}

function move(p: number[] | Float32Array, at: number, { turn, by, rise = 0 }: Carry): void {
  rotate3(p, at, yawQuat(turn), 0, p, at);
  p[at] = p[at]! + by[0];
  p[at + 1] = p[at + 1]! + rise;
  p[at + 2] = p[at + 2]! + by[1];
}

/** One way over the ground after another. */
function onward(first: Carry, then: Carry): Carry {
  const p = [first.by[0], first.rise ?? 0, first.by[1]];
  move(p, 0, then);
  return { turn: first.turn + then.turn, by: [p[0]!, p[2]!], rise: p[1]! };
}
