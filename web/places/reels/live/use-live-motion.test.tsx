import { afterEach, beforeEach, expect, jest, test } from '@jest/globals';
import { act, screen } from '@testing-library/react';
import { asSkeleton, bodyMapToJson, cutoutFromSvg, LiveBuffer, rigToJson, standIn } from '@velvet-reel/motion';
import type { RigAnswer } from '@/contract';
import { Clock } from '@/stage/clock';
import { rigView } from '@/stage/rig-view';
import { stand } from '@/test/interface';
import { rigAnswer } from '@/test/rigs';
import { paperFigure, paperTraits } from '../../../../motion/test/paper';
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
function Reader({ of, clock, on = target }: { of: OnStage | undefined; clock: Clock; on?: RigAnswer }) {
  now = useLiveMotion(of, on, clock);
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

test('a paper figure is driven in its plane', () => {
  const svg = paperFigure(paperTraits(4, { facing: 'front', language: 'plain', depth: false, nested: false })).svg;
  const { rig, map } = cutoutFromSvg(new TextEncoder().encode(svg));
  const json = { id: 'paper', rig: rigToJson(rig), map: bodyMapToJson(map, asSkeleton(rig)), heightM: 1.7 };
  const of = performer();
  stand(<Reader of={of} clock={new Clock()} on={json as unknown as RigAnswer} />);
  push(of, 0);
  push(of, 1);
  const { turns, frameCount } = now!.show()!;
  expect([frameCount, turns.length]).toEqual([1, 4 * rig.names.length]);
  expect([...turns].every((x, i) => i % 4 > 1 || Math.abs(x) < 1e-6)).toBe(true);
  // arms hang as the performer's do
  const arm = turns.subarray(4 * map.slots.upperArmL!.joint, 4 * map.slots.upperArmL!.joint + 4);
  expect(Math.abs(arm[2]!)).toBeGreaterThan(0.01);
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
