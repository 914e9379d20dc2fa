import { type Motion, type Party, PoseReader, retarget } from '../index';
import { buildRig, PLAIN, party, posedRig } from '../test/bodies';

/** The same body with arms of another length. */
const armed = (by: number): Party =>
  party(
    buildRig(
      PLAIN.map(([name, parent, x, y, z]) =>
        /ForeArm|Hand/.test(name)
          ? ([name, parent, Math.sign(x) * (0.17 + by * (Math.abs(x) - 0.17)), y, z] as const)
          : ([name, parent, x, y, z] as const),
      ),
    ),
  );
const source = party(posedRig(90));
const at = (name: string): number => source.rig.names.indexOf(name);

/** Arms hang down and the body sinks to its knees and rises again; frames of 30 a second. */
function dip(depth: number, frames = 60): Motion {
  const { rig } = source;
  const n = rig.names.length;
  const turns = new Float32Array(4 * n * frames);
  const places = new Float32Array(3 * frames);
  const turn = (f: number, joint: string, axis: 0 | 1 | 2, angle: number): void => {
    const o = 4 * (f * n + at(joint));
    turns.set([0, 0, 0, Math.cos(angle / 2)], o);
    turns[o + axis] = Math.sin(angle / 2);
  };
  for (let f = 0; f < frames; f++) {
    turns.set(rig.restR, 4 * n * f);
    const down = depth * 0.5 * (1 - Math.cos((2 * Math.PI * f) / (frames - 1)));
    turn(f, 'LeftArm', 2, -Math.PI / 2);
    turn(f, 'RightArm', 2, Math.PI / 2);
    const bend = Math.acos(Math.max(-1, 1 - down / 0.83));
    for (const side of ['Left', 'Right']) {
      turn(f, `${side}UpLeg`, 0, -bend);
      turn(f, `${side}Leg`, 0, 2 * bend);
      turn(f, `${side}Foot`, 0, -bend);
    }
    places.set([0, 0.95 - down, 0], 3 * f);
  }
  return {
    fps: 30,
    frameCount: frames,
    turns,
    places: [{ joint: 0, values: places }],
    numbers: [],
    scales: [],
    steps: [],
  };
}

/** Height of each hand's tip over time. */
function tips(side: Party, motion: Motion): { L: number[]; R: number[] } {
  const reader = new PoseReader(side.rig, motion);
  const height = (f: number, name: string): number => {
    const { r, p } = reader.at(f);
    const j = side.rig.names.indexOf(name);
    const [x, y, z, w] = r.subarray(4 * j, 4 * j + 4) as unknown as [number, number, number, number];
    const [a, b, c] = side.rig.tips.subarray(3 * j, 3 * j + 3) as unknown as [number, number, number];
    return p[3 * j + 1]! + 2 * (x * y + w * z) * a + (1 - 2 * (x * x + z * z)) * b + 2 * (y * z - w * x) * c;
  };
  const all = (name: string): number[] => Array.from({ length: motion.frameCount }, (_, f) => height(f, name));
  return { L: all('LeftHand'), R: all('RightHand') };
}

test('long arms would go through the ground, and do not', () => {
  const long = armed(1.8);
  const motion = dip(0.4);
  const free = tips(long, retarget(source, motion, long, { plants: false }).motion);
  expect(Math.min(...free.L)).toBeLessThan(-0.05);
  const held = tips(long, retarget(source, motion, long).motion);
  for (const side of ['L', 'R'] as const) expect(Math.min(...held[side])).toBeGreaterThan(-0.005);
});

test('hands that stay clear of the ground are left alone, to the bit', () => {
  const long = armed(1.2);
  const motion = dip(0.1);
  const with_ = retarget(source, motion, long).motion;
  const n = long.rig.names.length;
  const free = retarget(source, motion, long, { plants: false }).motion;
  for (let f = 0; f < motion.frameCount; f += 7)
    for (const name of ['LeftArm', 'LeftForeArm', 'RightArm']) {
      const o = 4 * (f * n + long.rig.names.indexOf(name));
      expect([...with_.turns.subarray(o, o + 4)]).toEqual([...free.turns.subarray(o, o + 4)]);
    }
});

test('the lift eases in and out: no step from frame to frame is larger than the motion’s own need', () => {
  const long = armed(1.8);
  const motion = dip(0.4);
  const { L } = tips(long, retarget(source, motion, long).motion);
  const free = tips(long, retarget(source, motion, long, { plants: false }).motion).L;
  const step = (list: number[]): number => Math.max(...list.slice(1).map((y, i) => Math.abs(y - list[i]!)));
  expect(step(L)).toBeLessThan(1.5 * step(free));
});

test('a hand that goes below the ground in the source may do so in the result', () => {
  const motion = dip(0.75);
  const own = tips(source, motion);
  expect(Math.min(...own.L)).toBeLessThan(-0.02);
  const same = tips(source, retarget(source, motion, source).motion);
  expect(Math.min(...same.L)).toBeLessThan(0.6 * Math.min(...own.L));
});
