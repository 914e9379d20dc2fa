import { describe, expect, jest, test } from '@jest/globals';
import { act, fireEvent, screen } from '@testing-library/react';
import { useLive } from '@/client/live';
import { Clock } from '@/stage/clock';
import { stand } from '@/test/interface';
import { Lane, TimeAxis } from './axis';
import { CurveLine } from './curve';
import { OthersHeads } from './heads';
import { KeyDot } from './key';
import { movedBy, Span } from './span';

/** The name of some gesture. */
const ONE = expect.any(String);

/** A lane of 100 frames that is 500 pixels wide: five pixels a frame. */
function lane(what: React.ReactNode): ReturnType<typeof stand> {
  Object.defineProperty(HTMLElement.prototype, 'clientWidth', { configurable: true, get: () => 500 + 96 + 64 });
  Element.prototype.setPointerCapture ??= () => undefined;
  Element.prototype.hasPointerCapture ??= () => false;
  Element.prototype.getBoundingClientRect = function box(this: Element) {
    const style = (this as HTMLElement).style;
    const left = Number.parseFloat(style?.left || '0');
    const width = Number.parseFloat(style?.width || '500');
    return { left, right: left + width, width, top: 0, bottom: 20, height: 20, x: left, y: 0 } as DOMRect;
  };
  return stand(
    <TimeAxis clock={new Clock()} frames={100}>
      <Lane name="a lane" height={25}>
        {what}
      </Lane>
    </TimeAxis>,
  );
}
const drag = (what: Element, from: number, to: number): void => {
  fireEvent.pointerDown(what, { button: 0, pointerId: 1, clientX: from });
  fireEvent.pointerMove(what, { pointerId: 1, clientX: (from + to) / 2 });
  fireEvent.pointerMove(what, { pointerId: 1, clientX: to });
  fireEvent.pointerUp(what, { pointerId: 1, clientX: to });
  fireEvent.click(what);
};

describe('zooming by the wheel', () => {
  const zoomed = (count: number) => {
    const tell = jest.fn();
    stand(
      <section aria-label="lanes">
        <TimeAxis clock={new Clock()} frames={1000} view={{ start: 0, shown: 500 }} onView={tell}>
          <Lane name="a lane" height={25}>
            {Array.from({ length: count }, (_, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: they stay as they are
              <i key={i} />
            ))}
          </Lane>
          <b data-frame={250} />
        </TimeAxis>
      </section>,
    );
    const box = screen.getByRole('region', { name: 'lanes' });
    const ground = box.querySelector<HTMLElement>('[data-ground]')!;
    return { tell, box, ground, mark: box.querySelector<HTMLElement>('b')! };
  };
  test('lanes of few elements are drawn anew at once', () => {
    const { tell, box, ground } = zoomed(3);
    fireEvent.wheel(box, { deltaY: -40, ctrlKey: true, clientX: 300 });
    expect(tell).toHaveBeenCalledTimes(1);
    expect(ground.style.transform).toBe('');
    fireEvent.wheel(box, { deltaY: -40, clientX: 300 });
    expect(tell).toHaveBeenCalledTimes(1);
  });

  test('of many, they are stretched meanwhile, and drawn when the wheel rests', () => {
    jest.useFakeTimers();
    const { tell, box, ground, mark } = zoomed(400);
    fireEvent.wheel(box, { deltaY: -40, ctrlKey: true, clientX: 96 });
    fireEvent.wheel(box, { deltaY: -40, ctrlKey: true, clientX: 96 });
    expect(tell).not.toHaveBeenCalled();
    expect(ground.style.transform).toMatch(/^translateX\(-?0px\) scaleX\(1\.22\d*\)$/);
    // the lane is a pixel wide here: what stood in its middle goes along, and is not stretched
    expect(mark.style.transform).toMatch(/^translateX\(0\.110\d*px\)$/);
    jest.advanceTimersByTime(150);
    expect(tell).toHaveBeenCalledTimes(1);
    expect((tell.mock.calls[0] as [{ start: number; shown: number }])[0]).toEqual({
      start: 0,
      shown: expect.closeTo(500 * Math.exp(-0.2), 3),
    });
    jest.useRealTimers();
  });

  test('with Shift it goes along, and stays within the lane', () => {
    const { tell, box } = zoomed(3);
    fireEvent.wheel(box, { deltaY: 5000, shiftKey: true });
    expect(tell).toHaveBeenCalledWith({ start: 500, shown: 500 });
  });
});

test('a stretch stays within its lane and keeps a frame', () => {
  const of = { start: 10, end: 19 };
  expect(movedBy(of, -30, 'whole', 100)).toEqual({ start: 0, end: 9 });
  expect(movedBy(of, 200, 'whole', 100)).toEqual({ start: 90, end: 99 });
  expect(movedBy(of, 40, 'start', 100)).toEqual({ start: 19, end: 19 });
  expect(movedBy(of, -40, 'end', 100)).toEqual({ start: 10, end: 10 });
  expect(movedBy(of, 500, 'end', 100)).toEqual({ start: 10, end: 99 });
});

test('a span is dragged whole and by its ends, and told once', () => {
  const change = jest.fn();
  const choose = jest.fn();
  lane(
    <Span
      stretch={{ start: 10, end: 29 }}
      label="held"
      chosen={false}
      look="bg-brass"
      onChoose={choose}
      onChange={change}
    />,
  );
  const bar = screen.getByRole('button', { name: 'held' });
  drag(bar, 100, 150);
  expect(change.mock.calls).toEqual([[{ start: 20, end: 39 }, 'whole']]);
  // it stays where it was let go until the change has come back
  expect(bar.style.left).toBe('100px');
  expect(choose).toHaveBeenCalled();
  fireEvent.pointerDown(bar, { button: 2, pointerId: 1, clientX: 120 });
  fireEvent.pointerMove(bar, { pointerId: 1, clientX: 300 });
  expect(change).toHaveBeenCalledTimes(1);
});

test.each([
  ['start', 52, 27, { start: 5, end: 29 }],
  ['end', 148, 173, { start: 10, end: 34 }],
] as const)('its %s is what is dragged near it', (grip, from, to, stretch) => {
  const change = jest.fn();
  lane(
    <Span stretch={{ start: 10, end: 29 }} label="held" chosen look="" onChoose={() => undefined} onChange={change} />,
  );
  drag(screen.getByRole('button', { name: 'held' }), from, to);
  expect(change.mock.calls).toEqual([[stretch, grip]]);
});

test('a span is moved and removed from the keyboard', async () => {
  const change = jest.fn();
  const remove = jest.fn();
  const { user } = lane(
    <Span
      stretch={{ start: 0, end: 9 }}
      label="held"
      chosen
      look=""
      onChoose={() => undefined}
      onChange={change}
      onRemove={remove}
    />,
  );
  screen.getByRole('button', { name: 'held' }).focus();
  await user.keyboard('{ArrowLeft}{ArrowRight}{Shift>}{ArrowRight}{/Shift}{Delete}');
  // there is nothing to the left of the first frame
  expect(change.mock.calls).toEqual([
    [{ start: 1, end: 10 }, 'whole'],
    [{ start: 0, end: 10 }, 'end'],
  ]);
  expect(remove).toHaveBeenCalledTimes(1);
});

test('a key is pressed, dragged, and moved by the arrow keys', async () => {
  const [choose, move, remove] = [jest.fn(), jest.fn(), jest.fn()];
  const { user } = lane(<KeyDot frame={40} label="key" onChoose={choose} onMove={move} onRemove={remove} />);
  const key = screen.getByRole('button', { name: 'key' });
  drag(key, 200, 203);
  expect([choose.mock.calls.length, move.mock.calls.length]).toEqual([1, 0]);
  drag(key, 200, 250);
  expect(move.mock.calls).toEqual([[50]]);
  expect(choose).toHaveBeenCalledTimes(1);
  drag(key, 200, 9000);
  expect(move).toHaveBeenLastCalledWith(99);
  key.focus();
  await user.keyboard('{ArrowLeft}{Backspace}');
  expect(move).toHaveBeenLastCalledWith(39);
  expect(remove).toHaveBeenCalledTimes(1);
});

test('a curve gets, moves and loses points; one that is dragged stays between its neighbours', async () => {
  const change = jest.fn();
  const points = [
    { frame: 10, value: 0 },
    { frame: 50, value: 1 },
    { frame: 60, value: 0.5 },
  ];
  const { user } = lane(
    <CurveLine
      points={points}
      valueAt={() => 0.5}
      height={30}
      label="how much"
      pointLabel="Weight"
      onChange={change}
    />,
  );
  const line = screen.getByRole('group', { name: 'how much' });
  fireEvent.pointerDown(line, { pointerId: 1, clientX: 102, clientY: 15 });
  expect(change).toHaveBeenLastCalledWith([points[0], { frame: 20, value: 0.5 }, points[1], points[2]], ONE);
  fireEvent.pointerDown(screen.getByRole('slider', { name: 'Weight at frame 51' }), { pointerId: 1 });
  fireEvent.pointerMove(line, { pointerId: 1, clientX: 490, clientY: 5 });
  expect(change).toHaveBeenLastCalledWith([points[0], { frame: 59, value: 1 }, points[2]], ONE);
  fireEvent.pointerUp(line, { pointerId: 1 });
  screen.getByRole('slider', { name: 'Weight at frame 61' }).focus();
  await user.keyboard('{ArrowUp}');
  expect(change).toHaveBeenLastCalledWith([points[0], points[1], { frame: 60, value: 0.55 }], ONE);
  await user.keyboard('{Delete}');
  expect(change).toHaveBeenLastCalledWith([points[0], points[1]], ONE);
});

test('where colleagues stand is drawn over the lanes, theirs alone and only what is in view', () => {
  const here = (clientId: string, personId: string, name: string, frame: number | null, subjectId = 'reel-1') => ({
    clientId,
    personId,
    name,
    frame,
    subjectId,
  });
  act(() =>
    useLive.setState({
      present: [
        here('a', 'bram', 'Bram Okoro', 20),
        here('b', 'ines', 'Ines Vane', 60),
        here('c', 'noor', 'Noor Lind', 5, 'reel-2'),
        here('d', 'teo', 'Teo Marsh', null),
        here('e', 'bram', 'Bram Okoro', 4000),
      ],
    }),
  );
  lane(<OthersHeads subjectId="reel-1" />);
  const heads = screen.getAllByRole('img').map((h) => [h.getAttribute('aria-label'), h.style.left]);
  // five pixels a frame, from the end of the names on; the middle of the frame
  expect(heads).toEqual([
    ['Bram Okoro is at frame 21', `${96 + 102.5}px`],
    ['Ines Vane is at frame 61', `${96 + 302.5}px`],
  ]);
  act(() => useLive.setState({ present: [] }));
  expect(screen.queryAllByRole('img')).toEqual([]);
});
