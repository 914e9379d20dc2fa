import { jest } from '@jest/globals';
import { Clock } from './clock';
import { Pace, type Paced } from './pace';

/** A pace whose pictures take as long as is said, with a graphics card or without. */
function paced(clock: Paced & { pictureShown: () => void }, { card = false, takes = 20, busy = true } = {}) {
  let now = true;
  const began: number[] = [];
  const late = {
    busy: false,
    soon(then: () => void) {
      late.busy = true;
      setTimeout(() => {
        late.busy = false;
        then();
      }, takes);
    },
  };
  const draw = (): void => {
    expect(now).toBe(true);
    began.push(performance.now());
    pace.begin();
    // what drawing moves asks, too
    pace.ask();
    pace.end();
    // changes come while the picture is on its way
    if (busy) pace.ask();
  };
  const pace = new Pace(clock, card ? undefined : late, draw, (then) => setTimeout(then, takes));
  return { pace, began, late, forbid: () => (now = false) };
}
const still = (): Clock => {
  const clock = new Clock();
  clock.playing = false;
  return clock;
};

beforeEach(() => {
  jest.useFakeTimers({ now: 1000 });
  globalThis.requestAnimationFrame = ((run: (t: number) => void) => setTimeout(() => run(0), 16)) as never;
});
afterEach(() => void jest.useRealTimers());

test('pictures never queue: what is asked for meanwhile comes once the former is on the screen', async () => {
  const { pace, began, late } = paced(still(), { takes: 50 });
  for (let i = 0; i < 5; i++) pace.ask();
  expect(began).toHaveLength(0);
  await jest.advanceTimersByTimeAsync(1);
  expect(began).toHaveLength(1);
  expect(pace.idle).toBe(false);
  pace.ask();
  await jest.advanceTimersByTimeAsync(50);
  // finished, and on its way to the screen
  expect([late.busy, began.length, pace.idle]).toEqual([false, 1, false]);
  await jest.advanceTimersByTimeAsync(30);
  expect(began).toHaveLength(2);
});

test('with a graphics card a picture is drawn at once, and again as soon as it is finished', async () => {
  const { pace, began } = paced(still(), { card: true, takes: 5 });
  pace.ask();
  expect(began).toHaveLength(1);
  await jest.advanceTimersByTimeAsync(200);
  expect(began.length).toBeGreaterThan(3);
});

test('a stage that plays leaves some time to the page; one that is led from elsewhere nearly all', async () => {
  const count = async (clock: Clock): Promise<number> => {
    const { pace, began } = paced(clock, { takes: 60 });
    pace.ask();
    await jest.advanceTimersByTimeAsync(6000);
    return began.length;
  };
  const led = still();
  led.led = true;
  const [playing, standing, from] = [await count(new Clock()), await count(still()), await count(led)];
  expect(playing).toBeLessThanOrEqual(standing);
  expect(playing).toBeGreaterThan(50);
  expect(from).toBeLessThan(playing / 3);
});

test('a picture waits for a motion on its way, is drawn with it at once, and without it after a while', async () => {
  const clock = still();
  const { pace, began } = paced(clock, { takes: 5 });
  clock.onTick(pace.ask);
  clock.awaitMotion();
  pace.ask();
  await jest.advanceTimersByTimeAsync(60);
  expect(began).toHaveLength(0);
  clock.motionArrived();
  await jest.advanceTimersByTimeAsync(2);
  expect(began).toHaveLength(1);
  await jest.advanceTimersByTimeAsync(200);
  const before = began.length;
  pace.stop();
  clock.awaitMotion();
  pace.ask();
  await jest.advanceTimersByTimeAsync(120);
  expect(began).toHaveLength(before);
  await jest.advanceTimersByTimeAsync(80);
  expect(began.length).toBeGreaterThan(before);
});

test('what plays does not wait', async () => {
  const clock = new Clock();
  clock.awaitMotion();
  expect(clock.patience).toBe(0);
  const { pace, began } = paced(clock, { takes: 5 });
  pace.ask();
  await jest.advanceTimersByTimeAsync(20);
  expect(began).toHaveLength(1);
});

test('who waits for the next picture is told when it is finished, and does not wait for ever', async () => {
  const clock = still();
  const { pace } = paced(clock, { takes: 40 });
  const told: string[] = [];
  void clock.shown().then(() => told.push('seen'));
  pace.ask();
  await jest.advanceTimersByTimeAsync(50);
  // finished, and on its way to the screen
  expect(told).toEqual([]);
  await jest.advanceTimersByTimeAsync(20);
  expect(told).toEqual(['seen']);
  pace.stop();
  void clock.shown().then(() => told.push('given up'));
  await jest.advanceTimersByTimeAsync(400);
  expect(told).toEqual(['seen', 'given up']);
});

test('nothing is drawn any more once it is stopped', async () => {
  const { pace, forbid } = paced(still());
  pace.ask();
  pace.stop();
  forbid();
  await jest.advanceTimersByTimeAsync(500);
  expect(pace.idle).toBe(true);
});

test.each([true, false])(
  'what drawing itself moves is in the picture: no second one for it (card: %s)',
  async (card) => {
    const { pace, began } = paced(still(), { card, takes: 10, busy: false });
    pace.ask();
    await jest.advanceTimersByTimeAsync(300);
    expect(began).toHaveLength(1);
    expect(pace.idle).toBe(true);
    pace.ask();
    await jest.advanceTimersByTimeAsync(300);
    expect(began).toHaveLength(2);
  },
);
