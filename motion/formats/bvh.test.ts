import { largestError } from '../codec/error';
import { MotionError } from '../errors';
import { angleBetweenQuats, eulerQuat } from '../math/quat';
import { PoseReader } from '../motion/motion';
import { restPose } from '../rig/rig';
import { posedRig, wander } from '../test/bodies';
import { readBvh } from './bvh-read';
import { writeBvh } from './bvh-write';
import { rateFromFrameTime } from './frame-rate';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);
const FILE = `HIERARCHY
ROOT Hips
{
  OFFSET 0 0 0
  CHANNELS 6 Xposition Yposition Zposition Zrotation Xrotation Yrotation
  JOINT Knee
  {
    OFFSET 0 -40 0
    CHANNELS 3 Zrotation Xrotation Yrotation
    End Site
    {
      OFFSET 0 -40 0
    }
  }
}
MOTION
Frames: 2
Frame Time: 0.0333333
0 90 0 0 0 0 10 20 30
1 91 2 5 0 0 -10 -20 -30
`;

function refusal(text: string | Uint8Array): MotionError {
  try {
    readBvh(typeof text === 'string' ? bytes(text) : text);
  } catch (error) {
    if (error instanceof MotionError) return error;
    throw error;
  }
  throw new Error('it was taken');
}

describe('reading BVH', () => {
  test('joints, offsets, rate and turns', () => {
    const { rig, motion, warnings } = readBvh(bytes(FILE));
    expect(rig.names).toEqual(['Hips', 'Knee']);
    expect([...rig.parents]).toEqual([-1, 0]);
    expect([...rig.restT.subarray(3)]).toEqual([0, -40, 0]);
    expect([...rig.tips.subarray(3)]).toEqual([0, -40, 0]);
    expect(motion!.fps).toBe(30);
    expect(motion!.frameCount).toBe(2);
    expect([...motion!.places[0]!.values]).toEqual([0, 90, 0, 1, 91, 2]);
    const q = [0, 0, 0, 1];
    eulerQuat(q, 0, 'ZXY', Math.PI / 18, Math.PI / 9, Math.PI / 6);
    expect(angleBetweenQuats(motion!.turns, 4, q, 0)).toBeLessThan(1e-6);
    expect(warnings).toEqual([]);
  });

  test.each(['XYZ', 'XZY', 'YXZ', 'YZX', 'ZXY', 'ZYX'])('turns in the order %s', (order) => {
    const channels = [...order].map((c) => `${c}rotation`).join(' ');
    const { motion } = readBvh(
      bytes(FILE.replace('CHANNELS 3 Zrotation Xrotation Yrotation', `CHANNELS 3 ${channels}`)),
    );
    const q = [0, 0, 0, 1];
    eulerQuat(q, 0, order, Math.PI / 18, Math.PI / 9, Math.PI / 6);
    expect(angleBetweenQuats(motion!.turns, 4, q, 0)).toBeLessThan(1e-6);
  });

  test('one channel, two channels and repeated axes', () => {
    const one = readBvh(
      bytes(
        FILE.replace('CHANNELS 3 Zrotation Xrotation Yrotation', 'CHANNELS 1 Xrotation')
          .replace('10 20 30', '20')
          .replace('-10 -20 -30', '-20'),
      ),
    );
    const q = [0, 0, 0, 1];
    eulerQuat(q, 0, 'X', Math.PI / 9, 0, 0);
    expect(angleBetweenQuats(one.motion!.turns, 4, q, 0)).toBeLessThan(1e-6);
    const twice = readBvh(
      bytes(FILE.replace('CHANNELS 3 Zrotation Xrotation Yrotation', 'CHANNELS 3 Zrotation Xrotation Zrotation')),
    );
    eulerQuat(q, 0, 'ZXZ', Math.PI / 18, Math.PI / 9, Math.PI / 6);
    expect(angleBetweenQuats(twice.motion!.turns, 4, q, 0)).toBeLessThan(1e-6);
  });

  test.each([
    ['CRLF line ends', FILE.replace(/\n/g, '\r\n')],
    ['tabs', FILE.replace(/ {2}/g, '\t').replace(/ (?=\d)/g, '\t')],
    ['no newline at the end', FILE.trimEnd()],
    ['blank lines at the end', `${FILE}\n\n  \n`],
    ['a byte order mark', `\uFEFF${FILE}`],
    ['comments', FILE.replace('MOTION', '# made somewhere\nMOTION').replace('0 90 0', '// first\n0 90 0')],
    [
      'braces on the line of the joint',
      FILE.replace('ROOT Hips\n{', 'ROOT Hips {').replace('End Site\n    {', 'End Site {'),
    ],
    [
      'lower-case key words',
      FILE.replace('HIERARCHY', 'hierarchy')
        .replace('ROOT', 'root')
        .replace('JOINT', 'joint')
        .replace('End Site', 'end site'),
    ],
    ['a named end site', FILE.replace('End Site', 'End Site KneeEnd')],
    ['no colons', FILE.replace('Frames:', 'Frames').replace('Frame Time:', 'Frame Time')],
    ['exponents', FILE.replace('0 90 0 0 0 0 10 20 30', '0 9.0e1 0e0 0 0 0 1E+1 2.0e+01 300e-1')],
    ['plus signs', FILE.replace('0 90 0', '+0 +90 +0')],
    ['one frame over several lines', FILE.replace('0 90 0 ', '0 90 0\n')],
  ])('takes %s', (_, text) => {
    const plain = readBvh(bytes(FILE));
    const read = readBvh(bytes(text));
    expect(read.rig.names).toEqual(plain.rig.names);
    expect(read.motion!.frameCount).toBe(2);
    read.motion!.turns.forEach((x, i) => {
      expect(x).toBeCloseTo(plain.motion!.turns[i]!, 6);
    });
    expect([...read.motion!.places[0]!.values]).toEqual([...plain.motion!.places[0]!.values]);
  });

  test('places of inner joints: absolute ones replace the offset, departures add to it', () => {
    const inner = (y: number): Uint8Array =>
      bytes(
        FILE.replace(
          'CHANNELS 3 Zrotation Xrotation Yrotation',
          'CHANNELS 6 Xposition Yposition Zposition Zrotation Xrotation Yrotation',
        )
          .replace('0 0 0 10 20 30', `0 0 0 0 ${y} 0 10 20 30`)
          .replace('5 0 0 -10', `5 0 0 0 ${y} 0 -10`),
      );
    expect(readBvh(inner(-39)).motion!.places[1]!.values[1]).toBe(-39);
    expect(readBvh(inner(1)).motion!.places[1]!.values[1]).toBe(-39);
  });

  test('several roots become one rig', () => {
    const two = FILE.replace(
      'MOTION',
      'ROOT Prop\n{\nOFFSET 5 0 0\nCHANNELS 3 Xposition Yposition Zposition\nEnd Site\n{\nOFFSET 0 1 0\n}\n}\nMOTION',
    )
      .replace('10 20 30\n', '10 20 30 5 0 0\n')
      .replace('-10 -20 -30\n', '-10 -20 -30 6 0 0\n');
    const { rig, warnings } = readBvh(bytes(two));
    expect([...rig.parents]).toEqual([-1, 0, -1]);
    expect(warnings[0]).toMatch(/several roots/);
  });

  test('a name that stands twice is told apart', () => {
    const { rig, warnings } = readBvh(bytes(FILE.replace('JOINT Knee', 'JOINT Hips')));
    expect(new Set(rig.names).size).toBe(2);
    expect(warnings[0]).toMatch(/stands 2 times/);
  });

  test('more frames than declared: the declared ones, with a note', () => {
    const { motion, warnings } = readBvh(bytes(`${FILE}2 92 4 0 0 0 0 0 0\n`));
    expect(motion!.frameCount).toBe(2);
    expect(warnings[0]).toMatch(/9 numbers \(about 1 frames\) more/);
  });

  test('no frames: the skeleton alone', () => {
    const { motion, warnings } = readBvh(bytes(FILE.replace('Frames: 2', 'Frames: 0')));
    expect(motion).toBeUndefined();
    expect(warnings[0]).toMatch(/no frames/);
  });

  test.each<[string, string | Uint8Array, string, RegExp]>([
    ['nothing', new Uint8Array(0), 'empty', /empty/],
    ['other text', 'hello world', 'not-this-format', /HIERARCHY/],
    ['bytes', Uint8Array.from({ length: 400 }, (_, i) => (i * 37) % 256), 'not-this-format', /HIERARCHY/],
    [
      'fewer frames than declared',
      FILE.replace('Frames: 2', 'Frames: 5'),
      'wrong-count',
      /5 frames of 9 numbers are declared; the file holds 18 numbers, 2 whole frames/,
    ],
    ['a cut last line', FILE.slice(0, -12), 'wrong-count', /1 whole frames/],
    ['a word among the numbers', FILE.replace('20 30', '20 x30'), 'bad-number', /"x30"/],
    ['NaN', FILE.replace('20 30', 'NaN 30'), 'bad-number', /NaN/],
    ['an infinite number', FILE.replace('20 30', '1e999 30'), 'bad-number', /1e999/],
    ['an open brace', FILE.replace('}\nMOTION', 'MOTION'), 'truncated', /never closed/],
    ['a brace too many', FILE.replace('}\nMOTION', '}\n}\nMOTION'), 'bad-structure', /never opened/],
    ['an unknown channel', FILE.replace('Zrotation Xrotation', 'Wrotation Xrotation'), 'unsupported', /Wrotation/],
    ['a wrong channel count', FILE.replace('CHANNELS 3', 'CHANNELS 4'), 'wrong-count', /declares 4 and names 3/],
    ['an offset of words', FILE.replace('OFFSET 0 -40 0', 'OFFSET a b c'), 'bad-number', /OFFSET/],
    ['no motion part', FILE.slice(0, FILE.indexOf('MOTION')), 'truncated', /MOTION/],
    ['no joints', 'HIERARCHY\nMOTION\nFrames: 1\nFrame Time: 0.1\n0\n', 'no-joints', /no joints/],
    ['a frame time of zero', FILE.replace('0.0333333', '0'), 'bad-number', /frame time/],
    ['an enormous promise', FILE.replace('Frames: 2', 'Frames: 999999'), 'wrong-count', /999999 frames/],
    ['more frames than anybody has', FILE.replace('Frames: 2', 'Frames: 99999999'), 'too-large', /at most/],
  ])('refuses %s', (_, text, code, words) => {
    const error = refusal(text);
    expect(error.code).toBe(code);
    expect(error.message).toMatch(words);
  });

  test('a refusal names the line', () => {
    expect(refusal(FILE.replace('1 91 2', '1 oops 2')).place.line).toBe(20);
    expect(refusal(FILE.replace('OFFSET 0 -40 0', 'OFFSET 0 -40')).place.line).toBe(8);
  });
});

describe('frame rates', () => {
  test.each([
    ['0.0333333', 30],
    ['0.033333', 30],
    ['0.0083333', 120],
    ['0.00833', 120],
    ['0.016667', 60],
    ['0.0416667', 24],
    ['0.0417083', 24000 / 1001],
    ['0.0333667', 30000 / 1001],
    ['0.04', 25],
    ['0.01', 100],
    ['0.1', 10],
    ['.0333333', 30],
    ['3.33333e-2', 30],
  ])('%s s', (text, fps) => {
    expect(rateFromFrameTime(text)).toBeCloseTo(fps, 6);
  });
});

describe('writing BVH', () => {
  test.each([
    ['world axes', posedRig(90)],
    ['odd axes, arms slanting', posedRig(45, 1, true)],
  ])('reads back equal, %s', (_, rig) => {
    const motion = wander(rig, 40);
    const back = readBvh(bytes(writeBvh(rig, motion, { unitsPerMetre: 100 })));
    expect(back.rig.names).toEqual(rig.names);
    expect(back.motion!.fps).toBe(motion.fps);
    const a = new PoseReader(rig, motion);
    const b = new PoseReader(back.rig, back.motion!);
    const rest = restPose(rig);
    let worst = 0;
    for (let f = 0; f < motion.frameCount; f++) {
      const [pa, pb] = [a.at(f).p, b.at(f).p];
      for (let o = 0; o < pa.length; o++) worst = Math.max(worst, Math.abs(pa[o]! * 100 - pb[o]!));
    }
    expect(rest.p.length).toBe(3 * rig.names.length);
    expect(worst).toBeLessThan(2e-3);
  });

  test('a second round changes nothing', () => {
    const rig = posedRig(90);
    const once = readBvh(bytes(writeBvh(rig, wander(rig, 20))));
    const twice = readBvh(bytes(writeBvh(once.rig, once.motion!, { unitsPerMetre: 1 })));
    expect(largestError(once.rig, once.motion!, twice.motion!)).toBeLessThan(1e-3);
  });
});
