import { beforeEach, expect, jest, test } from '@jest/globals';
import { act, render, waitFor } from '@testing-library/react';
import type { FitWish } from '@/solver/solve-fit';
import type { Solved } from './use-fitting';

/** Solves and measurements that were asked for, to be answered by hand. */
interface Asked {
  wish: FitWish;
  has?: string;
  answer: (value: unknown) => Promise<void>;
  fail: (error: Error) => Promise<void>;
}
const fits: Asked[] = [];
const measures: Asked[] = [];
const asking =
  (list: Asked[]) =>
  (wish: FitWish, has?: string): Promise<unknown> =>
    new Promise((resolve, reject) => {
      list.push({
        wish,
        ...(has !== undefined && { has }),
        answer: (value) => act(async () => resolve(value)),
        fail: (error) => act(async () => reject(error)),
      });
    });
jest.unstable_mockModule('@/client/solver', () => ({
  solver: () => ({ fit: asking(fits), measure: asking(measures) }),
}));
const { useFitting } = await import('./use-fitting');

const wish = (name: string): FitWish => ({ motionHash: name }) as FitWish;
const motions = (name: string, source: unknown = { of: name }) => ({
  source,
  sourceKey: `key ${name}`,
  result: { of: name },
  scale: 1,
  solveMs: 9,
});
const measured = (score: number) => ({ report: { of: score }, score, trails: {} });

const renders: Solved[] = [];
const now = (): Solved => renders.at(-1)!;
const shown = jest.fn(() => Promise.resolve());
function Fitting({ of }: { of: FitWish | undefined }) {
  renders.push(useFitting(of, shown));
  return null;
}
/** A place with its first answer there. */
async function begun() {
  const first = wish('a');
  const place = render(<Fitting of={first} />);
  await fits[0]!.answer(motions('a'));
  await measures[0]!.answer(measured(80));
  expect(now()).toMatchObject({ answer: { score: 80, result: { of: 'a' } }, of: first, busy: false });
  return place;
}
beforeEach(() => {
  fits.length = 0;
  measures.length = 0;
  renders.length = 0;
  shown.mockClear();
});

test('the figure moves first; what was measured on it follows when it has been seen', async () => {
  const { rerender } = await begun();
  const next = wish('b');
  rerender(<Fitting of={next} />);
  expect(fits[1]!.has).toBe('key a');
  // a source that the page has already is not sent again
  await fits[1]!.answer(motions('b', null));
  expect(now()).toMatchObject({ answer: { source: { of: 'a' }, result: { of: 'b' }, score: 80 }, of: undefined });
  await waitFor(() => expect(measures).toHaveLength(2));
  expect(shown).toHaveBeenCalledTimes(1);
  await measures[1]!.answer(measured(91));
  expect(now()).toMatchObject({ answer: { score: 91, report: { of: 91 } }, of: next });
});

test('while one is solved only the newest wish waits', async () => {
  const { rerender } = await begun();
  for (const name of ['b', 'c', 'd']) rerender(<Fitting of={wish(name)} />);
  expect(fits.map((f) => f.wish.motionHash)).toEqual(['a', 'b']);
  await fits[1]!.answer(motions('b'));
  await waitFor(() => expect(fits.map((f) => f.wish.motionHash)).toEqual(['a', 'b', 'd']));
  expect(measures).toHaveLength(1);
});

test('that it is being solved is told only where it takes long', async () => {
  const { rerender } = await begun();
  rerender(<Fitting of={wish('b')} />);
  await fits[1]!.answer(motions('b'));
  await measures[1]!.answer(measured(90));
  expect(renders.some((r) => r.busy)).toBe(false);
  rerender(<Fitting of={wish('c')} />);
  await waitFor(() => expect(now().busy).toBe(true));
  await fits[2]!.answer(motions('c'));
  await measures[2]!.answer(measured(90));
  expect(now().busy).toBe(false);
});

test('a solve that fails is told and the answer before stays; the next wish goes on', async () => {
  const { rerender } = await begun();
  rerender(<Fitting of={wish('b')} />);
  await fits[1]!.fail(new Error('No hips.'));
  expect(now()).toMatchObject({ error: { message: 'No hips.' }, answer: { result: { of: 'a' } }, busy: false });
  rerender(<Fitting of={wish('c')} />);
  await fits[2]!.answer(motions('c'));
  await measures[1]!.answer(measured(70));
  expect(now()).toMatchObject({ error: null, answer: { result: { of: 'c' }, score: 70 } });
});

test('nothing is told to a place that is left', async () => {
  const { unmount, rerender } = await begun();
  rerender(<Fitting of={wish('b')} />);
  const told = renders.length;
  unmount();
  await fits[1]!.answer(motions('b'));
  expect(renders).toHaveLength(told);
  expect(measures).toHaveLength(1);
});
