import { Clock } from './clock';

function clockOf(frames: number, fps = 30): Clock {
  const clock = new Clock();
  clock.load(frames, fps);
  return clock;
}

test('every frame asked for is the frame shown, at any rate', () => {
  for (const fps of [12, 23.976, 24, 25, 29.97, 30, 60, 119.88, 120, 240]) {
    const clock = clockOf(5000, fps);
    for (let f = 0; f < 5000; f += 7) {
      clock.seekFrame(f);
      expect(clock.frame).toBe(f);
    }
  }
});

test('motions of other rates and lengths play together, each by its own frames', () => {
  const clock = new Clock();
  const slow = { frameCount: 91, fps: 30 };
  const quick = { frameCount: 481, fps: 120 };
  const still = { frameCount: 1, fps: 30 };
  const leave = [slow, quick, still].map((m) => clock.play(m));
  // whoever came last does not set the time: the longest does
  expect([clock.frameCount, clock.fps]).toEqual([481, 120]);
  clock.advance(2);
  expect([slow, quick, still].map((m) => clock.frameOf(m))).toEqual([60, 240, 0]);
  clock.advance(1.5);
  expect([slow, quick].map((m) => clock.frameOf(m))).toEqual([90, 420]);
  leave[1]!();
  expect([clock.frameCount, clock.fps, clock.time]).toEqual([91, 30, 0]);
  // and while the next one is on its way nothing jumps
  leave[0]!();
  leave[2]!();
  expect([clock.frameCount, clock.fps]).toEqual([1, 30]);
});

test('of a pose that plays no picture is asked for after the first', () => {
  const clock = clockOf(1);
  let asked = 0;
  clock.onTick(() => asked++);
  clock.advance(1);
  expect(asked).toBe(0);
  clock.load(2, 30);
  const before = asked;
  clock.advance(1 / 60);
  expect(asked).toBe(before + 1);
});

test('seeking beyond either end stops at it', () => {
  const clock = clockOf(10);
  clock.seekFrame(400);
  expect(clock.frame).toBe(9);
  clock.seekFrame(-3);
  expect(clock.frame).toBe(0);
});

describe('advancing', () => {
  test('goes round where it loops and keeps what is over', () => {
    const clock = clockOf(30);
    clock.advance(1.25);
    expect(clock.time).toBeCloseTo(0.25, 9);
    expect(clock.playing).toBe(true);
  });
  test('stops on the last frame where it does not', () => {
    const clock = clockOf(30);
    clock.setLoop(false);
    clock.advance(5);
    expect([clock.frame, clock.playing]).toEqual([29, false]);
    clock.advance(1);
    expect(clock.frame).toBe(29);
  });
  test('follows the speed, and stands while paused or without a motion', () => {
    const clock = clockOf(300);
    clock.setSpeed(0.25);
    clock.advance(2);
    expect(clock.time).toBeCloseTo(0.5, 9);
    clock.setPlaying(false);
    clock.advance(2);
    expect(clock.time).toBeCloseTo(0.5, 9);
    const empty = new Clock();
    empty.advance(1);
    expect(empty.time).toBe(0);
  });
});

test('it runs by itself at first, but not where less motion is wished; later stages change nothing', () => {
  const free = clockOf(10);
  free.begin(false);
  expect(free.playing).toBe(true);
  const calm = clockOf(10);
  calm.begin(true);
  expect(calm.playing).toBe(false);
  calm.setPlaying(true);
  calm.begin(true);
  expect(calm.playing).toBe(true);
});

describe('stepping', () => {
  test('pauses, goes frame by frame and round the ends of a loop', () => {
    const clock = clockOf(4);
    const seen = [1, 1, 1, 1, -1].map((by) => {
      clock.step(by);
      return clock.frame;
    });
    expect(seen).toEqual([1, 2, 3, 0, 3]);
    expect(clock.playing).toBe(false);
  });
  test('stays at the ends without a loop', () => {
    const clock = clockOf(4);
    clock.setLoop(false);
    clock.step(-1);
    expect(clock.frame).toBe(0);
    clock.step(10);
    expect(clock.frame).toBe(3);
  });
});

describe('another motion', () => {
  test('keeps the time where it still lies within, begins anew where not', () => {
    const clock = clockOf(300);
    clock.seekFrame(60);
    clock.load(120, 30);
    expect(clock.frame).toBe(60);
    clock.load(30, 30);
    expect(clock.frame).toBe(0);
  });
  test('the same again tells nobody', () => {
    const clock = clockOf(300);
    let told = 0;
    clock.subscribe(() => told++);
    clock.load(300, 30);
    expect(told).toBe(0);
    clock.load(300, 60);
    expect(told).toBe(1);
  });
});

test('time is told to tickers alone, settings to both, and nobody after leaving', () => {
  const clock = clockOf(300);
  const told = { ticks: 0, changes: 0 };
  const leaveTicks = clock.onTick(() => told.ticks++);
  const leave = clock.subscribe(() => told.changes++);
  const before = clock.snapshot();
  clock.advance(0.1);
  clock.seekFrame(4);
  expect(told).toEqual({ ticks: 2, changes: 0 });
  expect(clock.snapshot()).toBe(before);
  clock.setPlaying(false);
  clock.setPlaying(false);
  expect(told).toEqual({ ticks: 3, changes: 1 });
  leaveTicks();
  leave();
  clock.setSpeed(2);
  expect(told).toEqual({ ticks: 3, changes: 1 });
});
