import { MotionError } from '../errors';
import { axisAngleQuat } from '../math/quat';
import { seeded } from '../math/random';
import { LiveBuffer } from './live-buffer';
import { readStageMessage, type StageFrame } from './packets';
import { TakeRecorder, takeWords } from './take-recorder';

const FPS = 120;
const JOINTS = 3;
/** A joint that swings once in two seconds, another that never moves. */
const angleAt = (number: number): number => 0.8 * Math.sin((Math.PI * number) / FPS);
function frame(number: number, session = 's', lost: readonly number[] = []): StageFrame {
  const turns = new Float32Array(4 * JOINTS);
  for (let j = 0; j < JOINTS; j++) {
    axisAngleQuat(turns, 4 * j, 0, 0, 1, j === 1 ? angleAt(number) : 0);
    if (lost.includes(j)) turns.fill(Number.NaN, 4 * j, 4 * j + 4);
  }
  return { type: 'frame', session, performer: 'p', number, place: [number / FPS, 1, 0], turns };
}
const angleOf = (turns: Float32Array, j: number): number => 2 * Math.atan2(turns[4 * j + 2]!, turns[4 * j + 3]!);

/** Frames as a poor network brings them: late by chance, some lost, in any order. */
function arrivals(
  count: number,
  seed: number,
  { jitter = 0.02, loss = 0.05 } = {},
): { at: number; frame: StageFrame }[] {
  const random = seeded(seed);
  const out: { at: number; frame: StageFrame }[] = [];
  for (let i = 0; i < count; i++)
    if (random() >= loss) out.push({ at: i / FPS + 0.03 + jitter * random(), frame: frame(i) });
  return out.sort((a, b) => a.at - b.at);
}

describe('pictures of a live stage', () => {
  test('run smoothly a little behind, whatever the network does', () => {
    const buffer = new LiveBuffer(JOINTS, FPS);
    const coming = arrivals(1200, 3);
    let next = 0;
    let before: number | undefined;
    const lags: number[] = [];
    for (let now = 0.5; now < 9.5; now += 1 / 60) {
      while (next < coming.length && coming[next]!.at <= now) buffer.push(coming[next]!.frame, coming[next++]!.at);
      const pose = buffer.at(now)!;
      lags.push(now - 0.03 - pose.seconds);
      const angle = angleOf(pose.turns, 1);
      expect(Math.abs(angle - angleAt(pose.seconds * FPS))).toBeLessThan(0.03);
      // never faster than it swings
      if (before !== undefined && now > 1) expect(Math.abs(angle - before)).toBeLessThan(0.08);
      before = angle;
    }
    lags.sort((a, b) => a - b);
    // a spread of 20 ms and a frame, and some air
    expect(lags[Math.floor(0.95 * lags.length)]).toBeLessThan(0.06);
  });

  test('never run backwards, nor leap, where frames stall and come all at once', () => {
    const buffer = new LiveBuffer(JOINTS, FPS);
    // a third of a second in which nothing comes, every two seconds
    const coming = arrivals(1200, 8).map(({ at, frame: f }) => {
      const into = at % 2;
      return { at: into > 1 && into < 1.33 ? at - into + 1.33 : at, frame: f };
    });
    let next = 0;
    let before = -1;
    const delays: number[] = [];
    for (let now = 0.5; now < 9.5; now += 1 / 60) {
      while (next < coming.length && coming[next]!.at <= now) buffer.push(coming[next]!.frame, coming[next++]!.at);
      const { seconds } = buffer.at(now)!;
      if (before >= 0) {
        expect(seconds - before).toBeGreaterThan(0.7 / 60);
        expect(seconds - before).toBeLessThan(1.3 / 60);
      }
      before = seconds;
      delays.push(buffer.delay);
    }
    // the stalls do set what is shown back
    expect(Math.max(...delays) - Math.min(...delays)).toBeGreaterThan(0.2);
    expect(Math.abs(9.5 - 0.03 - before - buffer.delay)).toBeLessThan(0.35);
  });

  test('keep nothing that is long past', () => {
    const buffer = new LiveBuffer(JOINTS, FPS);
    for (let i = 0; i < 10_000; i++) buffer.push(frame(i), i / FPS);
    expect((buffer as unknown as { frames: unknown[] }).frames.length).toBeLessThanOrEqual(2 * FPS + 2);
  });

  test('carry a lost joint on for a moment, then bring it to rest, and say which', () => {
    const buffer = new LiveBuffer(JOINTS, FPS);
    for (let i = 0; i <= 60; i++) buffer.push(frame(i), i / FPS);
    const angle = angleOf(buffer.at(0.5)!.turns, 1);
    expect(angle).toBeGreaterThan(0.5);
    for (let i = 61; i <= 200; i++) buffer.push(frame(i, 's', [1]), i / FPS);
    const late = buffer.at(1.6)!;
    expect(late.lost).toEqual([1]);
    expect(Math.abs(angleOf(late.turns, 1))).toBeLessThan(0.05);
    expect(late.turns.every(Number.isFinite)).toBe(true);
  });

  test('begin anew where the stage does', () => {
    const buffer = new LiveBuffer(JOINTS, FPS);
    for (let i = 0; i < 240; i++) buffer.push(frame(i), i / FPS);
    for (let i = 0; i < 60; i++) buffer.push(frame(i, 'next'), 5 + i / FPS);
    expect(buffer.at(5.5)!.seconds).toBeLessThan(0.6);
  });
});

describe('takes', () => {
  test('of frames that all came, in any order, are those frames', () => {
    const recorder = new TakeRecorder(JOINTS, FPS);
    for (const { frame: f } of arrivals(300, 5, { loss: 0, jitter: 0.1 })) recorder.push(f);
    const { motion, account } = recorder.finish();
    expect(account).toEqual({ frames: 300, came: 300, twice: 0, missing: [], lostJoints: [], cutOff: false });
    for (let f = 0; f < 300; f += 7)
      expect(angleOf(motion.turns.subarray(4 * JOINTS * f), 1)).toBeCloseTo(angleAt(f), 5);
    expect(takeWords(account, ['a', 'b', 'c'])).toEqual(['All 300 frames came.']);
  });

  test('account for every frame that did not come, and every joint that was lost', () => {
    const recorder = new TakeRecorder(JOINTS, FPS);
    const gone = new Set([5, 6, 7, 40]);
    for (let i = 0; i < 100; i++) if (!gone.has(i)) recorder.push(frame(i, 's', i >= 60 && i < 64 ? [2] : []));
    recorder.push(frame(99));
    const { motion, account } = recorder.finish();
    expect(account).toEqual({
      frames: 100,
      came: 96,
      twice: 1,
      missing: [
        { first: 5, last: 7, filled: 'between' },
        { first: 40, last: 40, filled: 'between' },
      ],
      lostJoints: [{ joint: 2, first: 60, last: 63 }],
      cutOff: false,
    });
    const told = account.missing.reduce((n, m) => n + m.last - m.first + 1, 0);
    expect(account.came + told).toBe(account.frames);
    expect(angleOf(motion.turns.subarray(4 * JOINTS * 6), 1)).toBeCloseTo(angleAt(6), 3);
    expect(motion.turns.every(Number.isFinite)).toBe(true);
    expect(takeWords(account, ['hips', 'arm', 'leg']).join(' ')).toMatch(
      /4 of 100 frames never came \(5 to 7, 40\).*leg/,
    );
  });

  test('end where the stage starts anew, and say so; of nothing there is no take', () => {
    const recorder = new TakeRecorder(JOINTS, FPS);
    expect(() => recorder.finish()).toThrow(MotionError);
    for (let i = 100; i < 150; i++) recorder.push(frame(i));
    for (let i = 0; i < 50; i++) recorder.push(frame(i, 'next'));
    expect(recorder.finish().account).toMatchObject({ frames: 50, came: 50, cutOff: true });
  });
});

describe('messages of a stage', () => {
  const hello = {
    type: 'hello',
    session: 's',
    fps: 120,
    performers: [
      {
        id: 'p',
        name: 'Ada',
        joints: [
          { name: 'hips', parent: -1, offset: [0, 1, 0] },
          { name: 'head', parent: 0, offset: [0, 0.6, 0] },
        ],
      },
    ],
  };
  const joints = new Map([['p', 2]]);

  test('are read as they are meant', () => {
    const told = readStageMessage(hello, new Map());
    expect(told).toMatchObject({
      type: 'hello',
      fps: 120,
      performers: [{ name: 'Ada', rig: { names: ['hips', 'head'] } }],
    });
    const f = readStageMessage(
      { type: 'frame', session: 's', performer: 'p', number: 4, place: null, turns: [[0, 0, 0, 2], null] },
      joints,
    );
    expect(f).toMatchObject({ number: 4, place: undefined });
    expect([...(f as StageFrame).turns]).toEqual([0, 0, 0, 1, Number.NaN, Number.NaN, Number.NaN, Number.NaN]);
  });

  test.each([
    null,
    { type: 'hello', session: 's', fps: 0, performers: [] },
    {
      ...hello,
      performers: [
        {
          id: 'p',
          name: 'Ada',
          joints: [
            { name: 'a', parent: 0, offset: [0, 0, 0] },
            { name: 'b', parent: 0, offset: [0, 0, 0] },
          ],
        },
      ],
    },
    { type: 'frame', session: 's', performer: 'q', number: 1, place: null, turns: [] },
    { type: 'frame', session: 's', performer: 'p', number: -1, place: null, turns: [null, null] },
    { type: 'frame', session: 's', performer: 'p', number: 1, place: null, turns: [null] },
    { type: 'frame', session: 's', performer: 'p', number: 1, place: [1, 2], turns: [null, null] },
    { type: 'frame', session: 's', performer: 'p', number: 1, place: null, turns: [[0, 0, 0, 0], null] },
    { type: 'frame', session: 's', performer: 'p', number: 1, place: null, turns: [[0, 0, 0, '1'], null] },
  ])('that are none are refused: %j', (message) => {
    expect(() => readStageMessage(message, joints)).toThrow(MotionError);
  });
});
