import { expect, jest, test } from '@jest/globals';
import { act, fireEvent, screen } from '@testing-library/react';
import type { CorrectionTrack, LevelKey, ReelMember } from '@velvet-reel/motion';
import { useState } from 'react';
import { TimeAxis } from '@/parts/lanes/axis';
import { Clock } from '@/stage/clock';
import { pick, stand } from '@/test/interface';
import { CurveLane } from './curve-lane';
import { valueAtFrame } from './track-curves';

const hips: CorrectionTrack = {
  handle: 'hips',
  keys: [
    { frame: 10, move: [0, 0, 0], turn: [0, 0, 0, 1] },
    { frame: 30, move: [0, 0.2, 0], turn: [0, 0, 0, 1] },
    { frame: 60, move: [0, 0, 0.1], turn: [0, 0, 0, 1] },
  ],
};
const wrist: CorrectionTrack = { joint: 'RightHand', keys: [{ frame: 5, turn: [0, 0, 0, 1] }] };
const member: ReelMember = {
  id: 'm',
  castId: 'c',
  order: 1,
  muted: false,
  base: [],
  overlays: [],
  keys: [hips, wrist],
};

const smile: readonly LevelKey[] = [
  { frame: 10, value: 0 },
  { frame: 30, value: 0.8 },
  { frame: 50, value: null },
];

/** The lane over 100 frames of 5 pixels, with its keys kept as they are changed. */
function curves(range: { start: number; end: number } | null = null, numbers: ReelMember['numbers'] = undefined) {
  Object.defineProperty(HTMLElement.prototype, 'clientWidth', { configurable: true, get: () => 500 + 148 + 4 });
  Element.prototype.setPointerCapture ??= () => undefined;
  Element.prototype.getBoundingClientRect = () =>
    ({ left: 0, right: 500, width: 500, top: 0, bottom: 163, height: 163, x: 0, y: 0 }) as DOMRect;
  const told = jest.fn();
  const clock = new Clock();
  clock.load(100, 30);
  let now: readonly CorrectionTrack[] = member.keys;
  let last: readonly LevelKey[] | undefined = numbers?.[0]?.keys;
  function Kept() {
    const [keys, setKeys] = useState(member.keys);
    const [lanes, setLanes] = useState(numbers);
    now = keys;
    last = lanes?.[0]?.keys;
    return (
      <TimeAxis clock={clock} frames={100} names={148} ends={4}>
        <CurveLane
          member={{ ...member, keys, numbers: lanes }}
          range={range}
          mayChange
          onChange={(next, label, gesture) => {
            told(label, gesture);
            setKeys(next);
          }}
          onNumber={(name, next, label, gesture) => {
            told(label, gesture);
            setLanes(next.length > 0 ? [{ name, keys: next }] : undefined);
          }}
        />
      </TimeAxis>
    );
  }
  return { ...stand(<Kept />), told, clock, keysOf: (i: number) => now[i]?.keys ?? [], numbers: () => last };
}
const key = (axis: string, frame: number): HTMLElement =>
  screen.getByRole('slider', { name: `${axis} of the hips at frame ${frame}` });

test('every key of a part is there on each of its curves, and axes can be put out of view', async () => {
  const { user } = curves();
  expect(screen.getAllByRole('slider', { name: /^[xyz] of the hips/ })).toHaveLength(9);
  await user.click(screen.getByRole('button', { name: 'x in view' }));
  await user.click(screen.getByRole('button', { name: 'z in view' }));
  expect(screen.getAllByRole('slider', { name: /^[xyz] of the hips/ })).toHaveLength(3);
  expect(key('y', 31)).toHaveAttribute('aria-valuetext', '20.00 cm');
  await user.click(screen.getByRole('button', { name: 'turn' }));
  expect(key('y', 31)).toHaveAttribute('aria-valuetext', '0.00 °');
});

test('another part is chosen by its name, and a joint has turns alone', async () => {
  const { user } = curves();
  await pick(user, 'Curves of', 'RightHand');
  expect(screen.getAllByRole('slider', { name: /of the RightHand at frame 6/ })).toHaveLength(3);
  expect(screen.queryByRole('button', { name: 'move' })).toBeNull();
});

test('a key is dragged in time and value between its neighbours, as one step', () => {
  const { told, keysOf } = curves();
  const dot = key('y', 31);
  fireEvent.pointerDown(dot, { button: 0, pointerId: 1, clientX: 152, clientY: 40 });
  const drawing = screen.getByRole('group', { name: 'Curves of the hips' });
  fireEvent.pointerMove(drawing, { pointerId: 1, clientX: 212, clientY: 81 });
  fireEvent.pointerMove(drawing, { pointerId: 1, clientX: 470, clientY: 81 });
  fireEvent.pointerUp(drawing, { pointerId: 1 });
  fireEvent.pointerMove(drawing, { pointerId: 1, clientX: 20, clientY: 20 });
  // kept before the key at frame 60
  expect(keysOf(0).map((k) => k.frame)).toEqual([10, 59, 60]);
  expect(Math.abs(keysOf(0)[1]!.move![1])).toBeLessThan(0.2);
  expect(keysOf(0)[1]!.move![0]).toBe(0);
  expect(new Set(told.mock.calls.map(([, gesture]) => gesture)).size).toBe(1);
});

test('arrow keys move a key by a frame or a unit, finely with Shift; Delete removes it', async () => {
  const { user, keysOf } = curves();
  act(() => key('y', 31).focus());
  await user.keyboard('{ArrowUp}');
  expect(keysOf(0)[1]!.move![1]).toBeCloseTo(0.21, 6);
  await user.keyboard('{Shift>}{ArrowDown}{/Shift}');
  expect(keysOf(0)[1]!.move![1]).toBeCloseTo(0.209, 6);
  await user.keyboard('{ArrowRight}');
  expect(keysOf(0)[1]!.frame).toBe(31);
  act(() => key('y', 32).focus());
  await user.keyboard('{Delete}');
  expect(keysOf(0).map((k) => k.frame)).toEqual([10, 60]);
});

test('the way to the next key is chosen in words, bent by hand, and numbers are typed', async () => {
  const { user, keysOf } = curves();
  fireEvent.focus(key('y', 11));
  await user.click(screen.getByRole('button', { name: 'straight' }));
  expect(keysOf(0)[0]!.ease).toBe('linear');
  await user.click(screen.getByRole('button', { name: 'hold' }));
  expect(screen.queryByRole('slider', { name: 'Bend after this key' })).toBeNull();
  await user.click(screen.getByRole('button', { name: 'smooth' }));
  const bend = screen.getByRole('slider', { name: 'Bend after this key' });
  act(() => bend.focus());
  await user.keyboard('{ArrowUp}');
  expect(screen.getByText('bent by hand')).toBeInTheDocument();
  expect((keysOf(0)[0]!.ease as readonly number[])[1]).toBeCloseTo(0.05, 6);
  const field = screen.getByLabelText('frame');
  await user.clear(field);
  await user.type(field, '21{Enter}');
  expect(keysOf(0)[0]!.frame).toBe(20);
  await user.click(screen.getByRole('button', { name: 'Remove' }));
  expect(keysOf(0)).toHaveLength(2);
});

test('a key more at the playhead changes no curve; a range of keys is retimed as a group', async () => {
  const { user, clock, keysOf } = curves({ start: 10, end: 30 });
  clock.seekFrame(22);
  const before = valueAtFrame(keysOf(0), { kind: 'move', axis: 1 }, 17.5);
  await user.click(screen.getByRole('button', { name: 'Add a key here' }));
  expect(keysOf(0).map((k) => k.frame)).toEqual([10, 22, 30, 60]);
  expect(valueAtFrame(keysOf(0), { kind: 'move', axis: 1 }, 17.5)).toBeCloseTo(before!, 6);
  const until = screen.getByLabelText('until');
  await user.clear(until);
  await user.type(until, '51{Enter}');
  await user.click(screen.getByRole('button', { name: 'Retime' }));
  expect(keysOf(0).map((k) => k.frame)).toEqual([10, 34, 50, 60]);
});

test('a face shape is a curve of its own: dragged, typed, eased, let go and taken away', async () => {
  const { user, clock, told, numbers } = curves(null, [{ name: 'smile', keys: smile }]);
  await pick(user, 'Curves of', 'smile');
  const at = (frame: number): HTMLElement =>
    screen.getByRole('slider', { name: `value of the smile at frame ${frame}` });
  // the key that lets go has no value, and nothing is drawn behind it
  expect(screen.getAllByRole('slider', { name: /^value of the smile/ })).toHaveLength(2);
  expect(screen.queryByRole('button', { name: /in view/ })).toBeNull();
  const [line] = document.querySelectorAll('svg path[stroke="var(--raspberry)"]');
  expect(line!.getAttribute('d')!.match(/M/g)).toHaveLength(1);
  expect(Math.max(...line!.getAttribute('d')!.split(/[ML]/).slice(1).map(Number.parseFloat))).toBeLessThan(252.6);
  act(() => at(31).focus());
  await user.keyboard('{ArrowUp}{Shift>}{ArrowUp}{/Shift}');
  expect(numbers()![1]!.value).toBeCloseTo(0.811, 6);
  const field = screen.getByLabelText('value');
  await user.clear(field);
  await user.type(field, '0.5{Enter}');
  expect(numbers()![1]!.value).toBe(0.5);
  // nothing passes from it to where the lane lets go
  expect(screen.queryByRole('button', { name: 'smooth' })).toBeNull();
  act(() => at(11).focus());
  expect(screen.getByRole('button', { name: 'straight' })).toHaveAttribute('aria-pressed', 'true');
  await user.click(screen.getByRole('button', { name: 'smooth' }));
  expect(numbers()![0]!.ease).toBe('smooth');
  expect(screen.getByRole('slider', { name: 'Bend after this key' })).toBeInTheDocument();
  // a key more is put on the curve, and none where it is not set
  fireEvent.pointerDown(screen.getByRole('group', { name: 'Curves of the smile' }), { clientX: 100, clientY: 5 });
  clock.seekFrame(20);
  await user.click(screen.getByRole('button', { name: 'Add a key here' }));
  expect(numbers()!.map((k) => [k.frame, k.value === null ? null : Number(k.value.toFixed(6))])).toEqual([
    [10, 0],
    [20, 0.25],
    [30, 0.5],
    [50, null],
  ]);
  clock.seekFrame(70);
  const before = told.mock.calls.length;
  await user.click(screen.getByRole('button', { name: 'Add a key here' }));
  expect(told.mock.calls).toHaveLength(before);
  expect(await screen.findByText(/smile is not set at frame 71/)).toBeInTheDocument();
});
