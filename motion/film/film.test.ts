import { standIn } from '../body/stand-in';
import { axisAngleQuat } from '../math/quat';
import { type Motion, restMotion } from '../motion/motion';
import { filmOf } from './film';

const rig = standIn('A', 1.7);
/** Arms that rise over two seconds. */
const rising: Motion = (() => {
  const one = restMotion(rig);
  const frames = 41;
  const turns = new Float32Array(one.turns.length * frames);
  for (let f = 0; f < frames; f++) {
    turns.set(one.turns, one.turns.length * f);
    for (const [name, way] of [
      ['upperArmL', 1],
      ['upperArmR', -1],
    ] as const)
      axisAngleQuat(turns, one.turns.length * f + 4 * rig.names.indexOf(name), 0, 0, 1, (way * 2 * f) / (frames - 1));
  }
  return { ...one, fps: 20, frameCount: frames, turns, places: [] };
})();
/** Rows and columns in which something is drawn. */
function painted(rgba: Uint8ClampedArray, width: number): { top: number; left: number; right: number } {
  let [top, left, right] = [Infinity, Infinity, -1];
  for (let i = 3; i < rgba.length; i += 4) {
    if (rgba[i] === 0) continue;
    const p = (i - 3) / 4;
    top = Math.min(top, Math.floor(p / width));
    left = Math.min(left, p % width);
    right = Math.max(right, p % width);
  }
  return { top, left, right };
}
const OPTIONS = { view: 'front', height: 120, fps: 10 } as const;

test('a film lasts as long as the motion, all frames are alike in size, and it moves', () => {
  const frames = [...filmOf([{ rig, motion: rising }], OPTIONS)];
  expect(frames).toHaveLength(21);
  expect(new Set(frames.map((f) => `${f.width} × ${f.height}`)).size).toBe(1);
  const [first, last] = [frames[0]!, frames[20]!].map((f) => painted(f.rgba, f.width));
  // hands end above the head
  expect(last!.top).toBeLessThan(first!.top);
  expect(frames[0]!.rgba).not.toEqual(frames[10]!.rgba);
});

test('two stand side by side at one scale, the shorter one is shorter, and who is done stands still', () => {
  const small = standIn('A', 0.85);
  const frames = [
    ...filmOf(
      [
        { rig, motion: rising },
        { rig: small, motion: restMotion(small) },
      ],
      OPTIONS,
    ),
  ];
  expect(frames).toHaveLength(21);
  const { width, rgba } = frames[0]!;
  const alone = [...filmOf([{ rig, motion: rising }], OPTIONS)][0]!;
  const half = (from: number, to: number): number => {
    let top = 120;
    for (let y = 0; y < 120; y++)
      for (let x = from; x < to; x++) if (rgba[4 * (y * width + x) + 3]! > 0) top = Math.min(top, y);
    return 120 - top;
  };
  const [tall, short] = [half(0, alone.width), half(alone.width, width)];
  expect(short / tall).toBeGreaterThan(0.4);
  expect(short / tall).toBeLessThan(0.62);
  const right = (f: (typeof frames)[number]): number[] =>
    Array.from({ length: 120 }, (_, y) => y).flatMap((y) => [
      ...f.rgba.slice(4 * (y * width + alone.width), 4 * (y + 1) * width),
    ]);
  expect(right(frames[20]!)).toEqual(right(frames[3]!));
});

test('nobody is no film, and one too large is refused', () => {
  expect(() => [...filmOf([], OPTIONS)]).toThrow(/somebody/);
  expect(() => [...filmOf([{ rig, motion: rising }], { ...OPTIONS, height: 9000 })]).toThrow(/smaller height/);
});
