import type { Party } from '../body/party';
import { guessBodyMap } from '../bodymap/guess';
import { axisAngleQuat, mulQuat, normalizeQuat } from '../math/quat';
import type { Motion } from '../motion/motion';
import { NORMAL_SPACE, type SkeletonRig } from '../rig/rig';

/** [name, parent, x, y, z (world at rest, metres)] */
type Spec = readonly (readonly [string, string | null, number, number, number])[];

/** A small body with world-parallel axes, enough for every rule of the core. */
export const PLAIN: Spec = [
  ['Hips', null, 0, 0.95, 0],
  ['Spine', 'Hips', 0, 1.05, 0],
  ['Chest', 'Spine', 0, 1.2, 0],
  ['Neck', 'Chest', 0, 1.45, 0],
  ['Head', 'Neck', 0, 1.55, 0.02],
  ['LeftShoulder', 'Chest', 0.03, 1.4, 0],
  ['LeftArm', 'LeftShoulder', 0.17, 1.4, 0],
  ['LeftForeArm', 'LeftArm', 0.45, 1.4, 0],
  ['LeftHand', 'LeftForeArm', 0.7, 1.4, 0],
  ['RightShoulder', 'Chest', -0.03, 1.4, 0],
  ['RightArm', 'RightShoulder', -0.17, 1.4, 0],
  ['RightForeArm', 'RightArm', -0.45, 1.4, 0],
  ['RightHand', 'RightForeArm', -0.7, 1.4, 0],
  ['LeftUpLeg', 'Hips', 0.09, 0.92, 0],
  ['LeftLeg', 'LeftUpLeg', 0.09, 0.5, 0.01],
  ['LeftFoot', 'LeftLeg', 0.09, 0.09, -0.01],
  ['LeftToe', 'LeftFoot', 0.09, 0.02, 0.13],
  ['RightUpLeg', 'Hips', -0.09, 0.92, 0],
  ['RightLeg', 'RightUpLeg', -0.09, 0.5, 0.01],
  ['RightFoot', 'RightLeg', -0.09, 0.09, -0.01],
  ['RightToe', 'RightFoot', -0.09, 0.02, 0.13],
];
const TIPS: Record<string, [number, number, number]> = {
  Head: [0, 0.2, 0],
  LeftHand: [0.18, 0, 0],
  RightHand: [-0.18, 0, 0],
  LeftToe: [0, -0.02, 0.07],
  RightToe: [0, -0.02, 0.07],
};

export function buildRig(spec: Spec = PLAIN, rename: (name: string) => string = (n) => n): SkeletonRig {
  const n = spec.length;
  const index = new Map(spec.map(([name], j) => [name, j]));
  const restT = new Float32Array(3 * n);
  const restR = new Float32Array(4 * n);
  const tips = new Float32Array(3 * n).fill(Number.NaN);
  const parents = Int16Array.from(spec, ([, parent]) => (parent === null ? -1 : index.get(parent)!));
  spec.forEach(([name, , ...at], j) => {
    const p = parents[j]!;
    for (let k = 0; k < 3; k++) restT[3 * j + k] = at[k]! - (p < 0 ? 0 : (spec[p]![2 + k] as number));
    restR[4 * j + 3] = 1;
    if (TIPS[name]) tips.set(TIPS[name], 3 * j);
  });
  return {
    kind: 'skeleton',
    names: spec.map(([name]) => rename(name)),
    parents,
    restT,
    restR,
    tips,
    found: NORMAL_SPACE,
  };
}

/** The same body with arms hanging at an angle (90 is level) and, if wanted, joint frames turned anyhow. */
export function posedRig(armDegrees: number, scale = 1, odd = false): SkeletonRig {
  const angle = ((90 - armDegrees) * Math.PI) / 180;
  const spec = PLAIN.map(([name, parent, x, y, z]) => {
    const arm = /^(Left|Right)(Arm|ForeArm|Hand)$/.test(name);
    const s = name.startsWith('Left') ? 1 : -1;
    const reach = arm ? Math.abs(x) - 0.17 : 0;
    return [
      name,
      parent,
      (arm ? s * (0.17 + reach * Math.cos(angle)) : x) * scale,
      (arm ? y - reach * Math.sin(angle) : y) * scale,
      z * scale,
    ] as const;
  });
  const rig = buildRig(spec);
  rig.tips.forEach((x, i) => {
    rig.tips[i] = x * scale;
  });
  for (const [name, s] of [
    ['LeftHand', 1],
    ['RightHand', -1],
  ] as const)
    rig.tips.set([s * 0.18 * Math.cos(angle) * scale, -0.18 * Math.sin(angle) * scale, 0], 3 * rig.names.indexOf(name));
  return odd ? withOddAxes(rig) : rig;
}

/** Turns every joint's own frame without moving anything: what a rig with strange axes looks like. */
export function withOddAxes(rig: SkeletonRig): SkeletonRig {
  const n = rig.names.length;
  const turns = Array.from({ length: n }, (_, j) => {
    const q = [Math.sin(j * 3.1), Math.cos(j * 1.7), Math.sin(j * 0.9 + 1), Math.cos(j * 2.3) + 0.1];
    normalizeQuat(q, 0);
    return q;
  });
  const back = (q: number[]): number[] => [-q[0]!, -q[1]!, -q[2]!, q[3]!];
  const rotate = (q: number[], v: ArrayLike<number>, o: number): number[] => {
    const p = [v[o]!, v[o + 1]!, v[o + 2]!, 0];
    mulQuat(p, 0, q, 0, p, 0);
    mulQuat(p, 0, p, 0, back(q), 0);
    return p.slice(0, 3);
  };
  const restT = new Float32Array(3 * n);
  const restR = new Float32Array(4 * n);
  const tips = new Float32Array(3 * n);
  for (let j = 0; j < n; j++) {
    const p = rig.parents[j]!;
    const above = p < 0 ? [0, 0, 0, 1] : turns[p]!;
    const q = [0, 0, 0, 1];
    mulQuat(q, 0, back(above), 0, rig.restR, 4 * j);
    mulQuat(q, 0, q, 0, turns[j]!, 0);
    restR.set(q, 4 * j);
    restT.set(rotate(back(above), rig.restT, 3 * j), 3 * j);
    tips.set(rotate(back(turns[j]!), rig.tips, 3 * j), 3 * j);
  }
  return { ...rig, restT, restR, tips };
}

export const party = (rig: SkeletonRig): Party => ({ rig, map: guessBodyMap(rig) });

/** Smooth motion of all joints and the hips, from a seed; the same for the same seed. */
export function wander(rig: SkeletonRig, frames: number, seed = 1, fps = 60, size = 0.5): Motion {
  const n = rig.names.length;
  const rotations = new Float32Array(4 * n * frames);
  const places = new Float32Array(3 * frames);
  for (let f = 0; f < frames; f++) {
    for (let j = 0; j < n; j++) {
      const w = (k: number): number =>
        0.5 * size * Math.sin((f / fps) * (1 + ((j * 7 + k * 3 + seed) % 5)) + j * 1.3 + k * 2.1 + seed);
      const q = [w(1), w(2), w(3), 1];
      normalizeQuat(q, 0);
      mulQuat(rotations, 4 * (f * n + j), rig.restR, 4 * j, q, 0);
    }
    places.set([0.2 * Math.sin(f / fps), rig.restT[1]! + 0.05 * Math.cos((2 * f) / fps), (0.8 * f) / fps], 3 * f);
  }
  return {
    fps,
    frameCount: frames,
    turns: rotations,
    places: [{ joint: 0, values: places }],
    numbers: [],
    scales: [],
    steps: [],
  };
}

/**
 * A body at rest over one place, joints turned by hand; 60 frames a second.
 * @param turn called for every frame with a way to set a joint's own turn by its name
 */
export function standing(
  rig: SkeletonRig,
  height: number,
  frames: number,
  turn: (frame: number, set: (name: string, q: readonly number[]) => void) => void,
): Motion {
  const n = rig.names.length;
  const rotations = new Float32Array(4 * n * frames);
  const values = new Float32Array(3 * frames);
  for (let f = 0; f < frames; f++) {
    rotations.set(rig.restR, 4 * n * f);
    values.set([0, height, 0], 3 * f);
    turn(f, (name, q) => rotations.set(q, 4 * (f * n + rig.names.indexOf(name))));
  }
  return {
    fps: 60,
    frameCount: frames,
    turns: rotations,
    places: [{ joint: 0, values }],
    numbers: [],
    scales: [],
    steps: [],
  };
}

/**
 * The plain body on hands and knees, swaying: hips low and pitched forward, thighs down, shins back, arms down; the feet on
 * their backs, or as `shin` and `foot` turn them (degrees).
 * @param drift how far it goes to and fro over the ground, metres
 */
export function crawling(frames = 60, { shin = 88, foot = 60, height = 0.5, drift = 0 } = {}): Motion {
  const plain = buildRig();
  const n = plain.names.length;
  const rotations = new Float32Array(4 * n * frames);
  const values = new Float32Array(3 * frames);
  const about = (x: number, y: number, z: number, degrees: number): number[] => {
    const q = [0, 0, 0, 1];
    axisAngleQuat(q, 0, x, y, z, (degrees * Math.PI) / 180);
    return q;
  };
  const set = (f: number, name: string, q: number[]): void => rotations.set(q, 4 * (f * n + plain.names.indexOf(name)));
  for (let f = 0; f < frames; f++) {
    rotations.set(plain.restR, 4 * n * f);
    const sway = Math.sin(f / 9);
    set(f, 'Hips', about(1, 0, 0, 85 + sway));
    for (const [side, s] of [
      ['Left', 1],
      ['Right', -1],
    ] as const) {
      set(f, `${side}UpLeg`, about(1, 0, 0, -85 - sway));
      set(f, `${side}Leg`, about(1, 0, 0, shin));
      set(f, `${side}Foot`, about(1, 0, 0, foot));
      // in the trunk's frame the arms point ahead, which is down in the world
      const arm = about(0, 1, 0, -s * 88);
      mulQuat(arm, 0, about(1, 0, 0, -sway), 0, arm, 0);
      set(f, `${side}Arm`, arm);
    }
    values.set([drift * Math.sin(f / 11), height, drift * Math.cos(f / 14)], 3 * f);
  }
  return {
    fps: 60,
    frameCount: frames,
    turns: rotations,
    places: [{ joint: 0, values }],
    numbers: [],
    scales: [],
    steps: [],
  };
}
