import { afterEach, beforeEach, expect, jest, test } from '@jest/globals';
import { act, screen } from '@testing-library/react';
import { LiveBuffer, standIn } from '@velvet-reel/motion';
import { Clock } from '@/stage/clock';
import { rigView } from '@/stage/rig-view';
import { stand } from '@/test/interface';
import { rigAnswer } from '@/test/rigs';
import { type LiveNow, useLiveMotion } from './use-live-motion';
import type { OnStage } from './use-stage';

const FPS = 60;
const target = rigAnswer();
const own = standIn('A');

function performer(): OnStage {
  return { id: 'p', name: 'Performer', rig: own, fps: FPS, buffer: new LiveBuffer(own.names.length, FPS) };
}
function push({ buffer }: OnStage, number: number, lost = -1): void {
  const turns = Float32Array.from(own.restR);
  if (lost >= 0) turns.fill(Number.NaN, 4 * lost, 4 * lost + 4);
  buffer.push(
    { type: 'frame', session: 's', performer: 'p', number, place: [0, 1, 0], turns },
    performance.now() / 1000,
  );
}

let now: LiveNow | undefined;
let asked: number;
function Reader({ of, clock }: { of: OnStage | undefined; clock: Clock }) {
  now = useLiveMotion(of, target, clock);
  return <p>{now?.delay === undefined ? 'nothing yet' : `lost: ${now.lost.join(', ') || 'none'}`}</p>;
}
function read(of: OnStage | undefined): void {
  const clock = new Clock();
  asked = 0;
  clock.onTick(() => asked++);
  stand(<Reader of={of} clock={clock} />);
}
const pass = (ms: number): Promise<void> => act(async () => void (await jest.advanceTimersByTimeAsync(ms)));

beforeEach(() => void jest.useFakeTimers());
afterEach(() => void jest.useRealTimers());

test('a frame of the character is worked out only when a picture asks for it', async () => {
  const of = performer();
  read(of);
  expect(now?.show()).toBeUndefined();
  push(of, 0);
  push(of, 1);
  const frame = now!.show()!;
  expect(frame.frameCount).toBe(1);
  expect(frame.turns).toHaveLength(4 * rigView(target).rig.names.length);
  expect([...frame.turns].every(Number.isFinite)).toBe(true);
});

test('the stage is asked for pictures, and words come a few times a second', async () => {
  const of = performer();
  read(of);
  expect(screen.getByText('nothing yet')).toBeInTheDocument();
  for (let i = 0; i < 24; i++) {
    push(of, i, own.names.indexOf('head'));
    await pass(1000 / FPS);
  }
  expect(screen.getByText('lost: head')).toBeInTheDocument();
  expect(asked).toBeGreaterThan(5);
});

test('without a performer nothing is shown and nothing asked for', async () => {
  read(undefined);
  await pass(300);
  expect([now, asked]).toEqual([undefined, 0]);
});
