import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { act, screen, waitFor } from '@testing-library/react';
import { stand } from '../test/interface';
import { item, member } from '../test/things';
import { Opening, useOpening } from './opening';

beforeEach(() => localStorage.clear());
afterEach(() => act(() => useOpening.setState({ step: null })));
Element.prototype.getBoundingClientRect = () =>
  ({ x: 10, y: 10, width: 100, height: 50, left: 10, top: 10, right: 110, bottom: 60 }) as DOMRect;

const place = (
  <>
    <div role="listbox">
      <div role="option" aria-selected={false} tabIndex={-1}>
        Deck walk
      </div>
    </div>
    <section aria-label="Stage" />
    <section aria-label="Trouble lanes" />
    <Opening />
  </>
);
function open(world: 'demo' | 'own') {
  const stood = stand(place, {
    answers: {
      'GET /api/v1/items': { items: [item({ id: 'crate', name: 'Crate lift and carry' })], found: 1, total: 1 },
      'GET /api/v1/cast': [member({ id: 'tove', name: 'Big Tove' })],
    },
  });
  act(() => stood.client.setQueryData(['me'], (door: object) => ({ ...door, world })));
  return stood;
}

test('the demo world shows three steps once: a strip, another body, what is wrong', async () => {
  const { user, router } = open('demo');
  expect(await screen.findByRole('heading', { name: 'Read a strip' })).toBeInTheDocument();
  await waitFor(() => expect(screen.getByText('First steps, 1 of 3')).toBeInTheDocument());
  await user.click(screen.getByRole('button', { name: 'Put one on Big Tove' }));
  expect(router.push).toHaveBeenCalledWith('/fitting?item=crate&cast=tove');
  expect(await screen.findByRole('heading', { name: 'Put it on somebody else' })).toBeInTheDocument();
  await user.click(screen.getByRole('button', { name: 'Next' }));
  await user.click(await screen.findByRole('button', { name: 'Done' }));
  expect(screen.queryByText(/First steps/)).toBeNull();
  open('demo');
  expect(screen.queryByText(/First steps/)).toBeNull();
});

test('it can be skipped, and found again; a library of one’s own is not talked into', async () => {
  const { user } = open('demo');
  await user.click(await screen.findByRole('button', { name: 'Skip' }));
  expect(screen.queryByText(/First steps/)).toBeNull();
  act(() => useOpening.getState().go(0));
  expect(await screen.findByText('First steps, 1 of 3')).toBeInTheDocument();
  act(() => useOpening.getState().go(null));
  localStorage.clear();
  open('own');
  expect(screen.queryByText(/First steps/)).toBeNull();
});
