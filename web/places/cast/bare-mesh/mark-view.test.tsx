import { expect, jest, test } from '@jest/globals';
import { screen } from '@testing-library/react';
import { MARK_SLOTS } from '@velvet-reel/motion';
import { stand } from '@/test/interface';
import { MarkView } from './mark-view';
import { type Marks, markWord } from './use-bare-mesh';

const marks = Object.fromEntries(
  MARK_SLOTS.map((slot, i) => [slot, [0.1 * (i % 3), 0.1 * i, 0.05]]),
) as unknown as Marks;
const sources = Object.fromEntries(
  MARK_SLOTS.map((slot) => [slot, slot === 'handL' ? 'not found' : 'by shape']),
) as never;
const picture = { width: 10, height: 10 } as ImageBitmap;
const view = (from: 'front' | 'side', onMove = jest.fn(), onTurn = jest.fn()) =>
  stand(
    <MarkView
      view={from}
      picture={picture}
      marks={marks}
      sources={sources}
      lit={null}
      onLit={jest.fn()}
      onMove={onMove}
      onTurn={onTurn}
    />,
  );

test('every mark is there under the name of the joint that one would point at', () => {
  view('front');
  for (const slot of MARK_SLOTS)
    expect(screen.getByRole('button', { name: `${markWord(slot)}, from the front` })).toBeInTheDocument();
  expect(markWord('handL')).toBe('wrist L');
  const dot = (name: string) => screen.getByRole('button', { name }).querySelectorAll('circle')[1]!;
  expect(dot('wrist L, from the front')).toHaveClass('fill-raspberry');
  expect(dot('wrist R, from the front')).toHaveClass('fill-terracotta');
});

test('arrow keys move a mark in the plane that is seen, and leave the third way alone', async () => {
  const onMove = jest.fn();
  const { user } = view('side', onMove);
  screen.getByRole('button', { name: 'knee L, from the side' }).focus();
  await user.keyboard('{ArrowRight}{Shift>}{ArrowUp}{/Shift}');
  const [x, y, z] = marks.shinL;
  expect(onMove.mock.calls[0]).toEqual(['shinL', [x, y, expect.closeTo(z + 0.004, 9)], false]);
  expect(onMove.mock.calls[1]).toEqual(['shinL', [x, expect.closeTo(y + 0.02, 9), z], false]);
});

test('a body that stands wrongly is turned in the plane that is seen', async () => {
  const onTurn = jest.fn();
  const { user } = view('side', jest.fn(), onTurn);
  await user.click(screen.getByRole('button', { name: 'Give the body a quarter turn, as seen from the side' }));
  expect(onTurn).toHaveBeenCalledTimes(1);
});

test('a loose part that is pointed out has a frame around it, from either side', () => {
  const part = { low: [-0.1, 0.8, 0.02], high: [0.1, 1, 0.12] } as {
    low: [number, number, number];
    high: [number, number, number];
  };
  const boxes = (['front', 'side'] as const).map((from) => {
    stand(
      <MarkView
        view={from}
        picture={picture}
        marks={marks}
        sources={sources}
        lit={null}
        part={part}
        onLit={jest.fn()}
        onMove={jest.fn()}
        onTurn={jest.fn()}
      />,
    );
    const box = document.querySelector('rect[data-part]')!;
    return ['width', 'height'].map((k) => Number(box.getAttribute(k)));
  });
  expect(boxes).toEqual([
    [expect.closeTo(0.2 * 450 + 6, 6), expect.closeTo(0.2 * 450 + 6, 6)],
    [expect.closeTo(0.1 * 450 + 6, 6), expect.closeTo(0.2 * 450 + 6, 6)],
  ]);
});
