import { expect, test } from '@jest/globals';
import { act, renderHook } from '@testing-library/react';
import { useNewest } from './use-newest';

test('while one question runs only the newest of those after it waits', async () => {
  const asked: number[] = [];
  const done: number[] = [];
  const answers: (() => void)[] = [];
  const { result, unmount } = renderHook(() => useNewest());
  const ask = (n: number): void =>
    result.current(
      () => {
        asked.push(n);
        return new Promise<number>((resolve) => answers.push(() => resolve(n)));
      },
      (n) => done.push(n),
      () => undefined,
    );
  for (let n = 1; n <= 30; n++) ask(n);
  await act(async () => answers.shift()!());
  await act(async () => answers.shift()!());
  expect([asked, done]).toEqual([
    [1, 30],
    [1, 30],
  ]);
  // what comes after its component has gone is dropped
  ask(31);
  unmount();
  await act(async () => answers.shift()!());
  expect(done).toEqual([1, 30]);
});

test('a question that fails is told, and does not stop the next', async () => {
  const said: string[] = [];
  const { result } = renderHook(() => useNewest());
  await act(async () =>
    result.current(
      () => Promise.reject(new Error('no')),
      () => undefined,
      (e) => said.push(e.message),
    ),
  );
  await act(async () =>
    result.current(
      async () => 'yes',
      (a) => said.push(a),
      () => undefined,
    ),
  );
  expect(said).toEqual(['no', 'yes']);
});
