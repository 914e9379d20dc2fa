import { expect, jest, test } from '@jest/globals';
import { screen } from '@testing-library/react';
import { act } from 'react';
import { stand } from '@/test/interface';
import { useGlobalKeys, useKeys } from './keys';

function keys() {
  const told = jest.fn();
  function Place() {
    useKeys('space', () => told('space'));
    useKeys('s', () => told('s'));
    useKeys('left', () => told('left'));
    useGlobalKeys('mod+z', () => told('undo'));
    return (
      <>
        <input type="range" aria-label="Frame" />
        <input type="checkbox" aria-label="Loop" />
        <input aria-label="Name" />
        <textarea aria-label="Note" />
        <span role="slider" tabIndex={0} aria-label="Point" aria-valuenow={0} />
        <button type="button">Press</button>
      </>
    );
  }
  return { ...stand(<Place />), told };
}
const focus = (label: string): void => act(() => screen.getByLabelText(label).focus());

test('a slider that has just been moved leaves the keys to its place, but for those that move it', async () => {
  const { user, told } = keys();
  for (const label of ['Frame', 'Point']) {
    focus(label);
    await user.keyboard(' s{Control>}z{/Control}{ArrowLeft}');
    expect(told.mock.calls.flat()).toEqual(['space', 's', 'undo']);
    told.mockClear();
  }
});

test('whoever types is not heard', async () => {
  const { user, told } = keys();
  for (const label of ['Name', 'Note']) {
    focus(label);
    await user.keyboard(' s{Control>}z{/Control}');
  }
  expect(told).not.toHaveBeenCalled();
  expect(screen.getByLabelText<HTMLInputElement>('Name').value).toBe(' s');
});

test('a checkbox and a button keep their own Space', async () => {
  const { user, told } = keys();
  focus('Loop');
  await user.keyboard(' ');
  expect(screen.getByLabelText<HTMLInputElement>('Loop').checked).toBe(true);
  act(() => screen.getByRole('button').focus());
  await user.keyboard(' s');
  expect(told.mock.calls.flat()).toEqual(['s']);
});
