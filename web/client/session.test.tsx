import { expect, jest, test } from '@jest/globals';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { cleanup, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { FakeServer, Refused, sentTo, stand } from '../test/interface';
import { SessionGate, useChoosePerformer, useMay, useMe } from './session';
import { SignIn } from './sign-in';

/** The gate with nobody signed in yet. */
function knock(answers: Record<string, unknown>) {
  cleanup();
  const server = new FakeServer(answers);
  render(
    <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
      <SessionGate>
        <p>inside</p>
      </SessionGate>
    </QueryClientProvider>,
  );
  return { server, user: userEvent.setup() };
}

test('whoever is known comes straight in', async () => {
  knock({ 'GET /api/session': { me: { id: 'a', name: 'Ilse', role: 'viewer', email: null, performerId: null } } });
  expect(screen.getByText('Opening the library …')).toBeInTheDocument();
  expect(await screen.findByText('inside')).toBeInTheDocument();
});

test('a server that cannot be reached is told, and can be tried again', async () => {
  const { server, user } = knock({ 'GET /api/session': new Refused(503, 'The database is starting.') });
  expect(await screen.findByRole('alert')).toHaveTextContent('The database is starting.');
  server.answer({ 'GET /api/session': { me: null } });
  await user.click(screen.getByRole('button', { name: 'Try again' }));
  expect(await screen.findByRole('heading', { name: 'Sign in' })).toBeInTheDocument();
});

test('a wrong password is told and the form can be used again; the right one lets in', async () => {
  const { server, user } = knock({
    'GET /api/session': { me: null },
    'POST /api/session': new Refused(401, 'Address and password do not go together.'),
  });
  await screen.findByRole('heading', { name: 'Sign in' });
  await user.type(screen.getByLabelText('E-mail address'), 'ilse@ferry.example');
  await user.type(screen.getByLabelText('Password'), 'wrong');
  await user.click(screen.getByRole('button', { name: 'Sign in' }));
  expect(await screen.findByRole('alert')).toHaveTextContent('do not go together');
  const again = screen.getByRole('button', { name: 'Sign in' });
  expect(again).toBeEnabled();
  server.answer({
    'POST /api/session': {},
    'GET /api/session': { me: { id: 'a', name: 'Ilse', role: 'viewer', email: null, performerId: null } },
  });
  await user.click(again);
  expect(await screen.findByText('inside')).toBeInTheDocument();
  expect(server.to('POST', '/api/session').at(-1)!.body).toEqual({ email: 'ilse@ferry.example', password: 'wrong' });
});

test('in the demo world its people are offered, nowhere else', async () => {
  const come = jest.fn();
  const { user, server } = stand(
    <SignIn
      door={{ me: null, demo: [{ name: 'Bram Teal', email: 'bram@x.example', role: 'librarian' }] }}
      onIn={come}
    />,
    { answers: { 'POST /api/session': {} } },
  );
  await user.click(screen.getByRole('button', { name: /Bram Teal/ }));
  expect((await sentTo(server, 'POST', '/api/session')).body).toEqual({ demo: 'bram@x.example' });
  expect(come).toHaveBeenCalledTimes(1);
  stand(<SignIn door={{ me: null }} onIn={come} />);
  expect(screen.queryByRole('region', { name: 'Demo accounts' })).toBeNull();
});

test('the first account asks for a name and says what it means', async () => {
  const { user, server } = stand(<SignIn door={{ me: null, first: true }} onIn={() => undefined} />, {
    answers: { 'POST /api/session': {} },
  });
  expect(screen.getByText(/the admin’s, who can then add everybody else/)).toBeInTheDocument();
  await user.type(screen.getByLabelText(/Set-up code/), 'ABCD-1234');
  await user.type(screen.getByLabelText('Name'), 'Ilse');
  await user.type(screen.getByLabelText('E-mail address'), 'ilse@ferry.example');
  await user.type(screen.getByLabelText(/at least 10 characters/), 'the tide is high');
  await user.click(screen.getByRole('button', { name: 'Create it and sign in' }));
  expect((await sentTo(server, 'POST', '/api/session')).body).toEqual({
    first: { code: 'ABCD-1234', name: 'Ilse', email: 'ilse@ferry.example', password: 'the tide is high' },
  });
});

const ROLES = ['viewer', 'animator', 'librarian', 'admin'] as const;
function Rights() {
  const may = [useMay('viewer'), useMay('animator'), useMay('librarian'), useMay('admin')];
  return <p>{ROLES.filter((_, i) => may[i]).join(' ')}</p>;
}

test.each([
  ['viewer', 'viewer'],
  ['animator', 'viewer animator'],
  ['librarian', 'viewer animator librarian'],
  ['admin', 'viewer animator librarian admin'],
] as const)('a %s may do what these may: %s', (role, may) => {
  stand(<Rights />, { me: { role } });
  expect(screen.getByText(may)).toBeInTheDocument();
});

function Chooser() {
  const choose = useChoosePerformer();
  return (
    <button type="button" onClick={() => choose('tove')}>
      {useMe().performerId ?? 'nobody'}
    </button>
  );
}

test('a performer is on hand at once, before the server has answered', async () => {
  const { user, server } = stand(<Chooser />, { answers: { 'PATCH /api/v1/me': () => new Promise(() => undefined) } });
  await user.click(screen.getByText('nobody'));
  expect(screen.getByText('tove')).toBeInTheDocument();
  expect((await sentTo(server, 'PATCH', '/api/v1/me')).body).toEqual({ performerId: 'tove' });
});
