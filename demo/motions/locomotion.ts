import { smoothstep } from '../../motion/math/vec';
import { type Moment, mix, type Score, type V3 } from '../actor';
import { footAt, type Stand, type StepStyle, WALK_STEP } from '../footwork';

const TAU = Math.PI * 2;
const HIPS = 0.935;

interface Gait {
  period: number;
  stride: number;
  /** Share of the period in which a foot stands. */
  duty: number;
  width: number;
  style: StepStyle;
  bob: number;
  bobPhase: number;
  sway: number;
  lean: number;
  twist: number;
  armSwing: number;
  armBend: number;
  /** Rise of the ground, degrees. */
  slope: number;
  toeOut: number;
}

/** Footfalls of a steady gait; the left foot is at mid-stance at t = 0 modulo the period. */
function stands(g: Gait, side: 'L' | 'R', seconds: number): Stand[] {
  const out: Stand[] = [];
  const offset = side === 'L' ? 0 : g.period / 2;
  for (let i = -2; i < seconds / g.period + 3; i++) {
    const middle = i * g.period + offset;
    const z = (middle / g.period) * g.stride;
    out.push({
      from: middle - (g.duty * g.period) / 2,
      to: middle + (g.duty * g.period) / 2,
      at: [side === 'L' ? g.width : -g.width, groundAt(g, z), z],
      yaw: side === 'L' ? g.toeOut : -g.toeOut,
      slope: z > QUAY ? g.slope : 0,
    });
  }
  return out;
}

/** The quay is level; beyond it the gangway rises. */
const QUAY = 0.6;
const groundAt = (g: Gait, z: number): number => Math.max(0, z - QUAY) * Math.tan((g.slope * Math.PI) / 180);

function gaitMoment(g: Gait, feet: { L: Stand[]; R: Stand[] }, t: number): Moment {
  const phase = (t / g.period) * TAU;
  const z = (t / g.period) * g.stride;
  // the body starts to rise before the foot does and smooths the kink
  const climb = g.slope > 0 ? smoothstep((z - QUAY + 0.4) / 0.8) : 0;
  const rise = g.slope > 0 ? [-0.4, -0.2, 0, 0.2, 0.4].reduce((sum, d) => sum + groundAt(g, z + d + 0.08), 0) / 5 : 0;
  const late = phase - 0.35;
  const hipY = HIPS + rise + g.bob * Math.cos(2 * phase - g.bobPhase) - 0.055 * climb;
  const pelvisYaw = -5.5 * (g.stride / 1.4) * Math.sin(phase);
  const shoulderYaw = g.twist * Math.sin(late);
  const hand = (side: 'L' | 'R'): Moment['hands']['L'] => {
    const s = side === 'L' ? 1 : -1;
    // an arm swings against the leg of its side, its end a little late
    const swing = Math.sin(phase + (side === 'L' ? 0 : Math.PI) - 0.25);
    const forward = g.armSwing * (swing + 0.16);
    const up = g.armBend + 0.09 * g.armSwing * (1 + 3 * smoothstep((swing + 1) / 2)) * swing ** 2;
    const x = s * (0.235 - 0.045 * Math.max(0, swing));
    return {
      at: [x + g.sway * Math.sin(phase) * 0.5, hipY - 0.075 + up, z + 0.03 + forward + (g.lean / 90) * 0.5],
      elbow: [s * 0.4, -0.35, -1],
      bend: 8 + 8 * swing,
      curl: 20,
    };
  };
  return {
    hips: [g.sway * Math.cos(phase), hipY, z + 0.012 * Math.sin(2 * phase)],
    pelvis: { yaw: pelvisYaw, roll: -3 * Math.cos(phase + 0.5), pitch: 2 + g.lean * 0.35 },
    chest: { yaw: shoulderYaw, roll: 1.6 * Math.cos(late), pitch: g.lean + 1.4 * Math.cos(2 * phase - 0.6) },
    head: {
      yaw: shoulderYaw * 0.25,
      pitch: g.lean * 0.25 - 1.4 * Math.cos(2 * phase - 1.4),
      roll: 0.6 * Math.cos(late - 0.4),
    },
    feet: { L: footAt(feet.L, t, g.style), R: footAt(feet.R, t, g.style) },
    hands: { L: hand('L'), R: hand('R') },
  };
}

function gait(base: Omit<Score, 'at'>, g: Gait): Score {
  const feet = { L: stands(g, 'L', base.seconds), R: stands(g, 'R', base.seconds) };
  return { ...base, at: (t) => gaitMoment(g, feet, t) };
}

const walk: Gait = {
  period: 1.08,
  stride: 1.36,
  duty: 0.61,
  width: 0.062,
  style: WALK_STEP,
  bob: 0.019,
  bobPhase: 0.1,
  sway: 0.024,
  lean: 2.5,
  twist: 7,
  armSwing: 0.2,
  armBend: 0.02,
  slope: 0,
  toeOut: 6,
};

export const deckWalk = gait(
  {
    name: 'Deck walk',
    kind: 'cycle',
    fps: 30,
    seconds: 32 / 15,
    tags: ['walk'],
    note: 'Unhurried walk along the deck, two strides.',
    folder: 'Crossing',
    words: ['walk'],
    noise: 0,
  },
  { ...walk, period: 16 / 15 },
);

export const gangwayWalk = gait(
  {
    name: 'Gangway walk, steep',
    kind: 'take',
    fps: 60,
    seconds: 4.6,
    tags: ['walk', 'slope'],
    note: 'Up the steep gangway at low tide, leaning in.',
    folder: 'Crossing',
    words: ['walk', 'climb'],
    noise: 1,
  },
  {
    ...walk,
    period: 1.15,
    stride: 0.98,
    duty: 0.64,
    slope: 17,
    lean: 15,
    bob: 0.026,
    bobPhase: 0.8,
    armSwing: 0.23,
    armBend: 0.05,
    twist: 9,
    style: { strike: 4, push: 40, lift: 0.09, roll: 0.4 },
  },
);

export const quayRun = gait(
  {
    name: 'Quay run',
    kind: 'take',
    fps: 120,
    seconds: 3.2,
    tags: ['run'],
    note: 'Running for the last boat.',
    folder: 'Crossing',
    words: ['run'],
    noise: 1,
  },
  {
    ...walk,
    period: 0.7,
    stride: 2.35,
    duty: 0.3,
    width: 0.045,
    bob: 0.036,
    bobPhase: 2.6,
    sway: 0.012,
    lean: 9,
    twist: 13,
    armSwing: 0.24,
    armBend: 0.2,
    toeOut: 3,
    style: { strike: 6, push: 62, lift: 0.2, roll: 0.62 },
  },
);

/** Heavy box in both arms, short wide steps, body leaning back; used after the lift. */
export const carryGait: Gait = {
  ...walk,
  period: 1.2,
  stride: 0.92,
  duty: 0.66,
  width: 0.09,
  bob: 0.022,
  sway: 0.034,
  lean: -6,
  twist: 2,
  armSwing: 0,
  armBend: 0,
  toeOut: 10,
  style: { strike: 10, push: 34, lift: 0.05, roll: 0.38 },
};

export function carryMoment(
  t: number,
  startZ: number,
  feet: { L: Stand[]; R: Stand[] },
  grip: (hips: V3) => [V3, V3],
): Moment {
  const m = gaitMoment(carryGait, feet, t);
  m.hips[2] += startZ;
  for (const side of ['L', 'R'] as const) m.feet[side].at[2] += startZ;
  const [l, r] = grip(m.hips);
  m.hands = {
    L: { at: l, elbow: [0.6, -1, -0.3], bend: 0, roll: 50, curl: 30 },
    R: { at: r, elbow: [-0.6, -1, -0.3], bend: 0, roll: 50, curl: 30 },
  };
  m.hips[1] = mix(m.hips[1], m.hips[1] - 0.03, 1);
  return m;
}

export { stands as gaitStands };
