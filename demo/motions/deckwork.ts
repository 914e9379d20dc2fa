import { ease, type Hand, type Moment, mix, mix3, type Score, type V3 } from '../actor';
import { footAt, type Stand, WALK_STEP } from '../footwork';
import { carryGait, carryMoment, gaitStands } from './locomotion';

const TAU = Math.PI * 2;
const HIPS = 0.93;
const still = (at: V3, yaw: number): Stand[] => [{ from: -99, to: 99, at, yaw }];

/** Hand over hand on a tarred rope at chest height: one hand pulls while the other reaches. */
export const ropeHaul: Score = {
  name: 'Tarred rope haul',
  kind: 'cycle',
  fps: 30,
  seconds: 3.2,
  tags: ['rope', 'pull', 'two hands'],
  note: 'Hand over hand, feet braced apart, the back does the work.',
  folder: 'Deck work',
  words: ['two hands'],
  noise: 0,
  at: (t) => {
    const phase = (t / 1.6) * TAU;
    const feet = { L: still([0.12, 0, 0.24], 8), R: still([-0.15, 0, -0.22], -28) };
    // pull is strong and slow, the reach quick
    const haul = (x: number): number => 0.5 - 0.5 * Math.cos(x + 0.5 * Math.sin(x));
    const body = Math.sin(2 * phase - 0.9);
    const hips: V3 = [-0.01 + 0.012 * Math.sin(phase), HIPS - 0.1 + 0.014 * Math.cos(2 * phase), -0.04 - 0.05 * body];
    const hand = (side: 'L' | 'R'): Hand => {
      const s = side === 'L' ? 1 : -1;
      const x = haul(phase + (side === 'L' ? 0 : Math.PI));
      const reach = Math.sin(phase + (side === 'L' ? 0 : Math.PI));
      return {
        at: [
          s * 0.06 + 0.02,
          HIPS + 0.1 + 0.16 * (1 - x) + 0.05 * Math.max(0, -reach),
          mix(0.6, 0.24, x) - 0.04 * body,
        ],
        elbow: [s * 0.9, -0.75, -0.5],
        bend: 4,
        roll: -20,
        curl: 55 - 25 * Math.max(0, -reach),
      };
    };
    return {
      hips,
      pelvis: { yaw: -10 + 4 * Math.sin(phase), pitch: 8 - 3 * body, roll: 2 * Math.sin(phase) },
      chest: { yaw: -6 + 13 * Math.sin(phase - 0.2), pitch: 16 - 10 * body, roll: 3 * Math.sin(phase - 0.3) },
      head: { yaw: 3 * Math.sin(phase), pitch: 8 - 4 * body },
      feet: { L: footAt(feet.L, t, WALK_STEP), R: footAt(feet.R, t, WALK_STEP) },
      hands: { L: hand('L'), R: hand('R') },
    };
  },
};

/** Squats, takes a crate, stands up with it and walks off. */
export const crateLift: Score = {
  name: 'Crate lift and carry',
  kind: 'take',
  fps: 60,
  seconds: 6.4,
  tags: ['lift', 'carry', 'two hands', 'walk'],
  note: 'Down to the crate, up with a straight back, four steps with it.',
  folder: 'Deck work',
  words: ['lift', 'carry', 'two hands', 'walk', 'squat'],
  noise: 1,
  at: (t) => {
    const walkFrom = 3.1;
    const down = ease(t, 0.35, 1.25) * (1 - ease(t, 1.7, 2.7));
    const holding = ease(t, 1.2, 1.6);
    const crateUp = ease(t, 1.65, 2.75);
    const grip = (hips: V3): [V3, V3] => [
      [0.2, hips[1] + 0.12, hips[2] + 0.36],
      [-0.2, hips[1] + 0.12, hips[2] + 0.36],
    ];
    // the walk begins with the left foot at mid-stance: stands before are stretched back to the start
    const steps = { L: walkStands('L'), R: walkStands('R') };
    const walking = ease(t, walkFrom - 0.15, walkFrom + 0.35);
    const w = Math.max(0, t - walkFrom);
    const m = carryMoment(w, 0, steps, grip);
    const hips: V3 = [0, HIPS - 0.42 * down, -0.1 * down];
    const free: V3 = [0.24, HIPS - 0.06, 0.06];
    const low: V3 = [0.2, 0.34, 0.36];
    const carried = grip([0, HIPS - 0.03, 0])[0];
    const reach = mix3(mix3(free, low, ease(t, 0.45, 1.25)), carried, crateUp);
    const idle: Moment = {
      hips,
      pelvis: { pitch: 4 + 26 * down },
      chest: { pitch: 3 + 34 * down - 7 * crateUp * (1 - down) },
      head: { pitch: 14 * ease(t, 0.2, 0.8) * (1 - crateUp) + 2 },
      feet: m.feet,
      hands: {
        L: { at: reach, elbow: [0.7, -0.9, -0.5], roll: 50 * holding, curl: 18 + 14 * holding, bend: 0 },
        R: {
          at: [-reach[0], reach[1], reach[2]],
          elbow: [-0.7, -0.9, -0.5],
          roll: 50 * holding,
          curl: 18 + 14 * holding,
          bend: 0,
        },
      },
    };
    return blend(idle, m, walking);
  },
};

function walkStands(side: 'L' | 'R'): Stand[] {
  const all = gaitStands(carryGait, side, 4).filter((s) => s.to > 0.25);
  // stand at ease before: left where its mid-stance is, right beside it
  const first: Stand = {
    from: -99,
    to: side === 'L' ? all[0]!.to : 0.12,
    at: [side === 'L' ? carryGait.width + 0.04 : -carryGait.width - 0.04, 0, 0],
    yaw: side === 'L' ? 10 : -10,
  };
  return [first, ...all.slice(1).filter((s) => s.from > first.to)];
}

function blend(a: Moment, b: Moment, t: number): Moment {
  const turn = (x: Moment['chest'], y: Moment['chest']): Moment['chest'] => ({
    yaw: mix(x.yaw ?? 0, y.yaw ?? 0, t),
    pitch: mix(x.pitch ?? 0, y.pitch ?? 0, t),
    roll: mix(x.roll ?? 0, y.roll ?? 0, t),
  });
  const hand = (x: Hand, y: Hand): Hand => ({
    ...y,
    at: mix3(x.at, y.at, t),
    roll: mix(x.roll ?? 0, y.roll ?? 0, t),
    curl: mix(x.curl ?? 0, y.curl ?? 0, t),
  });
  return {
    hips: mix3(a.hips, b.hips, t),
    pelvis: turn(a.pelvis, b.pelvis),
    chest: turn(a.chest, b.chest),
    head: turn(a.head, b.head),
    feet: b.feet,
    hands: { L: hand(a.hands.L, b.hands.L), R: hand(a.hands.R, b.hands.R) },
  };
}

/** Long strokes across the deck, hands fixed along a mop's handle. */
export const mop: Score = {
  name: 'Mopping the deck',
  kind: 'cycle',
  fps: 30,
  seconds: 3.6,
  tags: ['mop', 'two hands', 'idle'],
  note: 'Slow strokes, weight from foot to foot.',
  folder: 'Deck work',
  words: ['two hands'],
  noise: 0,
  at: (t) => {
    const phase = (t / 1.8) * TAU;
    const stroke = Math.sin(phase + 0.25 * Math.sin(phase));
    const late = Math.sin(phase - 0.5);
    const feet = { L: still([0.16, 0, 0.14], 18), R: still([-0.16, 0, -0.12], -22) };
    const hips: V3 = [0.045 * late, HIPS - 0.06 - 0.012 * Math.cos(2 * phase), 0.02 + 0.035 * stroke];
    const head: V3 = [0.42 * stroke, 0.02, 0.78 + 0.1 * Math.cos(phase)];
    const top: V3 = [-0.12 + 0.1 * stroke, HIPS + 0.36, 0.26 + 0.05 * stroke];
    const along = (x: number): V3 => mix3(top, head, x);
    return {
      hips,
      pelvis: { yaw: 9 * late, pitch: 7, roll: -4 * late },
      chest: { yaw: 17 * Math.sin(phase - 0.2), pitch: 20 + 5 * stroke, roll: -3 * late },
      head: { yaw: 12 * stroke, pitch: 24 },
      feet: { L: footAt(feet.L, t, WALK_STEP), R: footAt(feet.R, t, WALK_STEP) },
      hands: {
        L: { at: along(0.44), elbow: [0.9, -0.5, -0.4], roll: 30, curl: 60, bend: 0 },
        R: { at: along(0.06), elbow: [-1, 0.1, -0.4], roll: -30, curl: 60, bend: 0 },
      },
    };
  },
};

/** Raises the right arm and waves to somebody on the shore, twice as eager towards the end. */
export const waveToShore: Score = {
  name: 'Wave to shore',
  kind: 'clip',
  fps: 30,
  seconds: 4,
  tags: ['wave', 'greeting'],
  note: 'Right hand high, up on the toes at the end.',
  folder: 'Crossing',
  words: ['wave'],
  noise: 0.4,
  at: (t) => {
    const up = ease(t, 0.25, 0.95) * (1 - ease(t, 3.1, 3.8));
    const beat = Math.sin(t * TAU * 1.6) * up;
    const tip = ease(t, 1.9, 2.3) * (1 - ease(t, 2.9, 3.3));
    const breathe = 0.006 * Math.sin(t * TAU * 0.3);
    const feet = {
      L: footAt(still([0.1, 0, 0.03], 12), t, WALK_STEP),
      R: footAt(still([-0.1, 0, -0.03], -12), t, WALK_STEP),
    };
    feet.L.pitch = 22 * tip;
    feet.R.pitch = 26 * tip;
    const high: V3 = [-0.32 + 0.15 * beat, 1.86 + 0.03 * Math.cos(t * TAU * 3.2) * up, 0.06];
    const rest: V3 = [-0.25, HIPS - 0.07, 0.02];
    const path = mix3(rest, high, up);
    path[2] += 0.26 * Math.sin(Math.PI * up);
    return {
      hips: [0.02 - 0.03 * up, HIPS + 0.045 * tip + breathe, 0.025 * tip],
      pelvis: { roll: 2 - 4 * up, yaw: 4 * up, pitch: 2 },
      chest: { roll: 6 * up + 2.5 * beat, yaw: 9 * up + 2 * beat, pitch: 1 - 4 * up },
      head: { yaw: 10 * up, pitch: -6 * up, roll: 4 * up - 1.5 * beat },
      feet,
      hands: {
        R: { at: path, elbow: [-1, -0.3, 0.1], bend: -6 + 14 * beat, curl: 16 - 10 * up },
        L: {
          at: [0.25 - 0.02 * up, HIPS - 0.07 + 0.05 * tip + breathe, 0.02 - 0.05 * tip],
          elbow: [0.4, -0.4, -1],
          curl: 22,
        },
      },
    };
  },
};

/** The deck heaves: knees give, arms fly out, one catching step, then settles. */
export const braceOnSwell: Score = {
  name: 'Brace on swell',
  kind: 'take',
  fps: 120,
  seconds: 4.8,
  tags: ['balance', 'step', 'reaction'],
  note: 'The deck tilts twice; a catching step to the left with the second wave.',
  folder: 'Weather',
  words: [],
  noise: 1.2,
  at: (t) => {
    const wave = (c: number, w: number): number => Math.exp(-(((t - c) / w) ** 2));
    const first = wave(1.15, 0.42);
    const second = wave(2.75, 0.5);
    const sway = 0.075 * first * Math.sin((t - 0.8) * 4) + 0.1 * second;
    const stepFrom = 2.35;
    const L: Stand[] = [
      { from: -99, to: stepFrom, at: [0.14, 0, 0.05], yaw: 14 },
      { from: stepFrom + 0.38, to: 99, at: [0.36, 0, 0.16], yaw: 24 },
    ];
    const R = still([-0.15, 0, -0.05], -16);
    const shift = ease(t, stepFrom, stepFrom + 0.55) * 0.1;
    const crouch = 0.06 + 0.11 * first + 0.17 * second;
    const out = Math.max(first, second * 1.1);
    const flail = Math.sin(t * 7.5) * out;
    return {
      hips: [shift + sway, HIPS - crouch + 0.006 * Math.sin(t * 2), 0.02 + 0.03 * second + shift * 0.4],
      pelvis: { roll: 9 * first * Math.sin((t - 0.7) * 4) + 10 * second, yaw: 6 * second, pitch: 7 + 6 * out },
      chest: {
        roll: -11 * first * Math.sin((t - 0.85) * 4) - 13 * second + 2 * flail,
        pitch: 9 + 12 * out,
        yaw: -7 * second + 3 * flail,
      },
      head: { roll: -4 * out, pitch: 4 + 3 * out, yaw: -5 * second },
      feet: { L: footAt(L, t, { strike: 3, push: 26, lift: 0.06, roll: 0.004 }), R: footAt(R, t, WALK_STEP) },
      hands: {
        L: {
          at: [shift + mix(0.28, 0.62, out), HIPS - crouch + mix(0.0, 0.34, out) + 0.07 * flail, mix(0.08, 0.2, out)],
          elbow: [0.3, -0.8, -1],
          bend: 4 + 10 * flail,
          curl: 20 - 8 * out,
        },
        R: {
          at: [shift - mix(0.28, 0.6, out), HIPS - crouch + mix(0.0, 0.3, out) - 0.07 * flail, mix(0.08, 0.26, out)],
          elbow: [-0.3, -0.8, -1],
          bend: 4 - 10 * flail,
          curl: 20 - 8 * out,
        },
      },
    };
  },
};
