import { expect, jest, test } from '@jest/globals';
import { act, screen, waitFor, within } from '@testing-library/react';
import { useConflict } from '../client/conflict';
import { useHand } from '../client/hand';
import { useEdit } from '../client/queries';
import { useUndo } from '../client/undo';
import { Refused, sentTo, stand, told } from '../test/interface';
import { item, job, member } from '../test/things';
import { AccountMenu } from './account-menu';
import { ConflictDialog } from './conflict-dialog';
import { HelpSheet } from './help-sheet';
import { JobsChip } from './jobs-chip';
import { Palette } from './palette';
import { PasswordDialog } from './password-dialog';
import { Tray } from './tray';
import { useUndoLast } from './use-undo-last';

const LIST = { items: [item({ id: 'haul', name: 'Tarred rope haul', tags: ['rope'] })], found: 1, total: 1 };

function Editor() {
  const edit = useEdit();
  const { undo, redo } = useUndoLast();
  return (
    <>
      <button
        type="button"
        onClick={() =>
          edit.mutate({ edits: [{ id: 'haul', change: { name: 'Rope', rating: 3 } }], label: 'Renamed to Rope' })
        }
      >
        rename
      </button>
      <button type="button" onClick={() => void undo()}>
        undo
      </button>
      <button type="button" onClick={() => void redo()}>
        redo
      </button>
      <ConflictDialog />
    </>
  );
}

test('an edit is a step that is taken back by its group', async () => {
  const { user, server } = stand(<Editor />, {
    answers: { 'PATCH /api/v1/items': { group: 'g7', changed: 1 }, 'POST /api/v1/history/g7/undo': { group: 'g8' } },
  });
  await user.click(screen.getByText('rename'));
  await waitFor(() => expect(useUndo.getState().steps).toHaveLength(1));
  await user.click(screen.getByText('undo'));
  expect(await told('Undone: Renamed to Rope')).toBeInTheDocument();
  expect(server.to('POST', '/api/v1/history/g7/undo')).toHaveLength(1);
  expect(useUndo.getState().steps).toHaveLength(0);
  // taking back what took it back does it again
  server.answer({ 'POST /api/v1/history/g8/undo': { group: 'g9' }, 'POST /api/v1/history/g9/undo': { group: 'g10' } });
  await user.click(screen.getByText('redo'));
  expect(await told('Redone: Renamed to Rope')).toBeInTheDocument();
  await user.click(screen.getByText('undo'));
  await waitFor(() => expect(server.to('POST', '/api/v1/history/g9/undo')).toHaveLength(1));
});

test('two quick presses take back two steps in order; something new leaves nothing to do again', async () => {
  const done: string[] = [];
  const { user } = stand(<Editor />);
  for (const label of ['first', 'second', 'third'])
    act(() =>
      useUndo.getState().push({ label, undo: async () => void done.push(`-${label}`), redo: () => done.push(label) }),
    );
  await act(async () => {
    screen.getByText('undo').click();
    screen.getByText('undo').click();
  });
  await waitFor(() => expect(done).toEqual(['-third', '-second']));
  await user.click(screen.getByText('redo'));
  await waitFor(() => expect(done).toEqual(['-third', '-second', 'second']));
  act(() => useUndo.getState().push({ label: 'new', undo: () => undefined }));
  expect(useUndo.getState().undone).toEqual([]);
});

test('an edit that changed nothing is no step, and what cannot be undone says why', async () => {
  const { user, server } = stand(<Editor />, { answers: { 'PATCH /api/v1/items': { group: 'g', changed: 0 } } });
  await user.click(screen.getByText('rename'));
  await sentTo(server, 'PATCH', '/api/v1/items');
  expect(useUndo.getState().steps).toHaveLength(0);
  server.answer({
    'PATCH /api/v1/items': { group: 'g9', changed: 1 },
    'POST /api/v1/history/g9/undo': new Refused(409, 'Bram changed it since.'),
  });
  await user.click(screen.getByText('rename'));
  await waitFor(() => expect(useUndo.getState().steps).toHaveLength(1));
  await user.click(screen.getByText('undo'));
  expect(await told('That could not be undone: Bram changed it since.')).toBeInTheDocument();
  // and stays a step that can be tried again
  expect(useUndo.getState().steps.map((s) => s.label)).toEqual(['Renamed to Rope']);
});

test('a refused edit is told and makes no step', async () => {
  const { user } = stand(<Editor />, {
    answers: { 'PATCH /api/v1/items': new Refused(403, 'Only librarians change this folder.') },
  });
  await user.click(screen.getByText('rename'));
  expect(await told('Only librarians change this folder.')).toBeInTheDocument();
  expect(useUndo.getState().steps).toHaveLength(0);
});

const CONFLICT = new Refused(409, 'Changed meanwhile.', {
  code: 'changed-meanwhile',
  details: { conflicts: [{ id: 'haul', name: 'Tarred rope haul', field: 'name', theirs: 'Hauling', yours: 'Rope' }] },
});

test('a conflict shows both versions; keeping theirs writes the rest of mine', async () => {
  const { user, server } = stand(<Editor />, { answers: { 'PATCH /api/v1/items': CONFLICT } });
  await user.click(screen.getByText('rename'));
  const dialog = await screen.findByRole('dialog', { name: 'Somebody else changed this in the meantime' });
  expect(within(dialog).getByText('Hauling')).toBeInTheDocument();
  expect(within(dialog).getByText('Rope')).toBeInTheDocument();
  server.answer({ 'PATCH /api/v1/items': { group: 'g', changed: 1 } });
  await user.click(within(dialog).getByRole('button', { name: 'Keep theirs' }));
  await waitFor(() => expect(server.to('PATCH', '/api/v1/items')).toHaveLength(2));
  expect(server.to('PATCH', '/api/v1/items')[1]!.body).toMatchObject({
    edits: [{ id: 'haul', change: { rating: 3 } }],
  });
  expect(useConflict.getState().open).toBeNull();
});

test('a conflict that is decided for mine writes all of it without asking what was expected', async () => {
  const { user, server } = stand(<Editor />, { answers: { 'PATCH /api/v1/items': CONFLICT } });
  await user.click(screen.getByText('rename'));
  server.answer({ 'PATCH /api/v1/items': { group: 'g', changed: 1 } });
  await user.click(await screen.findByRole('button', { name: 'Save mine' }));
  await waitFor(() => expect(server.to('PATCH', '/api/v1/items')).toHaveLength(2));
  expect(server.to('PATCH', '/api/v1/items')[1]!.body).toEqual({
    edits: [{ id: 'haul', change: { name: 'Rope', rating: 3 } }],
    label: 'Renamed to Rope',
  });
});

test('a conflict that is closed writes nothing', async () => {
  const { user, server } = stand(<Editor />, { answers: { 'PATCH /api/v1/items': CONFLICT } });
  await user.click(screen.getByText('rename'));
  await screen.findByRole('dialog');
  await user.keyboard('{Escape}');
  await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull());
  expect(server.to('PATCH', '/api/v1/items')).toHaveLength(1);
});

test('the tray names the performer, holds what was picked up, and offers the last step', async () => {
  act(() => useHand.setState({ items: [{ id: 'haul', name: 'Tarred rope haul', about: 'clip, 3.5 s' }] }));
  const undo = jest.fn(async () => undefined);
  const redo = jest.fn(async () => undefined);
  const { user } = stand(<Tray onUndo={undo} onRedo={redo} />, {
    me: { performerId: 'winch' },
    answers: {
      'GET /api/v1/cast': [member(), member({ id: 'pip', name: 'Pip', heightM: 0.9 })],
      'PATCH /api/v1/me': {},
    },
  });
  expect(await screen.findByText('Winch')).toBeInTheDocument();
  expect(screen.getByRole('button', { name: /Undo/ })).toBeDisabled();
  act(() => useUndo.getState().push({ label: 'Renamed to Rope', undo: () => undefined }));
  expect(screen.getByText('Renamed to Rope')).toBeInTheDocument();
  await user.click(screen.getByRole('button', { name: /Undo/ }));
  expect(undo).toHaveBeenCalledTimes(1);
  expect(screen.getByRole('button', { name: /Redo/ })).toBeDisabled();
  act(() => useUndo.setState({ undone: [{ label: 'Renamed to Rope', undo: () => undefined }] }));
  await user.click(screen.getByRole('button', { name: /Redo/ }));
  expect(redo).toHaveBeenCalledTimes(1);
  await user.click(screen.getByRole('button', { name: 'Remove Tarred rope haul from the tray' }));
  expect(screen.queryByText('Tarred rope haul')).toBeNull();
  await user.click(screen.getByText('performer'));
  await user.click(await screen.findByRole('menuitem', { name: /Pip/ }));
  expect(await screen.findByText('Pip')).toBeInTheDocument();
});

test('an empty cast says where characters come from', async () => {
  const { user } = stand(<Tray onUndo={async () => undefined} onRedo={async () => undefined} />, {
    answers: { 'GET /api/v1/cast': [] },
  });
  await user.click(await screen.findByText('No one yet'));
  expect(await screen.findByText(/Drop a character at Intake/)).toBeInTheDocument();
});

test('the palette goes to places, puts on hand, opens items, and says when nothing is called that', async () => {
  const close = jest.fn();
  const { user, router, server } = stand(<Palette onOpenChange={close} />, {
    answers: { 'GET /api/v1/cast': [member()], 'GET /api/v1/items': LIST, 'PATCH /api/v1/me': {} },
  });
  const field = await screen.findByPlaceholderText(/Name of an item/);
  await user.type(field, 'rope');
  await user.click(await screen.findByRole('option', { name: /Tarred rope haul/ }));
  expect(router.push).toHaveBeenCalledWith('/library?item=haul');
  await user.clear(field);
  await user.type(field, 'winch');
  await user.keyboard('{Enter}');
  expect((await sentTo(server, 'PATCH', '/api/v1/me')).body).toEqual({ performerId: 'winch' });
  await user.clear(field);
  await user.type(field, 'fitting');
  await user.keyboard('{Enter}');
  expect(router.push).toHaveBeenLastCalledWith('/fitting');
  await user.clear(field);
  await user.type(field, 'qqqq');
  expect(await screen.findByText('Nothing found.')).toBeInTheDocument();
  expect(close).toHaveBeenCalledTimes(3);
});

test('the menu of the account changes the theme for good, and signs out', async () => {
  localStorage.clear();
  const { user, router, server } = stand(<AccountMenu onHelp={() => undefined} />, {
    answers: { 'DELETE /api/session': {} },
  });
  const open = () => user.click(screen.getByRole('button', { name: /Ilse/ }));
  await open();
  await user.click(await screen.findByRole('menuitem', { name: 'Daylight (light)' }));
  expect(document.documentElement.dataset.theme).toBe('daylight');
  expect(localStorage.getItem('velvet-theme')).toBe('daylight');
  await open();
  await user.click(await screen.findByRole('menuitem', { name: 'Velvet (dark)' }));
  expect(document.documentElement.dataset.theme).toBe('velvet');
  await open();
  await user.click(await screen.findByRole('menuitem', { name: 'Bin' }));
  expect(router.push).toHaveBeenCalledWith('/library?bin=true');
  await open();
  await user.click(await screen.findByRole('menuitem', { name: 'Sign out' }));
  expect(server.to('DELETE', '/api/session')).toHaveLength(1);
});

test('long work shows from everywhere while it goes on, and only then', async () => {
  const going = job({ counts: { waiting: 2, ready: 5, running: 1, done: 10, refused: 2, cancelled: 0 } });
  const { client } = stand(<JobsChip />, {
    answers: { 'GET /api/v1/jobs': [going, job({ id: 'old', state: 'done' })] },
  });
  expect(await screen.findByRole('link', { name: '12 of 20' })).toHaveAttribute('href', '/intake?job=job1');
  act(() => void client.setQueryData(['jobs'], [{ ...going, state: 'done' }]));
  await waitFor(() => expect(screen.queryByRole('link')).toBeNull());
});

test('the sheet of keys names every place', () => {
  stand(<HelpSheet open onOpenChange={() => undefined} />);
  const sheet = screen.getByRole('dialog');
  for (const place of ['Everywhere', 'Library', 'Fitting']) expect(within(sheet).getByText(place)).toBeInTheDocument();
});

test('one’s own password is changed with the old one, and typed twice', async () => {
  const close = jest.fn();
  const { user, server } = stand(<PasswordDialog onClose={close} />, {
    answers: { 'PUT /api/v1/me/password': new Refused(403, 'The old password is wrong.') },
  });
  const fill = async (label: RegExp | string, text: string): Promise<void> => {
    const field = screen.getByLabelText(label);
    await user.clear(field);
    await user.type(field, text);
  };
  await fill('Old password', 'the tide is low');
  await fill(/^New password, /, 'the tide is rising');
  await fill('New password again', 'the tide is falling');
  await user.click(screen.getByRole('button', { name: 'Change it' }));
  expect(screen.getByRole('alert')).toHaveTextContent('The two new passwords differ.');
  expect(server.to('PUT', '/api/v1/me/password')).toHaveLength(0);
  await fill('New password again', 'the tide is rising');
  await user.click(screen.getByRole('button', { name: 'Change it' }));
  expect(await screen.findByText('The old password is wrong.')).toBeInTheDocument();
  server.answer({ 'PUT /api/v1/me/password': {} });
  await user.click(screen.getByRole('button', { name: 'Change it' }));
  await waitFor(() => expect(close).toHaveBeenCalled());
  expect(server.to('PUT', '/api/v1/me/password').at(-1)!.body).toEqual({
    old: 'the tide is low',
    password: 'the tide is rising',
  });
});
