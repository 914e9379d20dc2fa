import { angleBetweenQuats } from '../math/quat';
import { type Motion, PoseReader } from '../motion/motion';
import { party, posedRig } from '../test/bodies';
import { planRetarget } from './plan';
import { steadyHips } from './steady-hips';

const who = party(posedRig(90));
const { rig } = who;
const plan = planRetarget(who, who);
const n = rig.names.length;
const DEG = 180 / Math.PI;

/** Hips that turn slowly by 20° and jitter by half a degree, 30 times a second. */
function jittery(fps: number, jitter = 0.5): Motion {
  const frames = 2 * fps;
  const turns = new Float32Array(4 * n * frames);
  const values = new Float32Array(3 * frames);
  for (let f = 0; f < frames; f++) {
    turns.set(rig.restR, 4 * n * f);
    const turn = (20 * Math.sin((Math.PI * f) / fps) + jitter * Math.sin((2 * Math.PI * 30 * f) / fps)) / DEG;
    turns.set([0, Math.sin(turn / 2), 0, Math.cos(turn / 2)], 4 * n * f);
    values.set([0, 0.95, 0], 3 * f);
  }
  return { fps, frameCount: frames, turns, places: [{ joint: 0, values }], numbers: [], scales: [], steps: [] };
}
/** Largest angle between the hips of two motions, or what hangs from them, in the world; the ends of a filter left aside. */
function apart(a: Motion, b: Motion, joint: number): number {
  const [x, y] = [new PoseReader(rig, a), new PoseReader(rig, b)];
  let most = 0;
  for (let f = 10; f < a.frameCount - 10; f++)
    most = Math.max(
      most,
      angleBetweenQuats(Float64Array.from(x.at(f).r), 4 * joint, Float64Array.from(y.at(f).r), 4 * joint),
    );
  return most * DEG;
}

test('the jitter is taken out of the hips’ turn, the slow turn stays, and what hangs from them keeps its own', () => {
  const steady = steadyHips(plan, jittery(120));
  expect(apart(steady, jittery(120, 0), 0)).toBeLessThan(0.1);
  for (const name of ['LeftUpLeg', 'RightUpLeg', 'Spine'])
    expect([name, apart(steady, jittery(120), rig.names.indexOf(name)) < 0.001]).toEqual([name, true]);
});

test('turns are kept near their neighbours, whichever sign they came with', () => {
  const motion = jittery(120);
  for (let f = 0; f < motion.frameCount; f += 3)
    for (let k = 0; k < 4; k++) motion.turns[4 * n * f + k] = -motion.turns[4 * n * f + k]!;
  expect(apart(steadyHips(plan, motion), jittery(120, 0), 0)).toBeLessThan(0.1);
});

test('at a rate too low to tell jitter from motion nothing is touched', () => {
  const motion = jittery(30);
  expect(steadyHips(plan, motion)).toBe(motion);
});
