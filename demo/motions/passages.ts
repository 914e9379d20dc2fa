import { ease, type Moment, mix, type Score } from '../actor';
import { footAt } from '../footwork';
import { bodyOn, type Feet, type Manner, march, STAND } from './march';

type Plain = Omit<Score, 'at'>;
const TAU = Math.PI * 2;

function on(
  plain: Plain,
  feet: Feet,
  manner: Manner,
  local: (t: number) => Parameters<typeof bodyOn>[3] = () => ({}),
): Score {
  return { ...plain, at: (t) => bodyOn(feet, t, manner, local(t)) };
}

/** Along a circle: `turn` degrees a step, to the left above 0. */
function arc(stride: number, turn: number): (u: number) => { x: number; z: number; yaw: number } {
  const a = (turn * Math.PI) / 180;
  const r = stride / a;
  return (u) => ({ x: r * (1 - Math.cos(a * u)), z: r * Math.sin(a * u), yaw: turn * u });
}

export const turnLeft = on(
  {
    name: 'Walk turning left',
    kind: 'take',
    fps: 60,
    seconds: 5.4,
    tags: ['walk', 'turn'],
    words: ['walk', 'turn left'],
    note: 'Round the coiled hawsers on the quay, to the left.',
    folder: 'Crossing',
    noise: 1,
  },
  march({ steps: 8, period: 0.56, start: 0.35, width: 0.075, path: arc(0.6, 15) }),
  { lean: 3 },
);
export const turnRight = on(
  {
    name: 'Walk turning right',
    kind: 'take',
    fps: 60,
    seconds: 5.8,
    tags: ['walk', 'turn'],
    words: ['walk', 'turn right'],
    note: 'Round the galley door, to the right.',
    folder: 'Crossing',
    noise: 1,
  },
  march({ steps: 8, period: 0.6, start: 0.35, width: 0.08, first: 'R', path: arc(0.52, -13) }),
  { lean: 3, armSwing: 0.34 },
);
export const aboutTurn = on(
  {
    name: 'About turn',
    kind: 'clip',
    fps: 30,
    seconds: 3.2,
    tags: ['turn'],
    words: ['turn left'],
    note: 'Turns round on the spot in five small steps.',
    folder: 'Crossing',
    noise: 0.3,
  },
  march({ steps: 6, period: 0.38, start: 0.3, width: 0.1, path: (u) => ({ x: 0, z: 0, yaw: 36 * u }) }),
  { armSwing: 0.2, sway: 0.035 },
);
export const backOff = on(
  {
    name: 'Backing off from the winch',
    kind: 'take',
    fps: 60,
    seconds: 4.9,
    tags: ['walk', 'backwards'],
    words: ['walk', 'walk backwards'],
    note: 'Seven short steps backwards, eyes on the load.',
    folder: 'Deck work',
    noise: 1,
  },
  march({ steps: 8, period: 0.52, start: 0.3, width: 0.09, path: (u) => ({ x: 0, z: -0.42 * u, yaw: 0 }) }),
  { style: { strike: -16, push: 10, lift: 0.05, roll: 0.2 }, lean: 6, armSwing: 0.22 },
  (t) => ({ head: { pitch: -6 - 2 * Math.sin(t * 2) } }),
);
export const sideStep = on(
  {
    name: 'Sidestep along the rail',
    kind: 'take',
    fps: 60,
    seconds: 5.2,
    tags: ['sideways', 'rail'],
    words: ['sidestep'],
    note: 'To the left along the rail, both hands on it.',
    folder: 'Weather',
    noise: 1,
  },
  sidewaysFeet(),
  { style: { strike: 2, push: 8, lift: 0.05, roll: 0.1 }, armSwing: 0, sway: 0.05, window: 0.9 },
  (t) => ({
    hips: [0, -0.02, 0],
    chest: { pitch: 6, roll: 1.5 * Math.sin(t * 2.4) },
    hands: {
      L: { at: [0.26 + 0.05 * Math.sin(t * 2.6), 1.02, 0.34], elbow: [0.8, -0.6, -0.6], curl: 48 },
      R: { at: [-0.24 + 0.05 * Math.sin(t * 2.6 + 2.4), 1.02, 0.34], elbow: [-0.8, -0.6, -0.6], curl: 48 },
    },
  }),
);

/** The left foot goes out, the right one comes up, five times. */
function sidewaysFeet(): Feet {
  const feet: Feet = {
    L: [{ from: -99, to: 99, at: [0.1, 0, 0], yaw: 6 }],
    R: [{ from: -99, to: 99, at: [-0.1, 0, 0], yaw: -6 }],
  };
  for (let k = 0; k < 5; k++) {
    const t = 0.3 + k * 0.9;
    feet.L.at(-1)!.to = t;
    feet.L.push({ from: t + 0.36, to: 99, at: [0.1 + 0.3 * (k + 1), 0, 0], yaw: 6 });
    feet.R.at(-1)!.to = t + 0.46;
    feet.R.push({ from: t + 0.82, to: 99, at: [-0.1 + 0.3 * (k + 1), 0, 0], yaw: -6 });
  }
  return feet;
}

const RISE = 0.19;
const RUN = 0.27;
/** Level, then steps that rise by `rise` each. */
const stairs =
  (rise: number, from = 0) =>
  (u: number) => ({
    x: 0,
    y: from + Math.max(0, Math.ceil(u) - 1) * rise,
    z: 0.3 * Math.min(1, u) + RUN * Math.max(0, u - 1),
    yaw: 0,
  });

export const stairsUp = on(
  {
    name: 'Up the companionway',
    kind: 'take',
    fps: 60,
    seconds: 6.6,
    tags: ['stairs'],
    words: ['climb'],
    note: 'Eight treads from the galley to the deck.',
    folder: 'Galley',
    noise: 1,
  },
  march({ steps: 9, period: 0.62, start: 0.35, width: 0.075, toeOut: 5, path: stairs(RISE) }),
  { style: { strike: -2, push: 34, lift: 0.12, roll: 0.3 }, lean: 12, armSwing: 0.35, window: 0.62, dip: 0.05 },
);
export const stairsDown = on(
  {
    name: 'Down the companionway',
    kind: 'take',
    fps: 60,
    seconds: 6.6,
    tags: ['stairs'],
    words: ['descend'],
    note: 'Eight treads back down, toes first.',
    folder: 'Galley',
    noise: 1,
  },
  march({ steps: 9, period: 0.6, start: 0.35, width: 0.08, toeOut: 6, first: 'R', path: stairs(-RISE, 7 * RISE) }),
  { style: { strike: -14, push: 26, lift: 0.07, roll: 0.3 }, lean: 3, armSwing: 0.3, window: 0.62, dip: 0.05 },
  () => ({ head: { pitch: 14 } }),
);
export const swellWalk = on(
  {
    name: 'Walk in a swell',
    kind: 'take',
    fps: 60,
    seconds: 7.4,
    tags: ['walk', 'balance'],
    words: ['walk'],
    note: 'Legs apart, arms out, the deck comes and goes.',
    folder: 'Weather',
    noise: 1,
  },
  march({
    steps: 11,
    period: 0.6,
    start: 0.4,
    width: 0.14,
    toeOut: 14,
    path: (u) => ({ x: 0.09 * Math.sin(u * 1.1), z: 0.46 * u, yaw: 7 * Math.sin(u * 0.9) }),
  }),
  { lean: 5, armSwing: 0.15, sway: 0.06, window: 0.7 },
  (t) => {
    const roll = Math.sin((t / 3.1) * TAU);
    return {
      hips: [0.02 * roll, -0.04, 0],
      pelvis: { roll: 5 * roll },
      chest: { roll: -8 * roll, yaw: 4 * Math.sin(t * 2.1) },
      head: { roll: -3 * roll },
      hands: {
        L: { at: [0.4 + 0.05 * roll, STAND + 0.06 + 0.1 * roll, 0.1], elbow: [0.4, -0.8, -1] },
        R: { at: [-0.4 + 0.05 * roll, STAND + 0.06 - 0.1 * roll, 0.1], elbow: [-0.4, -0.8, -1] },
      },
    };
  },
);
export const limp = on(
  {
    name: 'Limp after a stubbed toe',
    kind: 'take',
    fps: 60,
    seconds: 6.2,
    tags: ['walk', 'limp'],
    words: ['walk'],
    note: 'The right foot is set down gingerly and left soon.',
    folder: 'Crossing',
    noise: 1,
  },
  limpFeet(),
  { lean: 6, armSwing: 0.3, sway: 0.035 },
  (t) => {
    // the body drops and tips onto the good leg while the sore one carries
    const beat = Math.sin(((t - 0.35) / 1.24) * TAU);
    return { hips: [0.018 * beat, -0.018 + 0.016 * beat, 0], chest: { roll: -4 * beat }, head: { pitch: 8 } };
  },
);
function limpFeet(): Feet {
  const feet = march({
    steps: 9,
    period: 0.62,
    start: 0.35,
    width: 0.085,
    path: (u) => ({ x: 0, z: 0.44 * u, yaw: 0 }),
  });
  // the sore foot touches down late and leaves early
  feet.R.forEach((s, i) => {
    if (i > 0) s.from += 0.07;
    if (s.to < 90) s.to -= 0.06;
  });
  return feet;
}

/** Both feet together over a gap: `far` metres, `rise` metres up. */
function leap(plain: Plain, far: number, rise: number, off: number, flight: number): Score {
  const land = off + flight;
  const g = 9.81;
  const launch = (rise + 0.5 * g * flight * flight) / flight;
  const feet: Feet = {
    L: [
      { from: -99, to: off, at: [0.1, 0, 0.01], yaw: 7 },
      { from: land - 0.01, to: 99, at: [0.12, rise, far + 0.02], yaw: 9 },
    ],
    R: [
      { from: -99, to: off, at: [-0.1, 0, -0.01], yaw: -7 },
      { from: land + 0.015, to: 99, at: [-0.12, rise, far - 0.02], yaw: -9 },
    ],
  };
  const style = { strike: -24, push: 52, lift: 0.16, roll: 0.14 };
  const at = (t: number): Moment => {
    const crouch = ease(t, off - 0.75, off - 0.28) * (1 - ease(t, off - 0.22, off + 0.02));
    const air = Math.max(0, Math.min(flight, t - off));
    const absorb = ease(t, land - 0.04, land + 0.2) * (1 - ease(t, land + 0.3, land + 1.0));
    const push = ease(t, off - 0.24, off);
    const fly = ease(t, off - 0.14, land + 0.18);
    const up = air > 0 && air < flight ? launch * air - 0.5 * g * air * air : t >= land ? rise : 0;
    const settled = ease(t, land, land + 0.9);
    const tip = 0.07 * push * (1 - ease(t, land - 0.05, land + 0.1));
    const y = STAND - 0.27 * crouch - 0.24 * absorb + up + tip;
    const z = mix(-0.05 * crouch, far, fly) + 0.03 * absorb * (1 - settled);
    const back = crouch;
    const swing = ease(t, off - 0.28, off + 0.1) * (1 - ease(t, land - 0.05, land + 0.6));
    const handY = y + mix(-0.06, 0.02, back) + 0.46 * swing;
    const handZ = z + mix(0.04, -0.36, back) + 0.34 * swing;
    return {
      hips: [0, y, z],
      pelvis: { pitch: 6 + 26 * crouch + 20 * absorb + 8 * swing },
      chest: { pitch: 5 + 40 * crouch + 30 * absorb - 6 * swing },
      head: { pitch: 4 - 6 * crouch + 10 * absorb },
      feet: { L: footAt(feet.L, t, style), R: footAt(feet.R, t, style) },
      hands: {
        L: { at: [0.26, handY, handZ], elbow: [0.6, -0.4, -1], curl: 24 },
        R: { at: [-0.26, handY, handZ], elbow: [-0.6, -0.4, -1], curl: 24 },
      },
    };
  };
  return { ...plain, at };
}

export const jumpLanding = leap(
  {
    name: 'Jump to the landing',
    kind: 'take',
    fps: 120,
    seconds: 3.2,
    tags: ['jump'],
    words: ['jump'],
    note: 'Across the gap from the rail to the landing stage.',
    folder: 'Crossing',
    noise: 1,
  },
  1.05,
  0,
  1.15,
  0.46,
);
export const hopUp = leap(
  {
    name: 'Hop onto the hatch',
    kind: 'clip',
    fps: 60,
    seconds: 2.9,
    tags: ['jump'],
    words: ['jump'],
    note: 'Both feet onto the hatch cover.',
    folder: 'Deck work',
    noise: 0.4,
  },
  0.5,
  0.22,
  1.0,
  0.4,
);

/** On hands and knees: knees are pinned while the thigh turns over them, hands go with the opposite knee. */
export const crawl: Score = {
  name: 'Crawl under the boom',
  kind: 'take',
  fps: 60,
  seconds: 6,
  tags: ['crawl', 'low'],
  words: ['crawl'],
  note: 'On hands and knees under the lowered boom.',
  folder: 'Deck work',
  noise: 1,
  at: (t) => {
    const period = 1.5;
    const stride = 0.4;
    const speed = stride / period;
    const knee = (side: 'L' | 'R', u: number): { z: number; swing: number } => {
      const phase = u / period + (side === 'L' ? 0 : 0.5);
      const lap = Math.floor(phase);
      const x = phase - lap;
      const duty = 0.64;
      const z0 = (lap - (side === 'L' ? 0 : 0.5) + duty / 2) * stride;
      if (x < duty) return { z: z0, swing: 0 };
      const s = (x - duty) / (1 - duty);
      return { z: mix(z0, z0 + stride, ease(s, 0, 1)), swing: Math.sin(Math.PI * s) ** 2 };
    };
    const l = knee('L', t);
    const r = knee('R', t);
    const z = speed * t;
    const under = Math.max(l.swing > 0 ? 0 : Math.abs(z - l.z), r.swing > 0 ? 0 : Math.abs(z - r.z));
    const y = 0.065 + Math.sqrt(0.42 ** 2 - under ** 2) + 0.03 * Math.cos(1.35);
    const foot = (side: 'L' | 'R', k: { z: number; swing: number }): Moment['feet']['L'] => ({
      at: [side === 'L' ? 0.105 : -0.105, 0.012 * k.swing, k.z - 0.575 + 0.03 * k.swing],
      pitch: 76,
      yaw: 0,
    });
    const hand = (side: 'L' | 'R'): Moment['hands']['L'] => {
      const k = knee(side === 'L' ? 'R' : 'L', t + 0.08);
      const s = side === 'L' ? 1 : -1;
      return {
        at: [s * 0.17, 0.058 + 0.07 * k.swing, k.z + 0.53],
        elbow: [s, 0.1, -0.4],
        flat: { inwards: 8, down: 8 + 10 * k.swing },
        curl: 4 + 6 * k.swing,
      };
    };
    const roll = 3 * Math.sin((t / period) * TAU);
    return {
      hips: [0.012 * Math.sin((t / period) * TAU), y, z],
      pelvis: { pitch: 78, roll: 0, yaw: roll },
      chest: { pitch: 86, yaw: -roll },
      head: { pitch: 38, yaw: 6 * Math.sin(t * 1.1) },
      feet: { L: foot('L', l), R: foot('R', r) },
      hands: { L: hand('L'), R: hand('R') },
    };
  },
};
