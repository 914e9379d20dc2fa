import { ease, type Moment, mix, mix3, type Score, type V3 } from '../actor';
import { bodyOn, EASE, type Feet, idleSway, type Local, over, STAND, standAt } from './march';

const TAU = Math.PI * 2;
type Plain = Omit<Score, 'at'>;
const stand = (plain: Plain, local: (t: number) => Local, feet: Feet = EASE): Score => ({
  ...plain,
  at: (t) => bodyOn(feet, t, { sway: 0 }, over(idleSway(t), local(t))),
});
const rest = (side: 1 | -1): V3 => [side * 0.24, STAND - 0.075, 0.03];

export const waiting = stand(
  {
    name: 'Waiting for the tide',
    kind: 'cycle',
    fps: 30,
    seconds: 8,
    tags: ['idle'],
    words: ['idle'],
    note: 'Weight from foot to foot, eyes on the water.',
    folder: 'Crossing',
    noise: 0,
  },
  (t) => {
    const a = (t / 8) * TAU;
    const s = idleSway(t);
    // the idle's own rhythms are taken back, so that the loop closes
    const back = (x: NonNullable<Local['chest']>): Local['chest'] => ({
      yaw: -(x.yaw ?? 0),
      pitch: -(x.pitch ?? 0),
      roll: -(x.roll ?? 0),
    });
    return {
      hips: [
        0.03 * Math.sin(a) - s.hips![0],
        -0.008 + 0.004 * Math.cos(3 * a) - s.hips![1],
        0.008 * Math.sin(2 * a) - s.hips![2],
      ],
      pelvis: { roll: -3 * Math.sin(a), yaw: 3 * Math.sin(a) },
      chest: {
        ...back(s.chest!),
        roll: -s.chest!.roll! + 2 * Math.sin(a),
        pitch: -s.chest!.pitch! + 1.2 * Math.sin(3 * a),
        yaw: -s.chest!.yaw!,
      },
      head: { yaw: -s.head!.yaw! + 16 * Math.sin(a - 0.6), pitch: -s.head!.pitch! + 2 * Math.sin(2 * a) },
    };
  },
);

export const lantern = stand(
  {
    name: 'Hanging the lantern',
    kind: 'clip',
    fps: 60,
    seconds: 4.4,
    tags: ['reach', 'lamp'],
    words: ['reach up', 'two hands'],
    note: 'Lifts the lamp onto its hook overhead with both hands.',
    folder: 'Galley',
    noise: 0.5,
  },
  (t) => {
    const up = ease(t, 0.5, 1.5) * (1 - ease(t, 3.1, 4.1));
    const tip = ease(t, 1.5, 1.9) * (1 - ease(t, 2.6, 3.0));
    const low: V3 = [0.09, STAND + 0.16, 0.3];
    const hook: V3 = [0.085, 1.86 + 0.05 * tip, 0.2];
    const at = mix3(low, hook, up);
    at[2] += 0.14 * Math.sin(Math.PI * up);
    return {
      hips: [0, 0.012 * up + 0.02 * tip, 0.02 * up],
      chest: { pitch: -7 * up + 3 },
      head: { pitch: 8 - 36 * up },
      hands: {
        L: { at, elbow: [0.8, -0.5, -0.3], curl: 52 },
        R: { at: [-at[0], at[1], at[2]], elbow: [-0.8, -0.5, -0.3], curl: 52 },
      },
    };
  },
);

export const fogBell = stand(
  {
    name: 'Ringing the fog bell',
    kind: 'cycle',
    fps: 30,
    seconds: 2.4,
    tags: ['bell', 'pull'],
    words: ['reach up'],
    note: 'Right hand high on the lanyard, short pulls.',
    folder: 'Weather',
    noise: 0,
  },
  (t) => {
    const a = (t / 1.2) * TAU;
    const pull = 0.5 - 0.5 * Math.cos(a + 0.4 * Math.sin(a));
    const s = idleSway(t);
    return {
      hips: [-s.hips![0] - 0.02, -s.hips![1] - 0.012 * pull, -s.hips![2]],
      chest: {
        yaw: -s.chest!.yaw! - 8 + 3 * pull,
        pitch: -s.chest!.pitch! + 3 * pull,
        roll: -s.chest!.roll! + 6 - 4 * pull,
      },
      head: { yaw: -s.head!.yaw! - 10, pitch: -s.head!.pitch! - 12 },
      hands: {
        R: { at: [-0.2, 1.82 - 0.2 * pull, 0.26], elbow: [-1, -0.4, 0.2], curl: 58 },
        L: { at: [0.25, STAND - 0.06, 0.05], elbow: [0.4, -0.35, -1] },
      },
    };
  },
);

export const cleat = stand(
  {
    name: 'Squat to the cleat',
    kind: 'take',
    fps: 60,
    seconds: 4.8,
    tags: ['squat', 'rope'],
    words: ['squat'],
    note: 'Down to the cleat, a turn of rope, up again.',
    folder: 'Deck work',
    noise: 1,
  },
  (t) => {
    const down = ease(t, 0.4, 1.4) * (1 - ease(t, 3.2, 4.3));
    const work = ease(t, 1.3, 1.6) * (1 - ease(t, 2.9, 3.2));
    const turn = (t - 1.4) * 5.2;
    const hand = (s: 1 | -1): V3 => {
      const low: V3 = [
        s * 0.14 + 0.05 * work * Math.sin(turn + (s > 0 ? 0 : 2.2)),
        0.24 + 0.03 * work * Math.cos(turn),
        0.36 + 0.05 * work * Math.cos(turn + s),
      ];
      return mix3(rest(s), low, down);
    };
    return {
      hips: [0, -0.47 * down, -0.12 * down],
      pelvis: { pitch: 22 * down },
      chest: { pitch: 44 * down },
      head: { pitch: 6 * down },
      hands: {
        L: { at: hand(1), elbow: [0.6, -0.5, -0.9], curl: 18 + 34 * down },
        R: { at: hand(-1), elbow: [-0.6, -0.5, -0.9], curl: 18 + 34 * down },
      },
    };
  },
  standAt([0.15, 0, 0.03], [-0.15, 0, -0.05], 16, -20),
);

const SEAT = 0.5;
/** On and off a bollard: x = 0 stands, 1 sits. */
function seated(x: number): Local {
  const lean = Math.sin(Math.PI * x);
  return {
    hips: [0, (SEAT - STAND) * ease(x, 0.15, 1), -0.34 * ease(x, 0, 0.85)],
    pelvis: { pitch: 24 * lean - 6 * x },
    chest: { pitch: 34 * lean + 2 * x },
    head: { pitch: -6 * lean },
    hands: {
      L: { at: mix3(rest(1), [0.16, 0.62, 0.02], x), elbow: [0.8, -0.4, -0.8], curl: 22 },
      R: { at: mix3(rest(-1), [-0.16, 0.62, 0.02], x), elbow: [-0.8, -0.4, -0.8], curl: 22 },
    },
  };
}
export const sitDown = stand(
  {
    name: 'Sit on the bollard',
    kind: 'take',
    fps: 60,
    seconds: 4.6,
    tags: ['sit'],
    words: ['sit down', 'sit'],
    note: 'Lowers herself onto the bollard and stays.',
    folder: 'Crossing',
    noise: 1,
  },
  (t) => seated(ease(t, 0.6, 2.1)),
  standAt([0.13, 0, 0.03], [-0.13, 0, -0.02], 12, -12),
);
export const standUp = stand(
  {
    name: 'Up from the bollard',
    kind: 'take',
    fps: 60,
    seconds: 4.2,
    tags: ['stand up'],
    words: ['sit', 'stand up'],
    note: 'Sits, leans forward, stands.',
    folder: 'Crossing',
    noise: 1,
  },
  (t) => seated(1 - ease(t, 1.7, 3.1)),
  standAt([0.13, 0, 0.03], [-0.13, 0, -0.02], 12, -12),
);

/** On both knees, one hand on the planks, the other scrubbing. */
export const scrub: Score = {
  name: 'Kneel and scrub',
  kind: 'cycle',
  fps: 30,
  seconds: 3.2,
  tags: ['kneel', 'scrub'],
  words: ['kneel'],
  note: 'On both knees, long strokes with the brush.',
  folder: 'Deck work',
  noise: 0,
  at: (t): Moment => {
    const a = (t / 1.6) * TAU;
    const stroke = Math.sin(a + 0.3 * Math.sin(a));
    const y = 0.065 + Math.sqrt(0.42 ** 2 - 0.1 ** 2) + 0.02;
    return {
      hips: [-0.01 * stroke, y, 0.0 + 0.018 * stroke],
      pelvis: { pitch: 54, yaw: -3 * stroke },
      chest: { pitch: 92 + 3 * stroke, yaw: 6 * stroke, roll: 4 },
      head: { pitch: 58, yaw: 5 * stroke },
      feet: { L: { at: [0.11, 0, -0.475], pitch: 76, yaw: 3 }, R: { at: [-0.11, 0, -0.475], pitch: 76, yaw: -3 } },
      hands: {
        L: { at: [0.19, 0.058, 0.38], elbow: [1, 0.1, -0.4], flat: { inwards: 12, down: 10 }, curl: 4 },
        R: {
          at: [-0.12 + 0.05 * Math.cos(a), 0.09, 0.44 + 0.11 * stroke],
          elbow: [-1, 0.3, -0.5],
          flat: { inwards: 25, down: 4 },
          curl: 34,
        },
      },
    };
  },
};

export const castLine = stand(
  {
    name: 'Casting a line',
    kind: 'take',
    fps: 120,
    seconds: 3.4,
    tags: ['throw', 'rope'],
    words: ['throw'],
    note: 'Swings back, steps in, throws the line ashore.',
    folder: 'Deck work',
    noise: 1,
  },
  (t) => {
    const back = ease(t, 0.5, 1.35);
    const go = ease(t, 1.4, 1.72);
    const settle = ease(t, 2.0, 2.9);
    const ready: V3 = [-0.24, STAND - 0.02, 0.1];
    const wound: V3 = [-0.36, STAND + 0.06, -0.38];
    const high: V3 = [-0.16, STAND + 0.62, 0.5];
    const path = mix3(mix3(ready, wound, back), high, go);
    path[1] += 0.16 * Math.sin(Math.PI * go);
    const after = mix3(path, rest(-1), settle);
    return {
      hips: [0.02 * back - 0.03 * go, -0.05 * back + 0.03 * go, -0.07 * back * (1 - go) + 0.2 * go],
      pelvis: { yaw: -22 * back * (1 - go) + 14 * go * (1 - settle) },
      chest: {
        yaw: -34 * back * (1 - go) + 26 * go * (1 - settle),
        pitch: -4 * back * (1 - go) + 12 * go * (1 - settle),
        roll: 5 * back * (1 - settle),
      },
      head: { yaw: 14 * back * (1 - go) },
      hands: {
        R: { at: after, elbow: [-0.8, -0.5, -0.6], curl: 50 - 44 * go + 20 * settle },
        L: {
          at: mix3(mix3(rest(1), [0.26, STAND + 0.24, 0.4], back * (1 - go)), rest(1), settle),
          elbow: [0.7, -0.6, -0.8],
        },
      },
    };
  },
  {
    L: [
      { from: -99, to: 1.2, at: [0.1, 0, 0.08], yaw: 8 },
      { from: 1.56, to: 99, at: [0.11, 0, 0.52], yaw: 4 },
    ],
    R: [{ from: -99, to: 99, at: [-0.12, 0, -0.06], yaw: -30 }],
  },
);

export const pointOut = stand(
  {
    name: 'Pointing out the buoy',
    kind: 'clip',
    fps: 30,
    seconds: 3.6,
    tags: ['point'],
    words: ['point'],
    note: 'Left arm out over the bow, forefinger straight.',
    folder: 'Crossing',
    noise: 0.4,
  },
  (t) => {
    const out = ease(t, 0.5, 1.1) * (1 - ease(t, 2.7, 3.4));
    const jab = 0.012 * Math.sin(t * 9) * out;
    const bent = mix(20, 62, out);
    return {
      chest: { yaw: 12 * out, pitch: 2 * out },
      head: { yaw: 14 * out, pitch: -2 * out },
      hands: {
        L: {
          at: mix3(rest(1), [0.4 + jab, 1.4 + jab, 0.44], out),
          elbow: [0.7, -0.8, -0.4],
          bend: 4,
          roll: 20 * out,
          fingers: [mix(20, 30, out), mix(20, 2, out), bent, bent, bent],
        },
      },
    };
  },
);

export const countCrates = stand(
  {
    name: 'Counting crates',
    kind: 'clip',
    fps: 60,
    seconds: 5,
    tags: ['fingers', 'count'],
    words: ['fingers'],
    note: 'One finger after the other comes up before the chest.',
    folder: 'Deck work',
    noise: 0.2,
  },
  (t) => {
    const up = ease(t, 0.2, 0.8) * (1 - ease(t, 4.3, 4.9));
    const finger = (i: number): number => mix(20, mix(78, 4, ease(t, 1 + i * 0.6, 1.25 + i * 0.6)), up);
    // forefinger first, the thumb last
    return {
      chest: { pitch: 3 * up },
      head: { pitch: 16 * up },
      hands: {
        R: {
          at: mix3(rest(-1), [-0.14, 1.28, 0.3], up),
          elbow: [-0.8, -0.8, -0.4],
          roll: 40 * up,
          bend: 2,
          fingers: [finger(4), finger(0), finger(1), finger(2), finger(3)],
        },
      },
    };
  },
);

export const stirPot = stand(
  {
    name: 'Stirring the pot',
    kind: 'cycle',
    fps: 30,
    seconds: 3,
    tags: ['stir', 'galley'],
    words: [],
    note: 'Slow rounds with the long spoon, the left hand on the rim.',
    folder: 'Galley',
    noise: 0,
  },
  (t) => {
    const a = (t / 1.5) * TAU;
    const s = idleSway(t);
    return {
      hips: [0.012 * Math.cos(a) - s.hips![0], -s.hips![1], 0.01 * Math.sin(a) - s.hips![2]],
      chest: {
        pitch: 12 + 2 * Math.sin(a) - s.chest!.pitch!,
        yaw: 5 * Math.cos(a) - s.chest!.yaw!,
        roll: -s.chest!.roll!,
      },
      head: { pitch: 18 - s.head!.pitch!, yaw: -s.head!.yaw! },
      hands: {
        R: {
          at: [-0.08 + 0.12 * Math.cos(a), 1.14 + 0.01 * Math.sin(2 * a), 0.42 + 0.1 * Math.sin(a)],
          elbow: [-1, -0.4, -0.2],
          curl: 56,
          roll: 20,
          bend: 10 * Math.cos(a),
        },
        L: { at: [0.22, 1.02, 0.36], elbow: [0.9, -0.5, -0.5], curl: 40 },
      },
    };
  },
);

export const tellTale = stand(
  {
    name: 'Telling a tale',
    kind: 'take',
    fps: 60,
    seconds: 7,
    tags: ['talk', 'face'],
    words: ['talk'],
    note: 'Talks with her hands, blinks, laughs at the end.',
    folder: 'Galley',
    noise: 0.5,
  },
  (t) => {
    const beat = (f: number, p: number): number => Math.max(0, Math.sin(t * f + p)) ** 2;
    const on = ease(t, 0.3, 1) * (1 - ease(t, 6, 6.8));
    const l = beat(2.3, 0) * on;
    const r = beat(1.9, 1.7) * on;
    return {
      chest: { yaw: 5 * Math.sin(t * 1.3), pitch: 2 - 5 * ease(t, 5, 5.5) * (1 - ease(t, 6, 6.8)) },
      head: {
        yaw: 10 * Math.sin(t * 1.1),
        pitch: 3 * Math.sin(t * 2.7) - 8 * ease(t, 5, 5.5) * (1 - ease(t, 6, 6.8)),
        roll: 4 * Math.sin(t * 1.6),
      },
      hands: {
        L: { at: mix3(rest(1), [0.28, 1.2, 0.34], l), elbow: [0.7, -0.8, -0.6], roll: 55 * l, curl: 20 - 8 * l },
        R: { at: mix3(rest(-1), [-0.3, 1.18, 0.32], r), elbow: [-0.7, -0.8, -0.6], roll: 55 * r, curl: 20 - 8 * r },
      },
    };
  },
);
const lid = (t: number): number => Math.max(0, 1 - Math.abs(((t + 0.7) % 2.6) - 0.12) / 0.1);
tellTale.face = (t) => {
  const laugh = ease(t, 4.9, 5.4) * (1 - ease(t, 6.2, 6.9));
  const words =
    (0.5 + 0.5 * Math.sin(t * 17)) * (0.5 + 0.5 * Math.sin(t * 4.3)) * ease(t, 0.4, 0.7) * (1 - ease(t, 4.7, 5));
  return {
    mouth_open: Math.min(1, 0.75 * words + 0.8 * laugh * (0.6 + 0.4 * Math.sin(t * 13))),
    smile: 0.15 + 0.8 * laugh,
    blink_L: lid(t),
    blink_R: lid(t),
  };
};
