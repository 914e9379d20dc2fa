import { expect, test } from '@jest/globals';
import { screen, waitFor } from '@testing-library/react';
import { pick, Refused, sentTo, stand, told } from '@/test/interface';
import { personRow } from '@/test/things';
import { ActivityPlace } from './activity-place';

const entry = (seq: number, more: Record<string, unknown> = {}) => ({
  seq,
  groupId: `g${seq}`,
  personId: 'bram',
  personName: 'Bram',
  subject: 'item',
  action: 'edit',
  label: `Did thing ${seq}`,
  at: new Date().toISOString(),
  subjects: [{ id: `i${seq}`, name: `Item ${seq}` }],
  count: 1,
  ...more,
});
const PEOPLE = [personRow(), personRow({ id: 'bram', name: 'Bram' })];
const place = (entries: unknown, more: Record<string, unknown> = {}, role: 'viewer' | 'animator' = 'animator') =>
  stand(<ActivityPlace />, {
    answers: { 'GET /api/v1/activity': entries, 'GET /api/v1/people': PEOPLE, ...more },
    me: { role },
  });

test('what was done stands by day, with who did it and what it was done to', async () => {
  const yesterday = new Date(Date.now() - 86_400_000).toISOString();
  place([
    entry(9, {
      count: 5,
      subjects: [
        { id: 'a', name: 'Haul' },
        { id: 'b', name: 'Walk' },
      ],
    }),
    entry(8, { at: yesterday }),
    entry(7, { at: '2026-01-02T10:00:00Z', label: '', action: 'remove', subjects: [], subject: 'field' }),
  ]);
  expect(await screen.findByText('Today')).toBeInTheDocument();
  expect(screen.getByText('Yesterday')).toBeInTheDocument();
  expect(screen.getByText('2 January 2026')).toBeInTheDocument();
  expect(screen.getByText('Haul, Walk and 3 more')).toBeInTheDocument();
  expect(screen.getByText('remove')).toBeInTheDocument();
  expect(screen.getAllByRole('link', { name: 'show' })[0]).toHaveAttribute('href', '/library?item=a');
});

test('only what can be taken back offers it, and only to whoever may change things', async () => {
  const entries = [entry(3), entry(2, { action: 'destroy' }), entry(1, { subject: 'rig' })];
  const { user, server } = place(entries, { 'POST /api/v1/history/g3/undo': {} });
  const back = await screen.findAllByRole('button', { name: 'Undo this' });
  expect(back).toHaveLength(1);
  await user.click(back[0]!);
  await sentTo(server, 'POST', '/api/v1/history/g3/undo');
  expect(await told('Undid: Did thing 3')).toBeInTheDocument();
  place(entries, {}, 'viewer');
  await screen.findByText('Did thing 3');
  expect(screen.queryByRole('button', { name: 'Undo this' })).toBeNull();
});

test('what cannot be taken back any more says why', async () => {
  const { user } = place([entry(3)], { 'POST /api/v1/history/g3/undo': new Refused(409, 'Ilse changed it since.') });
  await user.click(await screen.findByRole('button', { name: 'Undo this' }));
  expect(await told('Ilse changed it since.')).toBeInTheDocument();
});

test('one person’s doings are shown alone, and the address says whose', async () => {
  const { user, server, address } = place([entry(3)]);
  await screen.findByText('Did thing 3');
  await pick(user, 'By', 'Bram');
  await waitFor(() => expect(server.sent.some((s) => s.path === '/api/v1/activity?person=bram')).toBe(true));
  expect(address().get('who')).toBe('bram');
  await pick(user, 'By', 'everybody');
  await waitFor(() => expect(address().get('who')).toBeNull());
});

test('earlier doings are read on, from where the last ended', async () => {
  const first = Array.from({ length: 60 }, (_, i) => entry(200 - i));
  const { user, server } = place(first, { 'GET /api/v1/activity?before=141': [entry(140)] });
  await user.click(await screen.findByRole('button', { name: 'Earlier' }));
  expect(await screen.findByText('Did thing 140')).toBeInTheDocument();
  expect(screen.queryByRole('button', { name: 'Earlier' })).toBeNull();
  await waitFor(() => expect(server.sent.some((s) => s.path === '/api/v1/activity?before=141')).toBe(true));
});

test('nothing yet, and an activity that cannot be read, are two things', async () => {
  place([]);
  expect(await screen.findByText('Nothing has happened yet')).toBeInTheDocument();
  place(new Refused(500, 'The database is away.'));
  expect(await screen.findByText('The activity could not be loaded')).toBeInTheDocument();
  expect(screen.getByText('The database is away.')).toBeInTheDocument();
});
