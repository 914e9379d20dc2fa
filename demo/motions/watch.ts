import { ease, mix3, type Score, type V3 } from '../actor';
import { bodyOn, type Feet, idleSway, joinFeet, type Local, march, over, STAND } from './march';

/** What is done between two walks; x runs 0 … 1. */
type Act = (x: number) => Local;

const rest = (side: 1 | -1): V3 => [side * 0.24, STAND - 0.075, 0.03];
const pulse = (x: number): number => ease(x, 0.05, 0.35) * (1 - ease(x, 0.65, 0.95));

const ACTS: Record<string, Act> = {
  lookOut: (x) => ({
    head: { yaw: 50 * Math.sin(x * 6.3) * pulse(x) },
    chest: { yaw: 16 * Math.sin(x * 6.3) * pulse(x) },
  }),
  stoop: (x) => {
    const d = pulse(x);
    const hand = (s: 1 | -1): V3 => mix3(rest(s), [s * 0.15, 0.3, 0.36], d);
    return {
      hips: [0, -0.4 * d, -0.1 * d],
      pelvis: { pitch: 20 * d },
      chest: { pitch: 40 * d },
      head: { pitch: 8 * d },
      hands: {
        L: { at: hand(1), elbow: [0.6, -0.5, -0.9], curl: 40 },
        R: { at: hand(-1), elbow: [-0.6, -0.5, -0.9], curl: 40 },
      },
    };
  },
  reach: (x) => {
    const u = pulse(x);
    return {
      hips: [0, 0.01 * u, 0],
      chest: { pitch: -5 * u, roll: 4 * u },
      head: { pitch: -24 * u },
      hands: { R: { at: mix3(rest(-1), [-0.22, 1.84, 0.24], u), elbow: [-1, -0.4, 0], curl: 40 } },
    };
  },
  wave: (x) => {
    const u = pulse(x);
    const beat = Math.sin(x * 44) * u;
    return {
      chest: { roll: -4 * u },
      hands: {
        L: {
          at: mix3(rest(1), [0.34 + 0.13 * beat, 1.8, 0.08], u),
          elbow: [1, -0.3, 0.1],
          bend: 10 * beat,
          roll: -50 * u,
        },
      },
    };
  },
  haul: (x) => {
    const u = pulse(x);
    const pull = Math.sin(x * 25);
    const hand = (s: 1 | -1): V3 => mix3(rest(s), [s * 0.06, 1.06 + 0.05 * s * pull, 0.4 + 0.14 * s * pull], u);
    return {
      hips: [0, -0.06 * u, -0.03 * u],
      chest: { pitch: 10 * u, yaw: 10 * pull * u },
      hands: {
        L: { at: hand(1), elbow: [0.9, -0.7, -0.5], curl: 55 },
        R: { at: hand(-1), elbow: [-0.9, -0.7, -0.5], curl: 55 },
      },
    };
  },
  lean: (x) => {
    const u = pulse(x);
    return {
      hips: [0, -0.03 * u, 0.05 * u],
      chest: { pitch: 22 * u },
      head: { pitch: -4 * u },
      hands: {
        L: { at: mix3(rest(1), [0.3, 1.04, 0.42], u), elbow: [0.9, -0.4, -0.5], curl: 44 },
        R: { at: mix3(rest(-1), [-0.3, 1.04, 0.42], u), elbow: [-0.9, -0.4, -0.5], curl: 44 },
      },
    };
  },
};

/** A round of the deck: walks of so many steps that turn by so many degrees a step, each followed by an act of so many seconds. */
const ROUND: [steps: number, turn: number, stride: number, act: keyof typeof ACTS, seconds: number][] = [
  [7, 0, 0.6, 'lookOut', 3.4],
  [6, 15, 0.5, 'stoop', 3.2],
  [8, 0, 0.62, 'reach', 3],
  [6, 15, 0.5, 'haul', 5],
  [9, 0, 0.6, 'wave', 3.6],
  [6, 15, 0.5, 'lean', 4],
  [7, -8, 0.55, 'stoop', 3],
  [6, 15, 0.5, 'reach', 2.6],
  [8, 4, 0.6, 'lookOut', 3.4],
  [6, 15, 0.5, 'haul', 6],
  [9, 0, 0.62, 'wave', 3.4],
  [6, 10, 0.5, 'lean', 4.4],
  [7, 0, 0.6, 'stoop', 3.4],
  [6, 12, 0.5, 'haul', 5],
];
const PERIOD = 0.57;

function plan(): { feet: Feet; acts: { act: Act; from: number; to: number }[]; seconds: number } {
  let t = 0.6;
  let [x, z, yaw] = [0, 0, 0];
  const parts: Feet[] = [];
  const acts: { act: Act; from: number; to: number }[] = [];
  for (const [steps, turn, stride, act, seconds] of ROUND) {
    const places = [{ x, z, yaw }];
    for (let k = 0; k < steps; k++) {
      yaw += k < steps - 1 ? turn : 0;
      const a = (yaw * Math.PI) / 180;
      if (k < steps - 1) {
        x += stride * Math.sin(a);
        z += stride * Math.cos(a);
      }
      places.push({ x, z, yaw });
    }
    parts.push(march({ steps, period: PERIOD, start: t, width: 0.085, path: (u) => places[Math.round(u)]! }));
    t += steps * PERIOD + 0.35;
    acts.push({ act: ACTS[act]!, from: t, to: t + seconds });
    t += seconds + 0.3;
  }
  return { feet: joinFeet(parts), acts, seconds: t + 0.4 };
}

const round = plan();

/** Two minutes of a deck hand's watch: walks, turns, stoops, reaches, hauls, waves. */
export const watch: Score = {
  name: 'Two minutes of a watch',
  kind: 'take',
  fps: 60,
  seconds: round.seconds,
  tags: ['mixed', 'long'],
  words: ['walk', 'turn left', 'squat', 'reach up', 'wave'],
  note: 'A round of the deck with all the small jobs on the way.',
  folder: 'Deck work',
  noise: 1,
  at: (t) => {
    const now = round.acts.find((a) => t > a.from && t < a.to);
    const local = now ? now.act((t - now.from) / (now.to - now.from)) : {};
    return bodyOn(round.feet, t, { armSwing: 0.4 }, over(idleSway(t), local));
  },
};
