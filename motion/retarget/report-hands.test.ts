import { handsTogether } from '../analysis/hands-together';
import type { Motion } from '../index';
import { axisAngleQuat, mulQuat } from '../math/quat';
import { party, posedRig } from '../test/bodies';

const body = party(posedRig(90));
const joint = (name: string): number => body.rig.names.indexOf(name);
const ARM = 0.53;

/** Somebody who goes a metre a second with arms lowered and then brought forward by so many degrees; 60 a second. */
function going(lowered: number, forward: number, swing = 0, frames = 120): Motion {
  const n = body.rig.names.length;
  const turns = new Float32Array(4 * n * frames);
  const values = new Float32Array(3 * frames);
  const [down, ahead] = [new Float64Array(4), new Float64Array(4)];
  for (let f = 0; f < frames; f++) {
    turns.set(body.rig.restR, 4 * n * f);
    values.set([0, 0.95, f / 60], 3 * f);
    for (const [side, s] of [
      ['Left', 1],
      ['Right', -1],
    ] as const) {
      const angle = forward + s * swing * Math.sin(f / 10);
      axisAngleQuat(down, 0, 0, 0, 1, (-s * lowered * Math.PI) / 180);
      axisAngleQuat(ahead, 0, 1, 0, 0, (-angle * Math.PI) / 180);
      mulQuat(turns, 4 * (f * n + joint(`${side}Arm`)), ahead, 0, down, 0);
    }
  }
  return { fps: 60, frameCount: frames, turns, places: [{ joint: 0, values }], numbers: [], scales: [], steps: [] };
}
const count = (motion: Motion): number => handsTogether(body, motion, ARM).count;

test('hands that keep their distance in front of somebody who goes hold one thing', () => {
  expect(count(going(88, 60))).toBeGreaterThan(60);
});

test('arms that hang at the sides hold nothing, however far their owner goes', () => {
  expect(count(going(85, 0))).toBe(0);
  expect(count(going(88, 15))).toBe(0);
});

test('hands that hang close together do', () => {
  expect(count(going(98, 10))).toBeGreaterThan(60);
});

test('hands that swing, that rest or that one lacks hold nothing', () => {
  expect(count(going(88, 60, 25))).toBe(0);
  const resting = going(88, 60);
  expect(count({ ...resting, places: [] })).toBe(0);
  const map = { ...body.map, slots: { ...body.map.slots } };
  delete (map.slots as Record<string, unknown>).handR;
  expect(handsTogether({ ...body, map }, resting, ARM).count).toBe(0);
});
