import { beforeAll, beforeEach, expect, jest, test } from '@jest/globals';
import { act, fireEvent, screen, waitFor } from '@testing-library/react';
import type { FittingEdits, Plant, Report, SwapReport } from '@velvet-reel/motion';
import { useState } from 'react';
import { type Held, withKey } from '@/parts/held';
import { Clock } from '@/stage/clock';
import { pick, stand } from '@/test/interface';
import { GoalsPane } from './goals-pane';
import { HandPane } from './hand-pane';
import { PlantsPane } from './plants-pane';
import { SwapPane } from './swap-pane';
import { TroublePane } from './trouble-pane';

const FRAMES = 60;
/** Lanes of 600 pixels: ten to a frame. */
const PX = 10;
beforeAll(() => {
  Object.defineProperty(HTMLElement.prototype, 'clientWidth', { get: () => FRAMES * PX + 96 + 64 });
  Element.prototype.getBoundingClientRect = function box(this: Element) {
    const { left, width } = (this as HTMLElement).style;
    const [x, w] = [Number.parseFloat(left) || 0, Number.parseFloat(width) || 0];
    return { left: x, right: x + w, width: w, top: 0, bottom: 41, height: 41, x, y: 0 } as DOMRect;
  };
});

let clock: Clock;
beforeEach(() => {
  clock = new Clock();
  clock.load(FRAMES, 30);
  clock.setPlaying(false);
});

const NONE: FittingEdits = { frames: FRAMES, plants: null, goals: [], looks: [], corrections: [] };
const steps: string[] = [];
let now: FittingEdits;

/** Keeps the edits as the place does, and what every step was called. */
function Kept({ first, children }: { first: FittingEdits; children: (e: FittingEdits, set: Set) => React.ReactNode }) {
  const [edits, setEdits] = useState(first);
  now = edits;
  return children(edits, (next, label) => {
    steps.push(label);
    setEdits(next);
  });
}
type Set = (edits: FittingEdits, label: string) => void;
beforeEach(() => void steps.splice(0));
/** Moves the pointer over something, by places in the lane. */
const drag = (what: Element, from: number, to: number): void => {
  fireEvent.pointerDown(what, { clientX: from, clientY: 20, button: 0, pointerId: 1 });
  fireEvent.pointerMove(what, { clientX: to, clientY: 20, pointerId: 1 });
  fireEvent.pointerUp(what, { clientX: to, clientY: 20, pointerId: 1 });
};

const FOUND: Plant[] = [
  { part: 'heelL', start: 0, end: 9 },
  { part: 'heelL', start: 30, end: 39 },
  { part: 'ballR', start: 12, end: 20 },
];

function plants(first = NONE, held = true) {
  return stand(
    <Kept first={first}>
      {(edits, set) => (
        <PlantsPane
          clock={clock}
          frames={FRAMES}
          fps={30}
          plants={edits.plants ?? FOUND}
          edits={edits}
          held={held}
          spotAt={() => [0.12345, -0.5]}
          onChange={set}
        />
      )}
    </Kept>,
  );
}
const bar = (name: string): HTMLElement => screen.getByRole('button', { name: new RegExp(`^${name}`) });
const own = (part: string): string[] =>
  (now.plants ?? []).filter((p) => p.part === part).map((p) => `${p.start}-${p.end}`);

test('found plants stand on their lanes and are untouched until the first is moved', () => {
  plants();
  expect(screen.getByText(/^3 found/)).toBeInTheDocument();
  expect(bar('heel L held from frame 31 to 40').style.left).toBe('300px');
  drag(bar('heel L held from frame 31 to 40'), 350, 400);
  expect(own('heelL')).toEqual(['0-9', '35-44']);
  expect(own('ballR')).toEqual(['12-20']);
  expect(steps).toEqual(['Moved a plant']);
  expect(screen.getByText('3 set by hand')).toBeInTheDocument();
});

test('an end is dragged alone and never past the other', () => {
  plants();
  drag(bar('heel L held from frame 31 to 40'), 302, 262);
  expect(own('heelL')).toEqual(['0-9', '26-39']);
  drag(bar('heel L held from frame 27 to 40'), 398, 100);
  expect(own('heelL')).toEqual(['0-9', '26-26']);
  expect(steps).toEqual(['Changed when a plant begins', 'Changed when a plant ends']);
});

test('a plant that is moved into another is one with it', () => {
  plants();
  drag(bar('heel L held from frame 31 to 40'), 350, 120);
  expect(own('heelL')).toEqual(['0-16']);
});

test('a press without a move changes nothing but what is chosen', () => {
  plants();
  drag(bar('heel L held from frame 1 to 10'), 50, 50);
  expect(steps).toEqual([]);
  expect(bar('heel L held from frame 1 to 10')).toHaveAttribute('aria-pressed', 'true');
  expect(screen.getByLabelText('From frame')).toHaveValue(1);
});

test('keys move a plant, its ends, and take it away', () => {
  plants();
  const it = bar('heel L held from frame 31 to 40');
  fireEvent.keyDown(it, { key: 'ArrowRight' });
  expect(own('heelL')[1]).toBe('31-40');
  fireEvent.keyDown(bar('heel L held from frame 32 to 41'), { key: 'ArrowRight', shiftKey: true });
  expect(own('heelL')[1]).toBe('31-41');
  fireEvent.keyDown(bar('heel L held from frame 32 to 42'), { key: 'ArrowLeft', altKey: true });
  expect(own('heelL')[1]).toBe('30-41');
  fireEvent.keyDown(bar('heel L held from frame 31 to 42'), { key: 'Delete' });
  expect(own('heelL')).toEqual(['0-9']);
  expect(steps.at(-1)).toBe('Removed a plant of the heel L');
});

test('nothing leaves the motion, whichever way it is pushed', () => {
  plants();
  drag(bar('heel L held from frame 1 to 10'), 50, -400);
  expect(steps).toEqual([]);
  drag(bar('heel L held from frame 31 to 40'), 350, 5000);
  expect(own('heelL')[1]).toBe('50-59');
});

test('a plant is added by a double click on its lane, or at this frame by its button', () => {
  plants();
  fireEvent.doubleClick(screen.getByTestId('plants-ballL'), { clientX: 205 });
  expect(own('ballL')).toEqual(['20-28']);
  act(() => clock.seekFrame(58));
  fireEvent.keyDown(bar('ball L held from frame 21 to 29'), { key: 'Delete' });
  fireEvent.click(screen.getByRole('button', { name: 'heel R' }));
  expect(own('heelR')).toEqual(['58-59']);
});

test('a plant is made the other end of the foot, pinned to its spot, moved there, and let go', async () => {
  const { user } = plants();
  await user.click(bar('heel L held from frame 1 to 10'));
  await user.click(screen.getByRole('button', { name: 'Pin to its spot' }));
  expect(now.plants!.find((p) => p.pin)?.pin).toEqual([0.123, -0.5]);
  const x = screen.getByLabelText('Spot x, metres');
  await user.clear(x);
  await user.type(x, '0.4{Enter}');
  expect(now.plants!.find((p) => p.pin)?.pin).toEqual([0.4, -0.5]);
  expect(bar('heel L held from frame 1 to 10, pinned')).toBeInTheDocument();
  await user.click(screen.getByRole('button', { name: 'Let the motion set the spot' }));
  expect(now.plants!.some((p) => p.pin)).toBe(false);
  await user.click(screen.getByRole('button', { name: 'Make it the ball' }));
  expect(own('ballL')).toEqual(['0-9']);
  expect(own('heelL')).toEqual(['30-39']);
});

test('frames are told from 1 and kept within the motion', async () => {
  const { user } = plants();
  await user.click(bar('heel L held from frame 31 to 40'));
  const end = screen.getByLabelText('to frame');
  await user.clear(end);
  await user.type(end, '999{Enter}');
  expect(own('heelL')).toEqual(['0-9', '30-59']);
});

test('those that were found come back as one step', async () => {
  const { user } = plants({ ...NONE, plants: [{ part: 'heelL', start: 3, end: 5 }] });
  expect(screen.getByText('1 set by hand')).toBeInTheDocument();
  await user.click(screen.getByRole('button', { name: 'Back to plants as found' }));
  expect(now.plants).toBeNull();
  expect(screen.getByText(/^3 found/)).toBeInTheDocument();
});

test('plants that are not held say how they would be', () => {
  plants(NONE, false);
  expect(screen.getByText(/Plants are not held/)).toBeInTheDocument();
});

function goals(first = NONE) {
  return stand(
    <Kept first={first}>
      {(edits, set) => (
        <GoalsPane clock={clock} frames={FRAMES} edits={edits} placeNow={() => [0.12345, 1.5, 0.25]} onChange={set} />
      )}
    </Kept>,
  );
}

test('a hand goal is added, set to keep a spot where the hand is, and taken away', async () => {
  const { user } = goals();
  expect(screen.getByText(/Hands and head follow the source/)).toBeInTheDocument();
  await user.click(screen.getByRole('button', { name: 'Hand goal' }));
  await pick(user, 'What it keeps', 'a point in the world');
  expect(now.goals[0]).toMatchObject({ hand: 'L', keep: 'point', point: [0.123, 1.5, 0.25] });
  const y = screen.getByLabelText('Spot y, metres');
  await user.clear(y);
  await user.type(y, '0.9{Enter}');
  expect(now.goals[0]!.point).toEqual([0.123, 0.9, 0.25]);
  await pick(user, 'What it keeps', 'its place relative to the head');
  expect(now.goals[0]!.point).toBeUndefined();
  await user.click(screen.getByRole('button', { name: 'Remove this goal' }));
  expect(now.goals).toEqual([]);
  expect(steps.at(-1)).toBe('Removed a hand goal');
});

test('the importance of a goal becomes a curve around now, whose keys are moved by key and by drag', async () => {
  act(() => clock.seekFrame(30));
  const { user } = goals({ ...NONE, goals: [{ hand: 'L', keep: 'hips', weight: 1 }] });
  await pick(user, 'When it counts', 'along a curve');
  const keys = () => (now.goals[0]!.weight as { frame: number; weight: number }[]).map((k) => [k.frame, k.weight]);
  expect(keys()).toEqual([
    [14, 0],
    [22, 1],
    [38, 1],
    [46, 0],
  ]);
  fireEvent.keyDown(screen.getByRole('slider', { name: 'Importance at frame 39' }), { key: 'ArrowDown' });
  expect(keys()[2]).toEqual([38, 0.95]);
  fireEvent.keyDown(screen.getByRole('slider', { name: 'Importance at frame 39' }), { key: 'ArrowRight' });
  expect(keys()[2]).toEqual([39, 0.95]);
  fireEvent.keyDown(screen.getByRole('slider', { name: 'Importance at frame 47' }), { key: 'Delete' });
  expect(keys()).toHaveLength(3);
});

test('a key that is dragged beyond its neighbours stops at them and stays the one in hand', () => {
  goals({
    ...NONE,
    goals: [
      {
        hand: 'L',
        keep: 'hips',
        weight: [
          { frame: 10, weight: 0 },
          { frame: 20, weight: 1 },
          { frame: 30, weight: 0 },
        ],
      },
    ],
  });
  const curve = screen.getByRole('group', { name: 'How much the goal counts over time' });
  fireEvent.pointerDown(screen.getByRole('slider', { name: 'Importance at frame 21' }), { clientX: 205, clientY: 5 });
  fireEvent.pointerMove(curve, { clientX: 455, clientY: 5 });
  fireEvent.pointerMove(curve, { clientX: 25, clientY: 36 });
  fireEvent.pointerUp(curve);
  fireEvent.pointerMove(curve, { clientX: 555, clientY: 5 });
  expect(now.goals[0]!.weight).toEqual([
    { frame: 10, weight: 0 },
    { frame: 11, weight: 0 },
    { frame: 30, weight: 0 },
  ]);
});

test('the head looks at a point before it, all the time or by a curve', async () => {
  const { user } = goals();
  await user.click(screen.getByRole('button', { name: 'Head looks at a point' }));
  expect(now.looks).toEqual([{ point: [0.123, 1.5, 1.75], weight: 1 }]);
  await pick(user, 'When the look counts', 'along a curve');
  expect(Array.isArray(now.looks[0]!.weight)).toBe(true);
  await user.click(screen.getByRole('button', { name: 'Remove this look' }));
  expect(now.looks).toEqual([]);
});

const KEY = { move: [0.1, 0, 0] as const, turn: [0, 0, 0, 1] as const };

test('keys of a correction are set, replaced and taken away, and an empty track is none', () => {
  const hips = { handle: 'hips' } as const;
  const one = withKey([], hips, 10, KEY as never);
  const two = withKey(one, hips, 4, KEY as never);
  expect(two[0]!.keys.map((k) => k.frame)).toEqual([4, 10]);
  expect(withKey(two, hips, 4, { ...KEY, move: [1, 0, 0] } as never)[0]!.keys[0]!.move).toEqual([1, 0, 0]);
  expect(withKey(withKey(two, hips, 4, undefined), hips, 10, undefined)).toEqual([]);
  const both = withKey(two, { joint: 'Head' }, 1, KEY as never);
  expect(both).toHaveLength(2);
  expect(withKey(both, { handle: 'head' }, 1, undefined)).toHaveLength(2);
});

function hand(first = NONE, heldFirst: Held | null = null) {
  function Holding() {
    const [held, setHeld] = useState(heldFirst);
    const [mode, setMode] = useState<'move' | 'turn'>('move');
    return (
      <Kept first={first}>
        {(edits, set) => (
          <HandPane
            clock={clock}
            frames={FRAMES}
            fps={30}
            edits={edits}
            joints={['Hips', 'Head']}
            held={held}
            mode={mode}
            onHold={setHeld}
            onMode={setMode}
            onChange={set}
          />
        )}
      </Kept>
    );
  }
  return stand(<Holding />);
}
const PULLED: FittingEdits = { ...NONE, corrections: [{ handle: 'handL', keys: [{ ...KEY, frame: 20 }] } as never] };

test('a part is taken in hand and put down again; a joint can only be turned', async () => {
  const { user } = hand();
  await user.click(screen.getByRole('button', { name: 'left hand' }));
  expect(screen.getByText(/Drag the left hand in the stage/)).toBeInTheDocument();
  await user.click(screen.getByRole('button', { name: 'left hand' }));
  expect(screen.getByText(/Choose a part and drag it/)).toBeInTheDocument();
  await pick(user, 'A single joint', 'Head');
  expect(screen.getByRole('button', { name: 'Move it' })).toBeDisabled();
});

test('one key counts for the whole motion until it is kept to a stretch', async () => {
  const { user } = hand(PULLED, { handle: 'handL' });
  expect(screen.getByText('1 key, which applies to the whole motion.')).toBeInTheDocument();
  act(() => clock.seekFrame(20));
  await user.click(screen.getByRole('button', { name: 'Only around this frame' }));
  expect(now.corrections[0]!.keys.map((k) => [k.frame, k.move?.[0]])).toEqual([
    [12, 0],
    [20, 0.1],
    [28, 0],
  ]);
  expect(screen.queryByRole('button', { name: 'Only around this frame' })).toBeNull();
});

test('keys are moved by drag and by key, never onto another, and go with Delete', () => {
  hand({
    ...NONE,
    corrections: [
      {
        handle: 'handL',
        keys: [
          { ...KEY, frame: 20 },
          { ...KEY, frame: 22 },
        ],
      } as never,
    ],
  });
  const at = (f: number) => screen.getByRole('button', { name: `Key of the left hand at frame ${f}` });
  fireEvent.keyDown(at(21), { key: 'ArrowRight' });
  fireEvent.keyDown(at(22), { key: 'ArrowRight' });
  expect(now.corrections[0]!.keys.map((k) => k.frame)).toEqual([21, 22]);
  drag(at(22), 215, 405);
  expect(now.corrections[0]!.keys.map((k) => k.frame)).toEqual([22, 40]);
  fireEvent.keyDown(at(41), { key: 'Delete' });
  fireEvent.keyDown(at(23), { key: 'Backspace' });
  expect(now.corrections).toEqual([]);
});

test('how a key passes into the next is set on the key in force, and all of a part goes at once', async () => {
  const { user } = hand(PULLED, { handle: 'handL' });
  act(() => clock.seekFrame(33));
  await pick(user, 'Easing to the next key', 'holds until the next');
  expect(now.corrections[0]!.keys).toEqual([{ ...KEY, frame: 20, ease: 'step' }]);
  await user.click(screen.getByRole('button', { name: 'Remove all corrections of the left hand' }));
  expect(now.corrections).toEqual([]);
});

const lane = (name: string, most: number) => ({
  name,
  unit: 'cm',
  limit: 1,
  values: Float32Array.from({ length: FRAMES }, (_, f) => (f === 40 ? most : 0)),
});
const REPORT = {
  frames: FRAMES,
  lanes: [lane('slip L', 3), lane('slip R', 0)],
  troubles: [
    { kind: 'slip', text: 'The left sole slips 3.0 cm.', frame: 40, joint: 'LeftFoot', size: 3 },
    { kind: 'map', text: 'The map lacks a head.', frame: 0, joint: null, size: 1 },
  ],
  warnings: ['No toes: soles end at the ball.'],
} as unknown as Report;
const trouble = (report: Report | undefined, point = jest.fn()) =>
  stand(
    <TroublePane
      report={report}
      clock={clock}
      wish={undefined}
      previewing={null}
      onPointJoint={point}
      onPreview={() => undefined}
      onTake={() => undefined}
    />,
  );

test('a fault leads to its frame and joint; what the map is to blame for has no offer', async () => {
  const point = jest.fn();
  const { user } = trouble(REPORT, point);
  await user.click(
    screen.getByRole('button', { name: /^trouble The left sole slips|The left sole slips 3\.0 cm\.frame 41/ }),
  );
  expect(clock.frame).toBe(40);
  expect(point).toHaveBeenCalledWith('LeftFoot');
  expect(screen.getByRole('button', { name: 'Mend: The left sole slips 3.0 cm.' })).toBeInTheDocument();
  expect(screen.queryByRole('button', { name: 'Mend: The map lacks a head.' })).toBeNull();
  expect(screen.getByText('No toes: soles end at the ball.')).toBeInTheDocument();
});

test('lanes with nothing in them are put away until they are wanted; Enter goes to the worst frame', async () => {
  const { user } = trouble(REPORT);
  expect(screen.queryByText('slip R')).toBeNull();
  await user.click(screen.getByRole('button', { name: '1 empty lanes; show them' }));
  expect(screen.getByText('slip R')).toBeInTheDocument();
  const worst = screen.getByRole('slider', { name: /^slip L, at most 3\.0 cm/ });
  fireEvent.keyDown(worst, { key: 'Enter' });
  expect(clock.frame).toBe(40);
  fireEvent.pointerDown(worst, { clientX: 125 });
  expect(clock.frame).toBe(12);
});

test('a clean report and one that is still measured say so', async () => {
  trouble({ ...REPORT, troubles: [], warnings: [] });
  expect(screen.getByText('Everything measured is within bounds.')).toBeInTheDocument();
  trouble(undefined);
  await waitFor(() => expect(screen.getByText('Measuring …')).toBeInTheDocument());
});

test('a key off its joint is shown where it stands, and one says what becomes of it', () => {
  const swap: SwapReport = {
    pairs: [{ from: 'head', to: 'head', by: 'map' }],
    unpaired: { from: ['lantern'], to: [] },
    corrections: [{ joint: 'forearm R', frame: 14, off: 0.008 }],
    breaks: [{ joint: 'head', frame: 31, off: 0.06 }],
    missing: [],
    plants: [],
    airborne: [],
    unlike: [],
    scale: 0.9,
  };
  stand(
    <Kept first={NONE}>
      {(edits, set) => (
        <SwapPane
          clock={clock}
          frames={FRAMES}
          swap={swap}
          keyed={{ before: true, after: false }}
          edits={edits}
          onChange={set}
        />
      )}
    </Kept>,
  );
  expect(screen.getByText(/left out: lantern/)).toBeTruthy();
  expect(screen.getByText(/^Tuning other than speed/)).toBeTruthy();
  const key = screen.getByRole('button', { name: 'head at frame 32, on purpose' });
  fireEvent.click(key);
  expect(clock.frame).toBe(31);
  expect(screen.getByText('head at frame 32, 6.0 % of the height off')).toBeTruthy();
  fireEvent.click(screen.getByRole('button', { name: 'Closed a gap' }));
  expect(now.offKeys).toEqual([{ joint: 'head', frame: 31, meant: false }]);
  expect(steps).toEqual(['Closed the gap of head at frame 32']);
  // said twice it counts once, and it can be left to be found out again
  fireEvent.click(screen.getByRole('button', { name: 'On purpose' }));
  expect(now.offKeys).toEqual([{ joint: 'head', frame: 31, meant: true }]);
  fireEvent.click(screen.getByRole('button', { name: 'As found' }));
  expect(now.offKeys).toEqual([]);
});
