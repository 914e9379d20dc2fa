import { expect, jest, test } from '@jest/globals';
import { screen } from '@testing-library/react';
import { pick, Refused, sentTo, stand } from '@/test/interface';
import { item, member } from '@/test/things';
import { AddDrawingsDialog, firstSet } from './add-drawings-dialog';

const own = member({ id: 'own', name: 'Gull Captain', rigId: 'r1', assets: { art: 'a' } as never });
const other = member({ id: 'other', name: 'Second hand', assets: { art: 'b' } as never });
const body = member({ id: 'body', name: 'Ines', assets: {} as never });
const drawing = (part: string, label: string, how: 'same' | 'added' | 'renamed', now = label) => ({
  part,
  from: { part, label },
  label: now,
  how,
});
const REPORT = {
  drawings: [
    drawing('hand L', '1', 'renamed', '1 (2)'),
    drawing('hand L', '2', 'same'),
    drawing('hand L', '3', 'added'),
    drawing('coat', 'plain', 'renamed', 'plain (2)'),
  ],
  unpaired: ['ladle'],
};
const answers = {
  'GET /api/v1/cast': [own, other, body],
  'GET /api/v1/items': { total: 1, items: [item({ id: 'set', name: 'Hands', kind: 'drawings' })], scores: {} },
  'POST /api/v1/cast/own/drawings': (sent: { body: unknown }) => ({
    report: REPORT,
    words: [],
    ...((sent.body as { check?: boolean }).check ? {} : { changed: { undo: { figure: {} } } }),
  }),
};

test('what would happen is told part by part; parts with one drawing are left out unless asked for', async () => {
  const close = jest.fn();
  const { user, server } = stand(<AddDrawingsDialog member={own} onClose={close} />, { answers });
  await pick(user, 'Where the drawings come from', 'Second hand');
  expect(await screen.findByText('1 as 1 (2), 2 is there already, 3')).toBeInTheDocument();
  expect(screen.getByRole('checkbox', { name: /coat/ })).not.toBeChecked();
  expect(screen.getByText(/1 part of that figure has no partner here/)).toBeInTheDocument();
  await user.click(screen.getByRole('button', { name: 'Add 2 drawings' }));
  const sent = server.to('POST', '/api/v1/cast/own/drawings');
  expect(sent.map((s) => s.body)).toEqual([
    { rigId: 'r1', from: 'other', check: true },
    { rigId: 'r1', from: 'other', parts: ['hand L'] },
  ]);
  expect(close).toHaveBeenCalled();
});

test('without another cut-out the first thing to do is said, and a refusal is told', async () => {
  stand(<AddDrawingsDialog member={own} onClose={jest.fn()} />, {
    answers: { 'GET /api/v1/cast': [own, body], 'GET /api/v1/items': { total: 0, items: [], scores: {} } },
  });
  expect(await screen.findByText(/no other cut-out in the cast/)).toBeInTheDocument();
  const { user, server } = stand(<AddDrawingsDialog member={own} onClose={jest.fn()} />, {
    answers: { ...answers, 'POST /api/v1/cast/own/drawings': new Refused(409, 'Someone changed this figure.') },
  });
  await pick(user, 'Where the drawings come from', 'Second hand');
  await sentTo(server, 'POST', '/api/v1/cast/own/drawings');
  expect(await screen.findByText('Someone changed this figure.')).toBeInTheDocument();
});

test('drawings that the library keeps can be chosen from the start', async () => {
  const { user, server } = stand(<AddDrawingsDialog member={own} first={firstSet('set')} onClose={jest.fn()} />, {
    answers,
  });
  expect(await screen.findByRole('combobox', { name: 'Where the drawings come from' })).toHaveTextContent(
    'Hands (drawings)',
  );
  await user.click(await screen.findByRole('button', { name: 'Add 2 drawings' }));
  expect(server.to('POST', '/api/v1/cast/own/drawings').map((s) => s.body)).toEqual([
    { rigId: 'r1', item: 'set', check: true },
    { rigId: 'r1', item: 'set', parts: ['hand L'] },
  ]);
});
