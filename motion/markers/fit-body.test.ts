import { standIn } from '../body/stand-in';
import { guessBodyMap } from '../bodymap/guess';
import { jointOf } from '../bodymap/slots';
import { axisAngleQuat, mulQuat } from '../math/quat';
import { type Motion, PoseReader } from '../motion/motion';
import { markersOn } from '../test/marker-body';
import { growTree } from './body-tree';
import { fitBody } from './fit-body';
import { whole } from './limb-course';
import { groupMarkers, outOfSegment, USUAL_LOOSENESS } from './segments';
import { solveMarkers } from './solve';

const rig = standIn('A');
const map = guessBodyMap(rig);
const FRAMES = 240;

/** Arms are swung and lifted; collar bones go along by a share of it. Knees and elbows are hinges. */
function swinging(shrug: number): Motion {
  const n = rig.names.length;
  const turns = Float32Array.from({ length: 4 * n * FRAMES }, (_, i) => (i % 4 === 3 ? 1 : 0));
  const q = [0, 0, 0, 1];
  const turn = (f: number, slot: string, ...parts: [x: number, y: number, z: number, angle: number][]): void => {
    const j = jointOf(map, slot);
    const o = 4 * (f * n + j);
    for (const [x, y, z, angle] of parts) {
      axisAngleQuat(q, 0, x, y, z, angle);
      mulQuat(turns, o, turns, o, q, 0);
    }
  };
  for (let f = 0; f < FRAMES; f++) {
    for (const [s, sign] of [
      ['L', 1],
      ['R', -1],
    ] as const) {
      const lift = 0.5 + 0.5 * Math.sin(f / 11 + sign);
      const swing = 0.6 * Math.sin(f / 17 + 2 * sign);
      turn(f, `collar${s}`, [0, 0, 1, sign * shrug * lift], [0, 1, 0, shrug * swing]);
      turn(f, `upperArm${s}`, [0, 0, 1, sign * lift], [0, 1, 0, swing], [1, 0, 0, 0.4 * Math.sin(f / 7)]);
      turn(f, `forearm${s}`, [0, 0, 1, sign * (0.7 + 0.6 * Math.sin(f / 9 + sign))]);
      turn(f, `hand${s}`, [0, 0, 1, 0.4 * Math.sin(f / 6)], [0, 1, 0, 0.4 * Math.sin(f / 13)]);
      turn(f, `thigh${s}`, [1, 0, 0, 0.5 * Math.sin(f / 12 + sign)], [0, 0, 1, 0.2 * Math.sin(f / 19)]);
      turn(f, `shin${s}`, [1, 0, 0, 0.6 + 0.6 * Math.sin(f / 8 + sign)]);
      turn(f, `foot${s}`, [1, 0, 0, 0.3 * Math.sin(f / 10)], [0, 1, 0, 0.3 * Math.sin(f / 15)]);
    }
    turn(f, 'head', [1, 0, 0, 0.3 * Math.sin(f / 14)], [0, 1, 0, 0.4 * Math.sin(f / 21)]);
    turn(f, 'spine1', [1, 0, 0, 0.2 * Math.sin(f / 16)], [0, 1, 0, 0.3 * Math.sin(f / 23)]);
  }
  const places = Float32Array.from({ length: 3 * FRAMES }, (_, i) => (i % 3 === 1 ? rig.restT[1]! : 0.3));
  return {
    fps: 60,
    frameCount: FRAMES,
    turns,
    places: [{ joint: 0, values: places }],
    numbers: [],
    scales: [],
    steps: [],
  };
}
const marked = (motion: Motion, seed: number) =>
  markersOn(rig, map, motion, { seed, noise: 0.001, lost: 0.1, swaps: 0, names: false }).markers;

/** How far joints lie from where they truly are, on average over time, metres. */
function offBy(motion: Motion, seed: number): (slot: string) => number {
  const solved = solveMarkers(marked(motion, seed));
  const [a, b] = [new PoseReader(rig, motion), new PoseReader(solved.rig, solved.motion)];
  return (slot) => {
    let sum = 0;
    for (let f = 0; f < FRAMES; f += 10) {
      const [i, j] = [jointOf(map, slot), solved.rig.names.indexOf(slot)];
      sum += Math.hypot(...[0, 1, 2].map((k) => a.at(f).p[3 * i + k]! - b.at(f).p[3 * j + k]!));
    }
    return (10 * sum) / FRAMES;
  };
}

test('joints are found to within a centimetre, hinges too, along whose axis markers tell nothing', () => {
  const off = offBy(swinging(0), 1);
  for (const part of ['upperArm', 'forearm', 'hand', 'thigh', 'shin', 'foot'])
    for (const side of ['L', 'R']) expect([part + side, off(part + side) < 0.01]).toEqual([part + side, true]);
});

test('a shoulder is found although the collar bone, which carries no markers, goes along with the arm', () => {
  const off = offBy(swinging(0.3), 1);
  for (const slot of ['upperArmL', 'upperArmR']) expect(off(slot)).toBeLessThan(0.03);
});

test('every limb stays on its joint in every frame, but for those that may give way', () => {
  const markers = marked(swinging(0), 3);
  const limbs = growTree(markers, groupMarkers(markers, USUAL_LOOSENESS), 'large');
  const rough: ReturnType<typeof whole>[] = [];
  for (const l of limbs) rough.push(whole(l, rough[l.parent], markers));
  const apart = (body: { limbs: typeof limbs; courses: typeof rough }, i: number): number => {
    const [p, q] = [new Float64Array(3), new Float64Array(3)];
    const { joint, parent, own } = body.limbs[i]!;
    let most = 0;
    for (let f = 0; f < FRAMES; f++) {
      outOfSegment(body.courses[parent]!, f, joint, p);
      outOfSegment(body.courses[i]!, f, own, q);
      most = Math.max(most, Math.hypot(...p.map((x, k) => x - q[k]!)));
    }
    return most;
  };
  const loose = limbs.length - 1;
  const made = fitBody(limbs, rough, markers, [loose]);
  const whole_ = { limbs: [...made.limbs], courses: [...made.courses] };
  for (let i = 1; i < loose; i++) {
    expect(apart(whole_, i)).toBeLessThan(1e-9);
    expect(apart({ limbs, courses: rough }, i)).toBeGreaterThan(0.001);
  }
  expect(apart(whole_, loose)).toBeGreaterThan(1e-6);
});

test('where one marker is all that is seen of a forearm and its hand, nothing jumps', () => {
  const { markers, carriers } = markersOn(rig, map, swinging(0), {
    seed: 4,
    noise: 0.001,
    lost: 0,
    swaps: 0,
    names: false,
  });
  const gone = carriers.flatMap((slot, i) => (/^(forearm|hand)L$/.test(slot) ? [i] : [])).slice(1);
  for (let f = 100; f < 130; f++)
    for (const i of gone) for (let k = 0; k < 3; k++) markers.places[3 * (f * carriers.length + i) + k] = Number.NaN;
  const { rig: made, motion } = solveMarkers(markers);
  const hand = made.names.indexOf('handL');
  const reader = new PoseReader(made, motion);
  const at = Array.from({ length: FRAMES }, (_, f) => Array.from(reader.at(f).p.subarray(3 * hand, 3 * hand + 3)));
  const jump = (f: number): number => Math.hypot(...at[f]!.map((x, k) => x - 0.5 * (at[f - 1]![k]! + at[f + 1]![k]!)));
  const most = (from: number, to: number): number =>
    Math.max(...Array.from({ length: to - from }, (_, i) => jump(from + i)));
  expect(most(95, 135)).toBeLessThan(2 * Math.max(most(20, 95), most(135, 220)));
});
