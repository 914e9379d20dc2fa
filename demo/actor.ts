import {
  alignmentTurns,
  type BodyMap,
  chainOf,
  FINGERS,
  jointOf,
  type Motion,
  measureBody,
  NO_TRACKS,
  type SkeletonRig,
} from '../motion/index';
import {
  alignSigns,
  axisAngleQuat,
  basisQuat,
  invMulQuat,
  mulQuat,
  normalizeQuat,
  rotate3,
  slerp,
} from '../motion/math/quat';
import { smoothstep } from '../motion/math/vec';
import { envelope, runningMean } from '../motion/retarget/envelope';
import { normal, seeded } from './random';

export type V3 = [number, number, number];

/** Angles in degrees: yaw left, pitch forward (bow), roll to the left side. */
export interface Turn {
  yaw?: number;
  pitch?: number;
  roll?: number;
}

export interface Foot {
  /** Ground point under the ankle when the sole lies flat, world, metres. */
  at: V3;
  yaw?: number;
  /** Degrees: above 0 the heel is up (turning on the ball), below 0 the toes are up (turning on the heel). */
  pitch?: number;
  /** Slope of the ground along the foot, degrees, rising forward. */
  slope?: number;
}

export interface Hand {
  /** Wrist, world, metres. */
  at: V3;
  /** Direction to which the elbow points. */
  elbow?: V3;
  /** Degrees by which the hand bends towards the palm, besides what its weight does. */
  bend?: number;
  /** The palm faces the ground whatever the arm does; fingers point ahead, turned inwards and downwards by so many degrees. */
  flat?: { inwards: number; down: number };
  /** Degrees by which the hand rolls about the forearm, palm up above 0. */
  roll?: number;
  /** Degrees a joint by which all fingers are bent, or each by itself, thumb first. */
  curl?: number;
  fingers?: readonly [number, number, number, number, number];
}

/** One moment of a performance, in the world of the standard performer. */
export interface Moment {
  hips: V3;
  pelvis: Turn;
  /** Turn of the chest against the world; the spine shares it. */
  chest: Turn;
  head: Turn;
  feet: { L: Foot; R: Foot };
  hands: { L: Hand; R: Hand };
}

export interface Score {
  name: string;
  kind: 'cycle' | 'take' | 'clip';
  fps: number;
  seconds: number;
  tags: string[];
  note: string;
  folder: string;
  /** Capture noise, 1 as a good stage gives. */
  noise: number;
  at: (t: number) => Moment;
  /** What a person would say it shows, in the words that motions are described with. */
  words: readonly string[];
  /** Face shapes over time, by name. */
  face?: (t: number) => Readonly<Record<string, number>>;
  /** Where the capture lost a part: its slot, from and to in seconds. */
  gaps?: readonly (readonly [slot: string, from: number, to: number])[];
}

const RAD = Math.PI / 180;

function turnQuat(t: Turn): number[] {
  const q = [0, 0, 0, 1];
  const a = [0, 0, 0, 1];
  axisAngleQuat(q, 0, 0, 1, 0, (t.yaw ?? 0) * RAD);
  axisAngleQuat(a, 0, 1, 0, 0, (t.pitch ?? 0) * RAD);
  mulQuat(q, 0, q, 0, a, 0);
  axisAngleQuat(a, 0, 0, 0, 1, -(t.roll ?? 0) * RAD);
  mulQuat(q, 0, q, 0, a, 0);
  return q;
}

/** A hand bends by its own weight, the more the more level its forearm lies: so much on top, degrees. */
const droop = (forearm: readonly number[]): number => 8 * (0.5 - forearm[1]! ** 2);

/** Turn of b against a about a's x axis, radians: what a forearm and its hand share. */
function twistBetween(a: number[], b: number[]): number {
  const q = [-a[0]!, -a[1]!, -a[2]!, a[3]!];
  mulQuat(q, 0, q, 0, b, 0);
  const angle = 2 * Math.atan2(q[0]!, q[3]!);
  return angle > Math.PI ? angle - 2 * Math.PI : angle < -Math.PI ? angle + 2 * Math.PI : angle;
}

const sub = (a: number[], b: number[]): number[] => [a[0]! - b[0]!, a[1]! - b[1]!, a[2]! - b[2]!];
const length = (v: number[]): number => Math.sqrt(v[0]! ** 2 + v[1]! ** 2 + v[2]! ** 2);
const cross = (a: number[], b: number[]): number[] => [
  a[1]! * b[2]! - a[2]! * b[1]!,
  a[2]! * b[0]! - a[0]! * b[2]!,
  a[0]! * b[1]! - a[1]! * b[0]!,
];
const unit = (v: number[]): number[] => {
  const l = length(v) || 1;
  return [v[0]! / l, v[1]! / l, v[2]! / l];
};

/** Plays scores on a rig: world turns by slot in the common body's terms, legs and arms by closed form. */
export class Actor {
  private readonly aligned: Float64Array;
  private readonly n: number;
  private readonly lengths: {
    thigh: number;
    shin: number;
    ankle: number;
    upper: number;
    fore: number;
    ball: number;
    heel: number;
  };

  constructor(
    readonly rig: SkeletonRig,
    readonly map: BodyMap,
  ) {
    this.aligned = alignmentTurns(rig, map);
    this.n = rig.names.length;
    const length = (slot: string): number => {
      const j = jointOf(map, slot);
      return Math.hypot(rig.restT[3 * j]!, rig.restT[3 * j + 1]!, rig.restT[3 * j + 2]!);
    };
    const body = measureBody(rig, map);
    const [thigh, shin] = [length('shinL'), length('footL')];
    const toe = jointOf(map, 'toesL');
    const ball = Math.hypot(rig.restT[3 * toe]!, rig.restT[3 * toe + 2]!);
    this.lengths = {
      thigh,
      shin,
      ankle: body.leg - thigh - shin,
      upper: length('forearmL'),
      fore: length('handL'),
      ball,
      heel: ball * 0.3,
    };
  }

  /** Leg length, for scores that scale with it. */
  get leg(): number {
    return this.lengths.thigh + this.lengths.shin + this.lengths.ankle;
  }

  play(score: Score, seed: number): Motion {
    const frames = Math.round(score.seconds * score.fps) + 1;
    // played a little beyond both ends, so that smoothing over time knows what comes before and after
    const margin = Math.ceil(0.5 * score.fps);
    const wide = Array.from({ length: frames + 2 * margin }, (_, f) => score.at((f - margin) / score.fps));
    softenPitch(wide, score.fps);
    this.keepInReach(wide, score.fps);
    const moments = wide.slice(margin, margin + frames);
    const turns = new Float32Array(4 * this.n * frames);
    const hips = jointOf(this.map, 'hips');
    const places = new Float32Array(3 * frames);
    moments.forEach((m, f) => {
      this.pose(m, turns, 4 * this.n * f);
      places.set(m.hips, 3 * f);
    });
    addNoise(turns, places, this.n, frames, score.fps, score.noise, seed);
    for (const [slot, from, to] of score.gaps ?? []) {
      const j = jointOf(this.map, slot);
      const first = Math.round(from * score.fps);
      for (let f = first + 1; f <= Math.min(frames - 1, Math.round(to * score.fps)); f++)
        turns.copyWithin(4 * (f * this.n + j), 4 * (first * this.n + j), 4 * (first * this.n + j) + 4);
    }
    for (let j = 0; j < this.n; j++) alignSigns(turns, 4 * j, 4 * this.n, frames);
    const faces = Array.from({ length: score.face ? frames : 0 }, (_, f) => score.face!(f / score.fps));
    return {
      fps: score.fps,
      frameCount: frames,
      turns,
      ...NO_TRACKS,
      places: [{ joint: hips, values: places }],
      numbers: Object.keys(faces[0] ?? {}).map((name) => ({ name, values: Float32Array.from(faces, (x) => x[name]!) })),
    };
  }

  /** Lowers the hips smoothly where a leg would be pulled straight. */
  private keepInReach(moments: Moment[], fps: number): void {
    const full = (this.lengths.thigh + this.lengths.shin) * 0.992;
    const need = Float64Array.from(moments, (m) => {
      let most = 0;
      for (const side of ['L', 'R'] as const) {
        const a = this.ankle(m.feet[side]).at;
        const h = this.hipJoint(m, side);
        const flat = Math.hypot(a[0]! - h[0]!, a[2]! - h[2]!);
        const room = Math.sqrt(Math.max(0.05, full * full - flat * flat));
        most = Math.max(most, h[1]! - a[1]! - room);
      }
      return Math.min(most, 0.4);
    });
    const drop = envelope(need, Math.max(1, Math.round(fps * 0.1)));
    moments.forEach((m, f) => {
      m.hips[1] -= drop[f]!;
    });
  }

  private hipJoint(m: Moment, side: 'L' | 'R'): number[] {
    const j = jointOf(this.map, `thigh${side}`);
    const v = [this.rig.restT[3 * j]!, this.rig.restT[3 * j + 1]!, this.rig.restT[3 * j + 2]!];
    rotate3(v, 0, turnQuat(m.pelvis), 0, v, 0);
    return v.map((x, k) => x + m.hips[k]!);
  }

  private ankle(foot: Foot): { at: number[]; turn: number[] } {
    const { ball, heel, ankle } = this.lengths;
    const slope = turnQuat({ yaw: foot.yaw ?? 0, pitch: -(foot.slope ?? 0) });
    const pitch = foot.pitch ?? 0;
    const pivot = [0, -ankle, pitch > 0 ? ball : -heel];
    const tilt = [0, 0, 0, 1];
    axisAngleQuat(tilt, 0, 1, 0, 0, pitch * RAD);
    const turn = [0, 0, 0, 1];
    mulQuat(turn, 0, slope, 0, tilt, 0);
    const up = [0, ankle, 0];
    const p = [...pivot];
    rotate3(up, 0, slope, 0, up, 0);
    rotate3(p, 0, slope, 0, p, 0);
    const q = [...pivot];
    rotate3(q, 0, turn, 0, q, 0);
    return { at: foot.at.map((x, k) => x + up[k]! + p[k]! - q[k]!), turn };
  }

  private pose(m: Moment, out: Float32Array, base: number): void {
    const world = new Map<number, number[]>();
    const set = (slot: string, q: number[]): void => {
      const j = jointOf(this.map, slot);
      if (j < 0) return;
      const w = [0, 0, 0, 1];
      mulQuat(w, 0, q, 0, this.aligned, 4 * j);
      normalizeQuat(w, 0);
      world.set(j, w);
    };
    const pelvis = turnQuat(m.pelvis);
    const chest = turnQuat(m.chest);
    const head = turnQuat(m.head);
    set('hips', pelvis);
    const spine = chainOf(this.map, 'spine');
    spine.forEach((_, i) => {
      const q = [0, 0, 0, 1];
      slerp(q, 0, pelvis, 0, chest, 0, (i + 1) / spine.length);
      set(`spine${i + 1}`, q);
    });
    const neck = [0, 0, 0, 1];
    slerp(neck, 0, chest, 0, head, 0, 0.45);
    set('neck1', neck);
    set('head', head);
    this.legs(m, set);
    this.arms(m, chest, world, set);
    // world to local; joints nobody set keep their rest
    const seen: number[][] = [];
    for (let j = 0; j < this.n; j++) {
      const p = this.rig.parents[j]!;
      const parent = p < 0 ? [0, 0, 0, 1] : seen[p]!;
      let w = world.get(j);
      const local = [0, 0, 0, 1];
      if (w) invMulQuat(local, 0, parent, 0, w, 0);
      else {
        for (let k = 0; k < 4; k++) local[k] = this.rig.restR[4 * j + k]!;
        w = [0, 0, 0, 1];
        mulQuat(w, 0, parent, 0, local, 0);
      }
      normalizeQuat(local, 0);
      out.set(local, base + 4 * j);
      seen.push(w);
    }
  }

  private legs(m: Moment, set: (slot: string, q: number[]) => void): void {
    const { thigh, shin } = this.lengths;
    for (const side of ['L', 'R'] as const) {
      const foot = this.ankle(m.feet[side]);
      const hip = this.hipJoint(m, side);
      const yaw = (((m.feet[side].yaw ?? 0) * 0.6 + (m.pelvis.yaw ?? 0) * 0.4) * Math.PI) / 180;
      const pole = [Math.sin(yaw) + (side === 'L' ? 0.06 : -0.06), 0, Math.cos(yaw)];
      const { middle, axis } = bend(hip, foot.at, thigh, shin, pole);
      const end = reachable(hip, foot.at, thigh + shin);
      set(`thigh${side}`, frame([0, -1, 0], [1, 0, 0], unit(sub(middle, hip)), axis));
      set(`shin${side}`, frame([0, -1, 0], [1, 0, 0], unit(sub(end, middle)), axis));
      set(`foot${side}`, foot.turn);
      // toes stay on the ground while the heel is up
      const pitch = m.feet[side].pitch ?? 0;
      set(
        `toes${side}`,
        turnQuat({
          yaw: m.feet[side].yaw ?? 0,
          pitch: -(m.feet[side].slope ?? 0) + (pitch > 0 ? Math.max(0, pitch - 72) : pitch),
        }),
      );
    }
  }

  private arms(
    m: Moment,
    chest: number[],
    world: Map<number, number[]>,
    set: (slot: string, q: number[]) => void,
  ): void {
    const { upper, fore } = this.lengths;
    const places = this.trunkPlaces(m, world);
    for (const side of ['L', 'R'] as const) {
      const s = side === 'L' ? 1 : -1;
      const hand = m.hands[side];
      const collar = jointOf(this.map, `collar${side}`);
      const shoulderJoint = jointOf(this.map, `upperArm${side}`);
      const chestPlace = places.get(this.rig.parents[collar]!)!;
      const chestTurn = world.get(this.rig.parents[collar]!)!;
      const collarPlace = this.offset(chestPlace, chestTurn, collar);
      // the collar follows a raised or far-reaching hand
      const aim = sub(hand.at, collarPlace);
      const lift = Math.max(-0.3, Math.min(0.5, aim[1]! / (upper + fore)));
      const raise = turnQuat({
        roll: -s * (4 + 26 * Math.max(0, lift)),
        yaw: -s * Math.max(0, Math.min(18, aim[2]! * 26)),
      });
      const collarTurn = [0, 0, 0, 1];
      mulQuat(collarTurn, 0, chest, 0, raise, 0);
      set(`collar${side}`, collarTurn);
      const shoulder = this.offset(collarPlace, world.get(collar)!, shoulderJoint);
      const pole = [...(hand.elbow ?? [s * 0.35, -0.5, -1])];
      rotate3(pole, 0, turnQuat({ yaw: m.chest.yaw ?? 0 }), 0, pole, 0);
      const end = withinArm(shoulder, hand.at, upper + fore);
      const { middle, axis } = bend(shoulder, end, upper, fore, pole);
      const rest: [number[], number[]] = [
        [s, 0, 0],
        [0, -s, 0],
      ];
      // an elbow bends about the axis that points down at rest: palms then face the thighs of a hanging arm
      const hinge = axis;
      set(`upperArm${side}`, frame(rest[0], rest[1], unit(sub(middle, shoulder)), hinge));
      const forearm = frame(rest[0], rest[1], unit(sub(end, middle)), hinge);
      const flat = hand.flat && turnQuat({ pitch: hand.flat.down });
      if (flat) mulQuat(flat, 0, flat, 0, turnQuat({ yaw: -s * (90 + hand.flat!.inwards) }), 0);
      const roll = [0, 0, 0, 1];
      axisAngleQuat(roll, 0, 1, 0, 0, flat ? twistBetween(forearm, flat) / 2 : (-(hand.roll ?? 0) * RAD) / 2);
      mulQuat(forearm, 0, forearm, 0, roll, 0);
      set(`forearm${side}`, forearm);
      const wrist = [0, 0, 0, 1];
      const flex = [0, 0, 0, 1];
      axisAngleQuat(flex, 0, 0, 0, 1, -s * ((hand.bend ?? 6) + droop(unit(sub(end, middle)))) * RAD);
      mulQuat(wrist, 0, forearm, 0, roll, 0);
      mulQuat(wrist, 0, wrist, 0, flex, 0);
      if (flat) for (let k = 0; k < 4; k++) wrist[k] = flat[k]!;
      set(`hand${side}`, wrist);
      this.curl(side, wrist, hand.fingers ?? FINGERS.map(() => hand.curl ?? 18), set);
    }
  }

  private curl(
    side: 'L' | 'R',
    wrist: number[],
    curls: readonly number[],
    set: (slot: string, q: number[]) => void,
  ): void {
    const s = side === 'L' ? 1 : -1;
    for (const [i, finger] of FINGERS.entries()) {
      const degrees = curls[i]!;
      for (let k = 1; k <= 3; k++) {
        const q = [0, 0, 0, 1];
        if (finger === 'thumb') axisAngleQuat(q, 0, 0, 1, 0, s * degrees * 0.35 * k * RAD);
        else
          axisAngleQuat(
            q,
            0,
            0,
            0,
            1,
            -s * degrees * k * (finger === 'pinky' ? 1.1 : finger === 'index' ? 0.9 : 1) * RAD,
          );
        mulQuat(q, 0, wrist, 0, q, 0);
        set(`${finger}${k}${side}`, q);
      }
    }
  }

  private offset(place: number[], turn: number[], joint: number): number[] {
    const v = [this.rig.restT[3 * joint]!, this.rig.restT[3 * joint + 1]!, this.rig.restT[3 * joint + 2]!];
    rotate3(v, 0, turn, 0, v, 0);
    return v.map((x, k) => x + place[k]!);
  }

  private trunkPlaces(m: Moment, world: Map<number, number[]>): Map<number, number[]> {
    const places = new Map<number, number[]>();
    const hips = jointOf(this.map, 'hips');
    places.set(hips, m.hips);
    for (const j of chainOf(this.map, 'spine')) {
      const p = this.rig.parents[j]!;
      places.set(j, this.offset(places.get(p)!, world.get(p)!, j));
    }
    return places;
  }
}

/** Feet are heavy: their pitch is averaged over a twentieth of a second. Held heels and balls stay where they are. */
function softenPitch(moments: Moment[], fps: number): void {
  const w = Math.max(1, Math.round(0.035 * fps));
  for (const side of ['L', 'R'] as const) {
    let pitches = Float64Array.from(moments, (m) => m.feet[side].pitch ?? 0);
    for (let pass = 0; pass < 2; pass++) pitches = runningMean(pitches, w) as Float64Array<ArrayBuffer>;
    moments.forEach((m, f) => {
      m.feet[side].pitch = pitches[f]!;
    });
  }
}

/** An arm never quite straightens: beyond 0.94 of its length it follows less and less. */
function withinArm(root: number[], goal: number[], full: number): number[] {
  const d = sub(goal, root);
  const l = length(d);
  const from = 0.94 * full;
  if (l <= from) return goal;
  const room = 0.999 * full - from;
  const soft = from + room * (1 - Math.exp(-(l - from) / room));
  return root.map((x, k) => x + (d[k]! * soft) / l);
}

function reachable(root: number[], goal: number[], full: number): number[] {
  const d = sub(goal, root);
  const l = length(d);
  return l <= full * 0.9995 ? goal : root.map((x, k) => x + (d[k]! * full * 0.9995) / l);
}

/** Middle joint of a two-bone limb and the axis (goal direction × pole) about which it is bent. */
function bend(
  root: number[],
  goal: number[],
  a: number,
  b: number,
  pole: number[],
): { middle: number[]; axis: number[] } {
  const to = sub(reachable(root, goal, a + b), root);
  const d = Math.max(length(to), Math.abs(a - b) + 1e-3);
  const u = unit(to);
  const along = pole[0]! * u[0]! + pole[1]! * u[1]! + pole[2]! * u[2]!;
  const m = unit(pole.map((x, k) => x - along * u[k]!));
  const cos = Math.max(-1, Math.min(1, (a * a + d * d - b * b) / (2 * a * d)));
  const sin = Math.sqrt(1 - cos * cos);
  return { middle: root.map((x, k) => x + a * (cos * u[k]! + sin * m[k]!)), axis: unit(cross(m, u)) };
}

/** Turn that takes (direction, axis) at rest to (direction, axis) in the world. */
function frame(restDirection: number[], restAxis: number[], direction: number[], axis: number[]): number[] {
  const build = (d: number[], x: number[]): number[] => {
    const y = unit(d);
    const along = x[0]! * y[0]! + x[1]! * y[1]! + x[2]! * y[2]!;
    const across = unit(x.map((v, k) => v - along * y[k]!));
    const q = [0, 0, 0, 1];
    basisQuat(q, 0, across, y, cross(across, y));
    return q;
  };
  const from = build(restDirection, restAxis);
  const to = build(direction, axis);
  const q = [0, 0, 0, 1];
  mulQuat(q, 0, to, 0, [-from[0]!, -from[1]!, -from[2]!, from[3]!], 0);
  return q;
}

/** Smooth drift and fine jitter, as optical capture has them. */
function addNoise(
  turns: Float32Array,
  places: Float32Array,
  n: number,
  frames: number,
  fps: number,
  amount: number,
  seed: number,
): void {
  if (amount <= 0) return;
  const random = seeded(seed);
  const q = [0, 0, 0, 1];
  for (let j = 0; j < n; j++) {
    const drift = [0, 1, 2].map(() => ({
      phase: random() * 6.28,
      speed: 0.5 + random() * 1.5,
      size: 0.0022 * amount * normal(random),
    }));
    for (let f = 0; f < frames; f++) {
      const o = 4 * (f * n + j);
      const v = drift.map(
        (d) => d.size * Math.sin(d.phase + (d.speed * 6.28 * f) / fps) + 0.0006 * amount * normal(random),
      );
      for (let k = 0; k < 3; k++) q[k] = v[k]! / 2;
      q[3] = 1;
      normalizeQuat(q, 0);
      mulQuat(turns, o, turns, o, q, 0);
      normalizeQuat(turns, o);
    }
  }
  for (let o = 0; o < places.length; o++) places[o] = places[o]! + 0.0003 * amount * normal(random);
}

/** 0 before a, 1 after b, eased. */
export const ease = (t: number, a: number, b: number): number => smoothstep((t - a) / (b - a));
export const mix = (a: number, b: number, t: number): number => a + (b - a) * t;
export const mix3 = (a: V3, b: V3, t: number): V3 => [mix(a[0], b[0], t), mix(a[1], b[1], t), mix(a[2], b[2], t)];
