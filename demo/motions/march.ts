import { type Foot, type Hand, type Moment, mix, type Turn, type V3 } from '../actor';
import { footAt, type Stand, type StepStyle, WALK_STEP } from '../footwork';

/** Height of the hip joint's carrier when the performer stands at ease, metres. */
export const STAND = 0.935;

export interface Feet {
  L: Stand[];
  R: Stand[];
}

/** A place on a path after u steps: metres, degrees. */
export type Path = (u: number) => { x: number; y?: number; z: number; yaw: number };

export interface March {
  steps: number;
  /** Seconds a step, and when the first foot lifts. */
  period: number;
  start: number;
  width: number;
  toeOut?: number;
  first?: 'L' | 'R';
  path: Path;
}

/** Footfalls from rest to rest along a path: every step lands one further, the last closes up. */
export function march(o: March): Feet {
  const toeOut = o.toeOut ?? 7;
  const at = (u: number, side: 'L' | 'R'): { at: V3; yaw: number } => {
    const { x, y = 0, z, yaw } = o.path(u);
    const s = side === 'L' ? 1 : -1;
    const a = (yaw * Math.PI) / 180;
    return { at: [x + s * o.width * Math.cos(a), y, z - s * o.width * Math.sin(a)], yaw: yaw + s * toeOut };
  };
  const feet: Feet = { L: [{ from: -9999, to: 9999, ...at(0, 'L') }], R: [{ from: -9999, to: 9999, ...at(0, 'R') }] };
  for (let k = 0; k < o.steps; k++) {
    const side = (k % 2 === 0) === (o.first !== 'R') ? 'L' : 'R';
    const list = feet[side];
    const lift = o.start + k * o.period;
    list.at(-1)!.to = lift;
    list.push({ from: lift + 0.78 * o.period, to: 9999, ...at(Math.min(k + 1, o.steps - 1), side) });
  }
  return feet;
}

/** Marches one after the other; each begins where the one before ended. */
export function joinFeet(parts: readonly Feet[]): Feet {
  const join = (side: 'L' | 'R'): Stand[] => {
    const out: Stand[] = [];
    for (const part of parts) {
      const last = out.at(-1);
      const [first, ...rest] = part[side];
      if (last) last.to = first!.to;
      else out.push({ ...first! });
      out.push(...rest.map((s) => ({ ...s })));
    }
    return out;
  };
  return { L: join('L'), R: join('R') };
}

/** A body in its own frame: over the middle of its feet, looking along +Z; everything else is added to standing at ease. */
export interface Local {
  hips?: V3;
  pelvis?: Turn;
  chest?: Turn;
  head?: Turn;
  hands?: Partial<Record<'L' | 'R', Partial<Hand>>>;
}

export interface Manner {
  style?: StepStyle;
  armSwing?: number;
  lean?: number;
  /** Seconds over which feet are averaged to where the body is. */
  window?: number;
  sway?: number;
  dip?: number;
}

/** A body carried by its feet: over their middle, rising and sinking, arms against legs; `local` is laid on top. */
export function bodyOn(feet: Feet, t: number, manner: Manner = {}, local: Local = {}): Moment {
  const style = manner.style ?? WALK_STEP;
  const w = (manner.window ?? 0.56) / 2;
  const now = { L: footAt(feet.L, t, style), R: footAt(feet.R, t, style) };
  const mean = { x: 0, y: 0, z: 0, yaw: 0, weight: 0 };
  const samples = 13;
  for (let i = 0; i < samples; i++) {
    const c = middleAt(feet, style, t + w * ((2 * i) / (samples - 1) - 1));
    mean.x += c.x / samples;
    mean.y += c.y / samples;
    mean.z += c.z / samples;
    mean.yaw += c.yaw / samples;
    mean.weight += c.weight / samples;
  }
  const yaw = (mean.yaw * Math.PI) / 180;
  const fore = (f: Foot): number => (f.at[0] - mean.x) * Math.sin(yaw) + (f.at[2] - mean.z) * Math.cos(yaw);
  const spread = fore(now.L) - fore(now.R);
  const sway = (manner.sway ?? 0.028) * mean.weight;
  const swing = (manner.armSwing ?? 0.42) * spread;
  const lean = manner.lean ?? 2;
  const hips = local.hips ?? [0, 0, 0];
  const hand = (side: 'L' | 'R'): Hand => {
    const s = side === 'L' ? 1 : -1;
    const forward = -s * swing;
    return {
      at: [
        s * (0.24 - 0.03 * Math.max(0, forward * 3)) + hips[0],
        STAND - 0.075 + hips[1] + 0.35 * forward ** 2 + 0.1 * Math.max(0, forward),
        0.03 + forward + lean * 0.004 + hips[2],
      ],
      elbow: [s * 0.4, -0.35, -1],
      bend: 7 + 24 * forward,
      curl: 20,
      ...local.hands?.[side],
    };
  };
  const turn = (base: Turn, more: Turn | undefined): Turn => ({
    yaw: mean.yaw + (base.yaw ?? 0) + (more?.yaw ?? 0),
    pitch: (base.pitch ?? 0) + (more?.pitch ?? 0),
    roll: (base.roll ?? 0) + (more?.roll ?? 0),
  });
  const dip = manner.dip ?? 0.13;
  const out = (v: V3): V3 => [
    mean.x + v[0] * Math.cos(yaw) + v[2] * Math.sin(yaw),
    mean.y + v[1],
    mean.z - v[0] * Math.sin(yaw) + v[2] * Math.cos(yaw),
  ];
  const hands = { L: hand('L'), R: hand('R') };
  for (const side of ['L', 'R'] as const) hands[side] = { ...hands[side], at: out(hands[side].at) };
  return {
    hips: out([hips[0] + sway, STAND + hips[1] - dip * spread ** 2, hips[2] + 0.01]),
    pelvis: turn({ yaw: -14 * spread, pitch: 2 + lean * 0.4, roll: -40 * sway }, local.pelvis),
    chest: turn({ yaw: 16 * spread, pitch: lean, roll: 20 * sway }, local.chest),
    head: turn({ yaw: 3 * spread, pitch: lean * 0.2 }, local.head),
    feet: now,
    hands,
  };
}

interface Middle {
  x: number;
  y: number;
  z: number;
  yaw: number;
  weight: number;
}
const GRID = 120;
const middles = new WeakMap<Feet, Map<number, Middle>>();

/** Middle of both feet, worked out once for every hundred-and-twentieth of a second and read between. */
function middleAt(feet: Feet, style: StepStyle, t: number): Middle {
  let known = middles.get(feet);
  if (!known) {
    known = new Map();
    middles.set(feet, known);
  }
  const at = (i: number): Middle => {
    const seen = known.get(i);
    if (seen) return seen;
    const u = i / GRID;
    const l = footAt(feet.L, u, style);
    const r = footAt(feet.R, u, style);
    const [a, b] = [stands(feet.L, u), stands(feet.R, u)];
    const made = {
      x: (l.at[0] + r.at[0]) / 2,
      y: (ground(feet.L, u) + ground(feet.R, u)) / 2,
      z: (l.at[2] + r.at[2]) / 2,
      yaw: ((l.yaw ?? 0) + (r.yaw ?? 0)) / 2,
      weight: a === b ? 0 : a ? 1 : -1,
    };
    known.set(i, made);
    return made;
  };
  const i = Math.floor(t * GRID);
  const x = t * GRID - i;
  const [p, q] = [at(i), at(i + 1)];
  return {
    x: mix(p.x, q.x, x),
    y: mix(p.y, q.y, x),
    z: mix(p.z, q.z, x),
    yaw: mix(p.yaw, q.yaw, x),
    weight: mix(p.weight, q.weight, x),
  };
}

function stands(list: readonly Stand[], t: number): boolean {
  return list.some((s) => t >= s.from && t <= s.to);
}

/** Ground under a foot: that of its stand, passing from one to the next while it swings. */
function ground(list: readonly Stand[], t: number): number {
  const here = list.find((s) => t >= s.from && t <= s.to);
  if (here) return here.at[1];
  const next = list.find((s) => s.from > t);
  const prev = list.findLast((s) => s.to < t);
  if (!next || !prev) return (next ?? prev)!.at[1];
  return mix(prev.at[1], next.at[1], (t - prev.to) / (next.from - prev.to));
}

/** Feet that stand where they are. */
export const standAt = (left: V3, right: V3, yawL = 9, yawR = -9): Feet => ({
  L: [{ from: -9999, to: 9999, at: left, yaw: yawL }],
  R: [{ from: -9999, to: 9999, at: right, yaw: yawR }],
});
export const EASE: Feet = standAt([0.1, 0, 0.02], [-0.1, 0, -0.02]);

/** Breathing and a shifting of weight that keep a standing body alive. */
export function idleSway(t: number): Local {
  return {
    hips: [0.012 * Math.sin(t * 0.9), 0.004 * Math.sin(t * 1.7), 0.006 * Math.sin(t * 0.7 + 1)],
    chest: { pitch: 1.2 * Math.sin(t * 1.7), yaw: 1.5 * Math.sin(t * 0.6), roll: 0.8 * Math.sin(t * 0.9) },
    head: { yaw: 5 * Math.sin(t * 0.5), pitch: 1.5 * Math.sin(t * 0.8) },
  };
}

/** Lays one local pose over another: turns and places add up, hands of the upper one win. */
export function over(a: Local, b: Local): Local {
  const add = (x: Turn = {}, y: Turn = {}): Turn => ({
    yaw: (x.yaw ?? 0) + (y.yaw ?? 0),
    pitch: (x.pitch ?? 0) + (y.pitch ?? 0),
    roll: (x.roll ?? 0) + (y.roll ?? 0),
  });
  const p: V3 = a.hips ?? [0, 0, 0];
  const q: V3 = b.hips ?? [0, 0, 0];
  return {
    hips: [p[0] + q[0], p[1] + q[1], p[2] + q[2]],
    pelvis: add(a.pelvis, b.pelvis),
    chest: add(a.chest, b.chest),
    head: add(a.head, b.head),
    hands: { ...a.hands, ...b.hands },
  };
}
