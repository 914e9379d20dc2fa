import { afterEach, expect, test } from '@jest/globals';
import { act, render, screen } from '@testing-library/react';
import { Filming, useFilms } from './filming';

afterEach(() => act(() => useFilms.setState({ queue: [] })));

const film = (name: string) =>
  act(() =>
    useFilms.getState().add((onEnd) => (
      <button type="button" onClick={onEnd}>
        {name}
      </button>
    )),
  );

test('films are made one after the other, in the order in which they were asked for', () => {
  render(<Filming />);
  film('first');
  film('second');
  expect(screen.getAllByRole('button').map((b) => b.textContent)).toEqual(['first']);
  act(() => screen.getByText('first').click());
  expect(screen.getAllByRole('button').map((b) => b.textContent)).toEqual(['second']);
  act(() => screen.getByText('second').click());
  expect(screen.queryByRole('button')).toBeNull();
});

test('a page with a film in the making is not closed without a question', () => {
  render(<Filming />);
  const leave = (): boolean => window.dispatchEvent(new Event('beforeunload', { cancelable: true }));
  expect(leave()).toBe(true);
  film('one');
  expect(leave()).toBe(false);
  act(() => screen.getByText('one').click());
  expect(leave()).toBe(true);
});
