import { expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { useUndo } from '@/client/undo';
import { pick, Refused, sentTo, stand, told } from '@/test/interface';
import { personRow } from '@/test/things';
import { PeoplePlace } from './people-place';

const PEOPLE = [
  personRow(),
  personRow({ id: 'bram', name: 'Bram', email: 'bram@ferry.example', role: 'animator' }),
  personRow({ id: 'old', name: 'Old Hand', email: 'old@ferry.example', role: 'viewer', left: true }),
];
const TAGS = [
  { id: 't1', name: 'rope', colour: 'plain', synonyms: ['line'], n: 4 },
  { id: 't2', name: 'walk', colour: 'brass', synonyms: [], n: 11 },
];
const FIELDS = [
  { id: 'c1', name: 'Deck', type: 'choice', options: ['upper', 'lower'] },
  { id: 'c2', name: 'Take', type: 'number', options: [] },
];
const answers = {
  'GET /api/v1/people': PEOPLE,
  'GET /api/v1/requests': [],
  'GET /api/v1/tokens': [],
  'GET /api/v1/tags': TAGS,
  'GET /api/v1/fields': FIELDS,
};
const place = (more: Record<string, unknown> = {}, role: 'viewer' | 'animator' | 'librarian' | 'admin' = 'admin') =>
  stand(<PeoplePlace />, { answers: { ...answers, ...more }, me: { role } });

test('people are listed with what they may do; whoever has left is counted out', async () => {
  place();
  expect(await screen.findByText('2 can sign in')).toBeInTheDocument();
  expect(screen.getByText('you')).toBeInTheDocument();
  expect(screen.getByText('has left')).toBeInTheDocument();
  expect(screen.getByText(/viewer: looks, plays, exports/)).toBeInTheDocument();
});

test('a role is changed as a step that goes back', async () => {
  const { user, server } = place({ 'PATCH /api/v1/people/bram': {} });
  await pick(user, 'Role of Bram', 'librarian');
  expect((await sentTo(server, 'PATCH', '/api/v1/people/bram')).body).toEqual({ role: 'librarian' });
  await waitFor(() => expect(useUndo.getState().steps.at(-1)?.label).toBe('Bram is librarian now'));
  await useUndo.getState().steps.at(-1)!.undo();
  expect(server.to('PATCH', '/api/v1/people/bram').at(-1)!.body).toEqual({ role: 'animator' });
});

test('the last admin cannot be shut out, and the page says what the server said', async () => {
  const { user } = place({ 'PATCH /api/v1/people/me': new Refused(409, 'Somebody has to stay admin.') });
  await user.click((await screen.findAllByRole('button', { name: 'Remove access' }))[0]!);
  expect(await told('Somebody has to stay admin.')).toBeInTheDocument();
  expect(useUndo.getState().steps).toHaveLength(0);
});

test('whoever has left can be let in again', async () => {
  const { user, server } = place({ 'PATCH /api/v1/people/old': {} });
  await user.click(await screen.findByRole('button', { name: 'Let back in' }));
  expect((await sentTo(server, 'PATCH', '/api/v1/people/old')).body).toEqual({ left: false });
  expect(screen.queryByRole('combobox', { name: 'Role of Old Hand' })).toBeNull();
});

test('somebody is let in; a name that is taken is told and the form stays filled', async () => {
  const { user, server } = place({ 'POST /api/v1/people': new Refused(409, 'That address has an account.') });
  await user.click(await screen.findByRole('button', { name: 'Add a person' }));
  const dialog = await screen.findByRole('dialog');
  await user.type(within(dialog).getByLabelText('Name'), 'Noor');
  await user.type(within(dialog).getByLabelText('E-mail address'), 'noor@ferry.example');
  await user.selectOptions(within(dialog).getByLabelText('Role'), 'viewer');
  await user.type(within(dialog).getByLabelText(/First password/), 'the tide turns');
  await user.click(within(dialog).getByRole('button', { name: 'Create the account' }));
  expect(await told('That address has an account.')).toBeInTheDocument();
  expect(within(dialog).getByLabelText<HTMLInputElement>('Name').value).toBe('Noor');
  server.answer({ 'POST /api/v1/people': {} });
  await user.click(within(dialog).getByRole('button', { name: 'Create the account' }));
  expect(await told('Noor can sign in now')).toBeInTheDocument();
  expect(server.to('POST', '/api/v1/people').at(-1)!.body).toEqual({
    name: 'Noor',
    email: 'noor@ferry.example',
    role: 'viewer',
    password: 'the tide turns',
  });
  await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull());
});

test('a new password is set and is no step that could be taken back', async () => {
  const { user, server } = place({ 'PATCH /api/v1/people/bram': {} });
  await user.click((await screen.findAllByRole('button', { name: 'Password' }))[1]!);
  const dialog = await screen.findByRole('dialog', { name: 'How Bram signs in' });
  await user.type(within(dialog).getByLabelText(/at least 10 characters/), 'a new tide rises');
  await user.click(within(dialog).getByRole('button', { name: 'Set password' }));
  expect((await sentTo(server, 'PATCH', '/api/v1/people/bram')).body).toEqual({ password: 'a new tide rises' });
  expect(useUndo.getState().steps).toHaveLength(0);
});

test('only admins see what manages people and out', async () => {
  place({}, 'librarian');
  expect(await screen.findByText('Bram')).toBeInTheDocument();
  expect(screen.queryByRole('button', { name: 'Add a person' })).toBeNull();
  expect(screen.queryByRole('button', { name: 'Remove access' })).toBeNull();
});

test('what was asked for is granted or refused by a librarian; others do not even ask the server', async () => {
  const asked = [{ id: 'q1', folderName: 'Harbour', personName: 'Noor', note: 'night shift' }];
  const { user, server } = place({ 'GET /api/v1/requests': asked, 'POST /api/v1/requests/q1': {} }, 'librarian');
  expect(await screen.findByText('night shift')).toBeInTheDocument();
  await user.click(screen.getByRole('button', { name: 'Refuse' }));
  expect((await sentTo(server, 'POST', '/api/v1/requests/q1')).body).toEqual({ grant: false });
  await user.click(screen.getByRole('button', { name: 'Grant' }));
  await waitFor(() => expect(server.to('POST', '/api/v1/requests/q1').at(-1)!.body).toEqual({ grant: true }));
  const animator = place({ 'GET /api/v1/requests': asked }, 'animator');
  await screen.findByText('Bram');
  expect(animator.server.to('GET', '/api/v1/requests')).toHaveLength(0);
});

test('a key is made, shown once, and its field is empty again; it is revoked at once', async () => {
  const keys = [{ id: 'k1', name: 'night robot', scope: 'read', expiresAt: null, starts: 'vr_abc', lastUsedAt: null }];
  const { user, server } = place({
    'GET /api/v1/tokens': keys,
    'POST /api/v1/tokens': { token: 'vr_secret' },
    'DELETE /api/v1/tokens/k1': new Refused(500, 'The database is away.'),
  });
  expect(await screen.findByText('reads only · without end · never used')).toBeInTheDocument();
  const field = screen.getByLabelText<HTMLInputElement>('Name of a new key');
  await user.type(field, 'day robot{Enter}');
  expect(await screen.findByText('vr_secret')).toBeInTheDocument();
  expect((await sentTo(server, 'POST', '/api/v1/tokens')).body).toEqual({
    name: 'day robot',
    scope: 'read',
    days: 180,
  });
  expect(field.value).toBe('');
  await user.keyboard('{Escape}');
  await waitFor(() => expect(screen.queryByText('vr_secret')).toBeNull());
  await user.click(screen.getByRole('button', { name: 'Revoke' }));
  expect(await told('The database is away.')).toBeInTheDocument();
  server.answer({ 'DELETE /api/v1/tokens/k1': {} });
  await user.click(screen.getByRole('button', { name: 'Revoke' }));
  await waitFor(() => expect(server.to('GET', '/api/v1/tokens').length).toBeGreaterThan(2));
});

test('a tag gets another colour and other words, each a step back', async () => {
  const { user, server } = place({ 'PATCH /api/v1/tags/t1': { ...TAGS[0] } });
  const colours = await screen.findByRole('group', { name: 'Colour of rope' });
  expect(within(colours).getByRole('button', { name: 'plain' })).toHaveAttribute('aria-pressed', 'true');
  await user.click(within(colours).getByRole('button', { name: 'verdigris' }));
  expect((await sentTo(server, 'PATCH', '/api/v1/tags/t1')).body).toEqual({ colour: 'verdigris' });
  const words = screen.getByLabelText('Synonyms of rope');
  await user.clear(words);
  await user.type(words, 'line, , hawser {Enter}');
  await waitFor(() =>
    expect(server.to('PATCH', '/api/v1/tags/t1').at(-1)!.body).toEqual({ synonyms: ['line', 'hawser'] }),
  );
  await waitFor(() => expect(useUndo.getState().steps).toHaveLength(2));
  await useUndo.getState().steps.at(-1)!.undo();
  expect(server.to('PATCH', '/api/v1/tags/t1').at(-1)!.body).toEqual({ synonyms: ['line'] });
});

test('a tag renamed to another was merged with it, which says so and is no step', async () => {
  const { user } = place({ 'PATCH /api/v1/tags/t1': { ...TAGS[1] } });
  const name = await screen.findByLabelText('Name of the tag rope');
  await user.clear(name);
  await user.type(name, 'walk{Enter}');
  expect(await told('rope was merged with walk')).toBeInTheDocument();
  expect(useUndo.getState().steps).toHaveLength(0);
});

test('a tag cannot lose its name, and whoever does not curate changes none', async () => {
  const { user, server } = place();
  const name = await screen.findByLabelText('Name of the tag rope');
  await user.clear(name);
  await user.tab();
  expect(server.to('PATCH', '/api/v1/tags/t1')).toHaveLength(0);
  place({}, 'animator');
  expect(await screen.findByLabelText('Name of the tag rope')).toHaveAttribute('readonly');
  expect(
    within(screen.getByRole('group', { name: 'Colour of rope' })).getByRole('button', { name: 'slate' }),
  ).toBeDisabled();
  expect(screen.queryByLabelText('Name of a new field')).toBeNull();
});

test('a field is added, renamed, given choices and removed, each a step back', async () => {
  const { user, server } = place({
    'POST /api/v1/fields': { id: 'c3' },
    'DELETE /api/v1/fields/c3': {},
    'PATCH /api/v1/fields/c1': {},
    'DELETE /api/v1/fields/c2': {},
    'PUT /api/v1/fields/c2': {},
  });
  await user.type(await screen.findByLabelText('Name of a new field'), 'Lens');
  await user.click(screen.getByRole('button', { name: 'Add' }));
  expect((await sentTo(server, 'POST', '/api/v1/fields')).body).toEqual({ name: 'Lens', type: 'text' });
  const choices = screen.getByLabelText('Choices of Deck');
  await user.type(choices, ', hold{Enter}');
  await waitFor(() =>
    expect(server.to('PATCH', '/api/v1/fields/c1').at(-1)?.body).toEqual({ options: ['upper', 'lower', 'hold'] }),
  );
  const name = screen.getByLabelText('Name of the field Deck');
  await user.clear(name);
  await user.type(name, 'Level{Enter}');
  await waitFor(() => expect(server.to('PATCH', '/api/v1/fields/c1').at(-1)?.body).toEqual({ name: 'Level' }));
  await waitFor(() =>
    expect(useUndo.getState().steps.map((s) => s.label)).toContain('Renamed the field Deck to Level'),
  );
  await useUndo.getState().steps.at(-1)!.undo();
  expect(server.to('PATCH', '/api/v1/fields/c1').at(-1)!.body).toEqual({ name: 'Deck' });
  await user.click(screen.getByRole('button', { name: /^Remove Take/ }));
  await waitFor(() => expect(useUndo.getState().steps.at(-1)?.label).toBe('Removed the field Take'));
  await useUndo.getState().steps.at(-1)!.undo();
  expect(server.to('PUT', '/api/v1/fields/c2').at(-1)!.body).toEqual({ name: 'Take', type: 'number', options: [] });
});

test('one sees where one is signed in, and signs out there', async () => {
  const at = '2026-11-20T10:00:00.000Z';
  const session = (id: string, own: boolean, browser: string) => ({ id, own, browser, since: at, usedAt: at });
  const { user, server } = place({
    'GET /api/v1/me/sessions': [
      session('s1', true, 'Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0'),
      session(
        's2',
        false,
        'Mozilla/5.0 (Windows NT 10.0) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/130 Safari/537.36 Edg/130',
      ),
    ],
    'DELETE /api/v1/me/sessions/s2': {},
    'DELETE /api/v1/me/sessions': {},
  });
  expect(await screen.findByText('Firefox on Linux')).toBeInTheDocument();
  expect(screen.getByText('Edge on Windows')).toBeInTheDocument();
  await user.click(screen.getByRole('button', { name: 'Sign out there' }));
  await sentTo(server, 'DELETE', '/api/v1/me/sessions/s2');
  await user.click(screen.getByRole('button', { name: 'Sign out everywhere else' }));
  await sentTo(server, 'DELETE', '/api/v1/me/sessions');
});

test('admins read the audit, narrowed and further back; others do not see it', async () => {
  const entry = (seq: number) => ({
    seq,
    at: '2026-11-20T10:00:00.000Z',
    personId: 'me',
    personName: 'Ilse',
    what: 'exported',
    about: `file ${seq}`,
  });
  const { user, server } = place({
    'GET /api/v1/audit': ({ path }: { path: string }) =>
      path.includes('before=51') ? [entry(50)] : Array.from({ length: 50 }, (_, i) => entry(100 - i)),
  });
  expect(await screen.findByText('file 100')).toBeInTheDocument();
  await user.click(screen.getByRole('button', { name: 'Older entries' }));
  expect(await screen.findByText('file 50')).toBeInTheDocument();
  await pick(user, 'Kind of entry', 'exported');
  await waitFor(() => expect(server.sent.some((s) => s.path.includes('/audit?what=exported'))).toBe(true));
  expect(screen.getByRole('link', { name: /as JSON lines/ })).toHaveAttribute(
    'href',
    '/api/v1/audit/lines?what=exported',
  );
  place({}, 'animator');
  await screen.findByText('Bram');
  expect(screen.queryByRole('region', { name: 'Audit' })).toBeNull();
});
